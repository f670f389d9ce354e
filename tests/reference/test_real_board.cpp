#include "board/board_files.h"
#include "rail/stretch.h"
#include "reference/test_reference.h"

#include <QDir>
#include <QFile>
#include <QFileInfo>
#include <QProcess>
#include <QStandardPaths>
#include <QTemporaryDir>
#include <QTest>
#include <cmath>

using namespace ustor;

// A board that nobody here drew, written by an independent program: the tutorial board in the documentation
// of a general-purpose open-source layout editor from the distribution's packages, exported by that editor as
// IPC-D-356 and as a centroid list.
void TestRealBoard::netlistAndCentroidsOfAnIndependentWriter() {
    const QString source = "/usr/share/doc/pcb-rnd/tutorial/15_no_sch/step6.lht.gz";
    if (QStandardPaths::findExecutable("pcb-rnd").isEmpty() || !QFile::exists(source))
        QSKIP("the layout editor (package pcb-rnd) is not on this machine");
    QTemporaryDir folder;
    QProcess unpack;
    unpack.setStandardOutputFile(folder.filePath("board.lht"));
    unpack.start("zcat", {source});
    QVERIFY(unpack.waitForFinished());
    QProcess editor;
    editor.setWorkingDirectory(folder.path());
    for (const QStringList& exporter : {QStringList{"-x", "IPC-D-356", "board.lht"},
                                        QStringList{"-x", "XY", "--xy-unit", "mm", "board.lht"}}) {
        editor.start("pcb-rnd", exporter);
        QVERIFY(editor.waitForFinished(60000));
    }
    if (!QFile::exists(folder.filePath("board.net")) || !QFile::exists(folder.filePath("board.xy")))
        QSKIP("the editor exported nothing here");

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
