#include "board/board_files.h"
#include "rail/stretch.h"
#include "reference/test_reference.h"
#include "support/registry_boards.h"

#include <QDir>
#include <QFile>
#include <QFileInfo>
#include <QImage>
#include <QImageReader>
#include <QProcess>
#include <QStandardPaths>
#include <QTemporaryDir>
#include <QTest>
#include <cmath>

using namespace ustor;

namespace {

/// A board that nobody here drew, written by an independent program: the tutorial board in the documentation
/// of a general-purpose open-source layout editor from the distribution's packages. False when it cannot be
/// had.
bool exportTutorialBoard(const QTemporaryDir& folder) {
    const QString source = "/usr/share/doc/pcb-rnd/tutorial/15_no_sch/step6.lht.gz";
    if (QStandardPaths::findExecutable("pcb-rnd").isEmpty() || !QFile::exists(source)) return false;
    QProcess unpack;
    unpack.setStandardOutputFile(folder.filePath("board.lht"));
    unpack.start("zcat", {source});
    if (!unpack.waitForFinished()) return false;
    QProcess editor;
    editor.setWorkingDirectory(folder.path());
    for (const QStringList& exporter : {QStringList{"-x", "IPC-D-356", "board.lht"},
                                        QStringList{"-x", "XY", "--xy-unit", "mm", "board.lht"},
                                        QStringList{"-x", "gerber", "--all-layers", "board.lht"},
                                        QStringList{"-x", "excellon", "board.lht"}}) {
        editor.start("pcb-rnd", exporter);
        if (!editor.waitForFinished(60000)) return false;
    }
    return QFile::exists(folder.filePath("board.net")) && QFile::exists(folder.filePath("board.xy"));
}

/// Square millimetres that an independent viewer paints of a layer, counted in its picture.
double paintedArea_mm2(const QString& layer, const QTemporaryDir& folder) {
    constexpr int perInch = 2400; // it draws whole pixels: below this, lines come out too thin by a per cent
    const QString picture = folder.filePath("painted.png");
    QProcess viewer;
    viewer.start("gerbv", {"-x", "png", "-D", QString::number(perInch), "-B", "0", "-b", "#000000", "-f",
                           "#ffffffff", "-o", picture, layer});
    if (!viewer.waitForFinished(60000)) return -1;
    QImageReader::setAllocationLimit(0); // some hundred million pixels
    const QImage image = QImage(picture).convertToFormat(QImage::Format_Grayscale8);
    if (image.isNull()) return -1;
    double painted = 0;
    for (int y = 0; y < image.height(); ++y)
        for (int x = 0; x < image.width(); ++x)
            painted += image.constScanLine(y)[x] / 255.0;
    constexpr double pixel_mm = 25.4 / perInch;
    return painted * pixel_mm * pixel_mm;
}

} // namespace

void TestRealBoard::netlistAndCentroidsOfAnIndependentWriter() {
    const QTemporaryDir folder;
    if (!exportTutorialBoard(folder)) QSKIP("the layout editor (package pcb-rnd) is not on this machine");

    const std::string base = folder.path().toStdString();
    const auto read = readBoardFiles({base + "/board.net", base + "/board.xy"});
    QVERIFY2(read.ok(), read.ok() ? "" : read.error().text().c_str());
    const Board& board = read.value();
    // What the editor shows of that board: a regulator, three capacitors, two connectors, nets in, gnd, out.
    QCOMPARE(board.parts.size(), std::size_t(6));
    QVERIFY(board.findNet("in") >= 0 && board.findNet("gnd") >= 0 && board.findNet("out") >= 0);
    QVERIFY(board.nets[board.findNet("gnd")].ground);
    std::size_t pads = 0;
    for (const Part& part : board.parts) {
        pads += part.pads.size();
        // The two files agree on where things are: the centroid lies within the pads' reach.
        BoardPoint middle;
        for (const Pad& pad : part.pads) {
            middle.x_mm += pad.at.x_mm / static_cast<double>(part.pads.size());
            middle.y_mm += pad.at.y_mm / static_cast<double>(part.pads.size());
            QVERIFY(pad.through);
            QVERIFY(pad.hole_mm > 0.5 && pad.hole_mm < 5);
        }
        QVERIFY2(distance_mm(part.centre, middle) < 6, part.designator.c_str());
    }
    QCOMPARE(pads, std::size_t(14));
    // 0.0394 inch of drill is 1.0 mm; the capacitor's pads are 0.2 inch apart.
    const Part& c3 = board.parts[board.findPart("C3")];
    QVERIFY(std::fabs(distance_mm(c3.pads[0].at, c3.pads[1].at) - 5.08) < 0.01);
    QVERIFY(std::fabs(c3.pads[0].hole_mm - 1.0) < 0.01);
    QCOMPARE(stretchOf(board, board.findNet("in")).suspects.size(), std::size_t(4)); // U1, C3, J1, C1
}

