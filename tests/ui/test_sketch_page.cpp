#include "app/main_window.h"
#include "app/plate/plate_view.h"
#include "app/sketch/sketch_canvas.h"
#include "app/sketch/sketch_page.h"
#include "app/workbench.h"
#include "board/board_files.h"
#include "board/sketch/beep_nets.h"
#include "demo/board_photo_render.h"
#include "rail/copper_network.h"
#include "ui/test_ui.h"

#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QTemporaryDir>
#include <QTest>
#include <cmath>

using namespace ustor;

namespace {

QString demoFolder() {
    return qEnvironmentVariable("USTOR_DEMO_BOARDS") + "/..";
}

/// The bench that the sketch is made at: the real board, which answers beeps and carries the short.
struct RealBoard {
    Board board = readBoardFiles({(demoFolder() + "/boards/wind-hub.board.json").toStdString()}).value();
    std::map<std::string, std::string> real; ///< designators of the sketch, to the board's own

    NetIndex netAt(const std::string& place) const {
        const auto dot = place.find('.');
        return board.pad(*board.findPad(real.at(place.substr(0, dot)) + place.substr(dot))).net;
    }
    bool beeps(const std::string& a, const std::string& b) const { return netAt(a) == netAt(b); }
};

void stampAll(SketchPage& page, RealBoard& bench, Side side) {
    while (page.sketch().photos.back().side != side)
        page.turnOver();
    for (const Part& part : bench.board.parts) {
        if (part.side != side || part.package.starts_with("CON")) continue;
        page.chooseClass(part.partClass);
        page.chooseCase(QString::fromStdString(part.package));
        const std::size_t before = page.sketch().stamps.size();
        page.stampAt(part.centre);
        QVERIFY2(page.sketch().stamps.size() == before + 1, part.designator.c_str());
        bench.real[page.sketch().stamps.back().designator] = part.designator;
    }
}

} // namespace