void TestRealBoard::copperOfAnIndependentWriter() {
    const QTemporaryDir folder;
    if (!exportTutorialBoard(folder)) QSKIP("the layout editor (package pcb-rnd) is not on this machine");
    std::vector<std::filesystem::path> files{folder.filePath("board.net").toStdString(),
                                             folder.filePath("board.plated.cnc").toStdString()};
    QStringList layers;
    for (const QFileInfo& file : QDir(folder.path()).entryInfoList({"*.copper.*.gbr", "*boundary*.gbr"})) {
        layers << file.filePath();
        files.emplace_back(file.filePath().toStdString());
    }
    const auto read = readBoardFiles(files);
    QVERIFY2(read.ok(), read.ok() ? "" : read.error().text().c_str());
    const Board& board = read.value();
    QCOMPARE(board.copper.size(), std::size_t(4));
    // No layer joins two nets, and what lies on a layer of copper has the net that the netlist gives it.
    for (const BoardWarning& w : board.warnings)
        QVERIFY2(w.what.text().find("joins") == std::string::npos, w.what.text().c_str());
    int onCopper = 0;
    for (const Part& part : board.parts)
        for (const Pad& pad : part.pads)
            for (const CopperLayer& layer : board.copper)
                for (const CopperPiece& piece : layer.pieces) {
                    const BoardPoint rim{pad.at.x_mm + pad.hole_mm / 2 + 0.05, pad.at.y_mm};
                    if (!contains(piece, rim) || pad.net < 0) continue;
                    ++onCopper;
                    QCOMPARE(piece.net, pad.net);
                }
    QVERIFY(onCopper >= 12 * 4); // through pads, on each of four layers
    QVERIFY(board.copper.back().name.find("bottom") != std::string::npos);
    // The editor's board is 5 by 5 inch.
    QVERIFY(std::fabs(board.box().width_mm() - 127) < 0.5 && std::fabs(board.box().height_mm() - 127) < 0.5);

    if (QStandardPaths::findExecutable("gerbv").isEmpty())
        QSKIP("the independent viewer (package gerbv) is missing");
    for (const CopperLayer& layer : board.copper) {
        const double painted = paintedArea_mm2(folder.filePath(QString::fromStdString(layer.name)), folder);
        QVERIFY2(painted > 0, "the viewer painted nothing");
        QVERIFY2(
            std::fabs(area_mm2(layer) / painted - 1) < 0.01,
            qPrintable(QString("%1: %2 of %3").arg(layer.name.c_str()).arg(area_mm2(layer)).arg(painted)));
    }
}

// Boards that others drew with several programs, from a package of the npm registry.
void TestRealBoard::copperOfBoardsFromTheRegistry() {
    const auto boards = testing::registryBoards();
    if (boards.empty()) QSKIP("the boards of the registry were not fetched");
    if (QStandardPaths::findExecutable("gerbv").isEmpty())
        QSKIP("the independent viewer (package gerbv) is missing");
    const QTemporaryDir folder;
    int layers = 0, layer = 0;
    for (const auto& files : boards)
        for (const std::string& file : files.copper) {
            // Every third is enough for each day: of all sixteen the worst was 0.8 % off.
            if (layer++ % 3 != 0) continue;
            const auto read = readBoardFiles({file});
            QVERIFY2(read.ok(), read.ok() ? "" : read.error().text().c_str());
            QCOMPARE(read.value().copper.size(), std::size_t(1));
            const double painted = paintedArea_mm2(QString::fromStdString(file), folder);
            const double ours = area_mm2(read.value().copper.front());
            qInfo("%s, layer %d: %.2f mm2, painted %.2f mm2 (%+.2f %%)", files.name.c_str(), layer, ours,
                  painted, 100 * (ours / painted - 1));
            QVERIFY(painted > 0);
            QVERIFY(std::fabs(ours / painted - 1) < 0.01);
            ++layers;
        }
    QVERIFY(layers >= 4);
}