// Two photos that ship with the demo, corners clicked where the camera saw them, parts stamped, beeps
// answered as asked; then a case on that board, and millivolts of the real copper, of which the sketch knows
// nothing.
void TestSketchPage::fromTwoPhotosToAShort() {
    const QTemporaryDir folder;
    MainWindow window(std::move(Casebook::open(folder.path().toStdString()).value()));
    window.show();
    window.openSketch("Wind sensor hub");
    SketchPage& page = window.sketch();
    RealBoard bench;
    page.addPhoto(Side::Top, demoFolder() + "/photos/wind-hub-top.png");
    for (const PixelPoint corner : photographed(bench.board, Side::Top).corners)
        page.clickCorner(corner);
    page.setLength("62");
    QCOMPARE(page.sketch().photos.size(), std::size_t(1));
    QVERIFY2(std::fabs(page.sketch().photos[0].height_mm - 38) < 0.3,
             qPrintable(QString::number(page.sketch().photos[0].height_mm)));
    stampAll(page, bench, Side::Top);
    page.addPhoto(Side::Bottom, demoFolder() + "/photos/wind-hub-bottom.png");
    for (const PixelPoint corner : photographed(bench.board, Side::Bottom).corners)
        page.clickCorner(corner);
    QCOMPARE(page.sketch().photos.size(), std::size_t(2)); // its size is known from the first
    stampAll(page, bench, Side::Bottom);

    // Names where a person knows them, then what the page asks.
    const auto nameOne = [&](const char* place, const char* net) {
        for (const auto& [mine, real] : bench.real)
            if (real == place) {
                page.pickPad(QString::fromStdString(mine) + (std::string(net) == "GND"    ? ".2"
                                                             : std::string(place) == "L1" ? ".2"
                                                                                          : ".1"));
                page.nameNet(net);
            }
    };
    nameOne("C2", "GND");
    nameOne("L1", "+5V");
    int beeps = 0;
    const auto netOnes = [&] {
        const Board made = boardOf(page.sketch());
        return made.findNet("+5V") < 0 ? std::size_t(0)
                                       : stretchOf(made, made.findNet("+5V")).suspects.size();
    };
    constexpr int tenMinutes = 150; // at four seconds a beep
    while (beeps < tenMinutes && netOnes() < 15 && !page.proposedA().isEmpty()) {
        page.answer(bench.beeps(page.proposedA().toStdString(), page.proposedB().toStdString()));
        ++beeps;
    }
    qInfo("%d beeps for %zu parts; %zu could short the rail", beeps, page.sketch().stamps.size(), netOnes());
    QVERIFY(netOnes() >= 15);
    QVERIFY(window.findChild<QLabel*>("sketchClash")->text().isEmpty());

    window.findChild<QPushButton*>("sketchCase")->click();
    CaseSession* session = window.workbench().session();
    QVERIFY(session);
    QCOMPARE(session->board().photos.size(), std::size_t(2));
    QVERIFY(session->add(RailChosen{"+5V"}).ok());
    const std::string hidden = "C10";
    const CopperNetwork copper =
        copperNetwork(bench.board, stretchOf(bench.board, bench.board.findNet("+5V"))).value();
    std::vector<double> amps(static_cast<std::size_t>(copper.network.nodes()), 0.0);
    const auto nodeOf = [&](const std::string& place) {
        return static_cast<std::size_t>(copper.nodeOf(*bench.board.findPad(place)));
    };
    amps[nodeOf("L1.2")] = 2;
    amps[nodeOf(hidden + ".1")] = -2;
    const auto volts = copper.network.solve(amps, static_cast<int>(nodeOf(hidden + ".1"))).value();
    std::string next;
    for (const auto& [mine, real] : bench.real)
        if (real == "L1") next = mine + ".2";
    const std::string inject = next;
    for (int n = 0; n < 6; ++n) {
        const auto dot = next.find('.');
        const double v = 0.08 + volts[nodeOf(bench.real.at(next.substr(0, dot)) + next.substr(dot))];
        QVERIFY(session->add(MillivoltTaken{next, "", std::round(v * 1e5) / 1e5, 1e-5, 2, inject, ""}).ok());
        const auto& along = session->assessment().along;
        QVERIFY2(along.has_value(), session->assessment().alongTrouble.text().c_str());
        if (!along->finding.readNext) break;
        next = session->board().placeOf(*along->finding.readNext);
    }
    bool amongThree = false;
    for (std::size_t i = 0; i < 3; ++i)
        amongThree |= bench.real[session->board()
                                     .parts[session->assessment().along->finding.candidates[i].part]
                                     .designator] == hidden;
    QVERIFY(amongThree);
    // The photo lies under the board.
    QVERIFY(!window.workbench().board().grab().isNull());
}

void TestSketchPage::wrongInputIsTold() {
    const QTemporaryDir folder;
    MainWindow window(std::move(Casebook::open(folder.path().toStdString()).value()));
    window.show();
    window.openSketch("x");
    SketchPage& page = window.sketch();
    const auto* said = window.findChild<QLabel*>("sketchSaid");
    page.stampAt({1, 1});
    QVERIFY(said->text().contains("photo"));
    page.addPhoto(Side::Top, demoFolder() + "/boards/chart-plotter.356");
    QVERIFY(said->text().contains("cannot be read"));
    page.addPhoto(Side::Top, demoFolder() + "/photos/wind-hub-top.png");
    for (const PixelPoint p : {PixelPoint{0, 0}, {100, 100}, {100, 0}, {0, 100}})
        page.clickCorner(p);
    page.setLength("62");
    QVERIFY(said->text().contains("corners") && page.sketch().photos.empty());
    page.setLength("wide");
    QVERIFY(said->text().contains("wide"));
    window.findChild<QPushButton*>("sketchCase")->click();
    QVERIFY(window.workbench().session() == nullptr);
    page.undo();
    QVERIFY(said->text().contains("Nothing to undo"));
}
