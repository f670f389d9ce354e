#include "unit/board/test_gerber.h"

#include "base/random.h"
#include "board/gerber/gerber_file.h"
#include "board/gerber/layer_role.h"

#include <QTest>
#include <cmath>
#include <numbers>

using namespace ustor;
using namespace ustor::gerber;

namespace {

constexpr double pi = std::numbers::pi;
const QString head = "%FSLAX46Y46*%\n%MOMM*%\n";

GerberFile readWhole(const QString& body) {
    auto read = readGerber((head + body + "M02*\n").toStdString(), "layer.gbr");
    return read ? std::move(read.value()) : GerberFile{};
}

} // namespace

// Closed forms of plane geometry; the commands as the published layer format specification has them, from
// memory.
void TestGerber::areas_data() {
    QTest::addColumn<QString>("body");
    QTest::addColumn<double>("square_mm");
    const QString flash = "D10*\nX0Y0D03*\n";
    QTest::newRow("circle") << "%ADD10C,2*%" + flash << pi;
    QTest::newRow("circle with hole") << "%ADD10C,2X1*%" + flash << pi * 0.75;
    QTest::newRow("rectangle") << "%ADD10R,2X3*%" + flash << 6.0;
    QTest::newRow("obround") << "%ADD10O,1X3*%" + flash << pi / 4 + 2;
    QTest::newRow("hexagon") << "%ADD10P,2X6*%" + flash << 3 * std::sqrt(3.0) / 2;
    QTest::newRow("flashes that overlap count once") << "%ADD10R,2X2*%D10*X0Y0D03*X1000000D03*" << 6.0;
    QTest::newRow("round stroke") << "%ADD10C,1*%D10*X0Y0D02*X4000000D01*" << 4 + pi / 4;
    QTest::newRow("stroke with a square pen") << "%ADD10R,1X1*%D10*X0Y0D02*X4000000D01*" << 5.0;
    QTest::newRow("slanted stroke with a square pen")
        << "%ADD10R,1X1*%D10*X0Y0D02*X3000000Y3000000D01*" << 7.0;
    QTest::newRow("stroke around a full circle")
        << "%ADD10C,0.2*%D10*G75*X5000000Y0D02*G03*I-5000000J0D01*" << 2 * pi * 5 * 0.2;
    QTest::newRow("region") << "G36*X0Y0D02*X3000000D01*Y2000000D01*X0D01*Y0D01*G37*" << 6.0;
    QTest::newRow("region drawn the other way round")
        << "G36*X0Y0D02*Y2000000D01*X3000000D01*Y0D01*X0D01*G37*" << 6.0;
    QTest::newRow("region of an arc")
        << "G75*G36*X1000000Y0D02*G03*X-1000000Y0I-1000000J0D01*G01*X1000000D01*G37*" << pi / 2;
    QTest::newRow("two contours in a region") << "G36*X0Y0D02*X1000000D01*Y1000000D01*X0D01*Y0D01*"
                                                 "X5000000D02*X6000000D01*Y1000000D01*X5000000D01*Y0D01*G37*"
                                              << 2.0;
    QTest::newRow("clear takes away, dark comes back")
        << "%ADD10R,4X4*%%ADD11R,2X2*%%ADD12R,1X1*%D10*X0Y0D03*%LPC*%D11*X0Y0D03*%LPD*%D12*X0Y0D03*" << 13.0;
    QTest::newRow("step and repeat") << "%ADD10R,1X1*%%SRX3Y2I2J2*%D10*X0Y0D03*%SR*%X9000000Y9000000D03*"
                                     << 7.0;
    QTest::newRow("macro: ring of two circles")
        << "%AMRING*1,1,$1,0,0*1,0,$2,0,0*%%ADD10RING,4X2*%" + flash << 3 * pi;
    QTest::newRow("macro: formulas and variables")
        << "%AMBOX*0 a comment*$3=$1x2*21,1,$3+1,($2-1)/2,0,0,30*%%ADD10BOX,2X5*%" + flash << 10.0;
    QTest::newRow("macro: outline either way round")
        << "%AMTRI*4,1,3,0,0,0,2,4,0,0,0,0*%%ADD10TRI*%" + flash << 4.0;
    QTest::newRow("macro: polygon") << "%AMSIX*5,1,6,0,0,2,15*%%ADD10SIX*%" + flash << 3 * std::sqrt(3.0) / 2;
    QTest::newRow("macro: line") << "%AMLINE*20,1,0.5,0,0,3,4,0*%%ADD10LINE*%" + flash << 2.5;
    // A ring of outer 4 and inner 2 cut by bars of 0.5: the bars' part in the ring by integration.
    const auto bar = [](double r, double w) {
        return w / 2 * std::sqrt(r * r - w * w / 4) + r * r * std::asin(w / 2 / r);
    };
    QTest::newRow("macro: thermal relief")
        << "%AMTHERM*7,0,0,4,2,0.5,0*%%ADD10THERM*%" + flash << 3 * pi - 4 * (bar(2, 0.5) - bar(1, 0.5));
    QTest::newRow("many rings keep their holes")
        << "%ADD10C,2X1*%%SRX20Y10I3J3*%D10*X0Y0D03*%SR*%%ADD11C,1*%D11*X0Y-5000000D03*"
        << 200 * pi * 0.75 + pi / 4;
    QTest::newRow("inches") << "%MOIN*%%ADD10R,1X1*%" + flash << 645.16;
    QTest::newRow("scaled") << "%ADD10R,1X1*%%LS2*%" + flash << 4.0;
    QTest::newRow("comment, name, sequence number") << "G04 X1Y1D03*%LNtop*%N10*%ADD10R,1X1*%" + flash << 1.0;
}

void TestGerber::areas() {
    QFETCH(QString, body);
    QFETCH(double, square_mm);
    const GerberFile file = readWhole(body);
    QVERIFY2(file.warnings.empty(), file.warnings.empty() ? "" : file.warnings[0].what.text().c_str());
    const double found = area_mm2(file.picture());
    QVERIFY2(std::fabs(found / square_mm - 1) < 3e-3,
             qPrintable(QString("%1 not %2").arg(found).arg(square_mm)));
}

void TestGerber::bothQuadrantModesDrawTheSame() {
    // A quarter from (1,0) to (0,1): with signed offsets, and with the unsigned ones of the older mode.
    const QString pen = "%ADD10C,0.1*%D10*X1000000Y0D02*";
    const Paths multi = readWhole(pen + "G75*G03*X0Y1000000I-1000000J0D01*").picture();
    const Paths single = readWhole(pen + "G74*G03*X0Y1000000I1000000J0D01*").picture();
    QVERIFY(std::fabs(area_mm2(multi) - area_mm2(single)) < 1e-6);
    QVERIFY(area_mm2(subtract(multi, single)) < 1e-6);
    QVERIFY(std::fabs(area_mm2(multi) - (pi / 2 * 0.1 + pi * 0.0025)) < 2e-3);
}

void TestGerber::blocksArePlacedTurnedAndMirrored() {
    const QString block =
        "%ABD20*%%ADD10R,2X1*%D10*X2000000Y0D03*%LPC*%%ADD11C,0.5*%D11*X2000000D03*%LPD*%%AB*%";
    const GerberFile file = readWhole(block + "D20*X0Y0D03*%LMX*%%LR90*%X10000000Y0D03*");
    QVERIFY(file.warnings.empty());
    QCOMPARE(file.objects.size(), std::size_t(4));
    QVERIFY(std::fabs(area_mm2(file.picture()) - 2 * (2 - pi / 16)) < 2e-3);
    // Mirrored the box lies at (-2, 0), then turned by a quarter at (0, -2).
    QVERIFY(distance_mm(file.objects[2].at, {10, -2}) < 1e-6);
    QVERIFY(!file.objects[3].dark);
}

void TestGerber::attributesNameNetsAndPins() {
    const GerberFile file =
        readWhole("%TF.FileFunction,Copper,L1,Top*%%TA.AperFunction,SMDPad,CuDef*%%ADD10R,1X1*%%TD*%"
                  "%TO.N,+3V3*%%TO.P,C7,1*%D10*X0Y0D03*%TO.P,C7,2*%%TO.N,GND*%X2000000D03*%TD*%"
                  "X4000000D03*G04 #@! TO.N,LATE*X6000000D03*");
    QVERIFY(file.warnings.empty());
    QCOMPARE(file.objects.size(), std::size_t(4));
    QCOMPARE(file.objects[0].net, std::string("+3V3"));
    QCOMPARE(file.objects[1].net, std::string("GND"));
    QCOMPARE(file.objects[1].part + "." + file.objects[1].pin, std::string("C7.2"));
    QCOMPARE(file.objects[1].function, std::string("SMDPad,CuDef"));
    QVERIFY(file.objects[2].net.empty());
    QCOMPARE(file.objects[3].net, std::string("LATE"));
    const LayerRole role = roleOf(file.attributes, "any.name");
    QVERIFY(role.kind == LayerKind::Copper);
    QCOMPARE(role.number, 1);
}

// Common practice: how layers are named when no attribute tells them.
void TestGerber::rolesOfFiles_data() {
    QTest::addColumn<QString>("name");
    QTest::addColumn<int>("kind");
    QTest::addColumn<int>("number");
    QTest::addColumn<bool>("bottom");
    const int copper = static_cast<int>(LayerKind::Copper), profile = static_cast<int>(LayerKind::Profile),
              other = static_cast<int>(LayerKind::Other);
    const auto row = [](const char* name, int kind, int number, bool bottom) {
        QTest::newRow(name) << QString(name) << kind << number << bottom;
    };
    row("board.GTL", copper, 1, false);
    row("board.gbl", copper, 0, true);
    row("board.g2", copper, 3, false);
    row("board.gko", profile, 0, false);
    row("board.gts", other, 0, false);
    row("board-F_Cu.gbr", copper, 1, false);
    row("board-In2_Cu.gbr", copper, 3, false);
    row("board-B_Cu.gbr", copper, 0, true);
    row("board-Edge_Cuts.gbr", profile, 0, false);
    row("board-F_Mask.gbr", other, 0, false);
    row("b.top.copper.none.3.gbr", copper, 1, false);
    row("b.intern.copper.none.5.gbr", copper, 0, false);
    row("b.bottom.copper.none.10.gbr", copper, 0, true);
    row("b.bottom.mask.none.11.gbr", other, 0, false);
}

void TestGerber::rolesOfFiles() {
    QFETCH(QString, name);
    QFETCH(int, kind);
    QFETCH(int, number);
    QFETCH(bool, bottom);
    const LayerRole role = roleOf({}, name.toStdString());
    QCOMPARE(static_cast<int>(role.kind), kind);
    QCOMPARE(role.number, number);
    QCOMPARE(role.bottom, bottom);
}

void TestGerber::whatCannotBeReadIsToldAndTheRestKept() {
    const auto read = readGerber("%FSLAX46Y46*%\n%MOMM*%\n%ADD10R,1X1*%\n%ADD11NOSUCH,1*%\n%ADD12R,ax1*%"
                                 "\nD10*\nX0Y0D03*\nD99*\nX5000000D03*\n"
                                 "%XX1*%\nQ7*\nG36*\nX0Y0D02*\nX1D01*\n",
                                 "broken.gbr");
    QVERIFY(read.ok());
    QVERIFY(std::fabs(area_mm2(read.value().picture()) - 1) < 1e-9);
    QStringList lines;
    for (const auto& w : read.value().warnings)
        lines << QString::fromStdString(w.where).section(':', 1);
    QVERIFY(lines.contains("4") && lines.contains("5") && lines.contains("9") && lines.contains("10") &&
            lines.contains("11"));
    QVERIFY(!readGerber("nothing of the kind", "text.gbr").ok());
    QVERIFY(!readGerber("", "empty.gbr").ok());
}

// Ten thousand edges from anywhere to anywhere cross some sixteen million times: a third of all pairs, as
// chords of random points in a square do. One slip of a drawing program is no reason to leave a shape out.
void TestGerber::aRegionThatCrossesItselfIsLeftOut() {
    QString scribble = "G36*X0Y0D02*";
    Random random(77);
    for (int i = 0; i < 10000; ++i)
        scribble += QString("X%1Y%2D01*").arg(random.below(100000000)).arg(random.below(100000000));
    scribble += "X0Y0D01*G37*G36*X0Y0D02*X3000000D01*Y2000000D01*X0D01*Y0D01*G37*";
    const GerberFile read = readWhole(scribble);
    QVERIFY(std::any_of(read.warnings.begin(), read.warnings.end(), [](const BoardWarning& w) {
        return w.what.text().find("crosses itself") != std::string::npos && w.where.find("layer.gbr:") == 0;
    }));
    // The one behind it is there: three by two millimetres.
    QVERIFY(std::fabs(area_mm2(read.picture()) - 6) < 0.01);
    const GerberFile bowTie =
        readWhole("G36*X0Y0D02*X2000000Y2000000D01*X2000000Y0D01*X0Y2000000D01*X0Y0D01*G37*");
    QVERIFY(bowTie.warnings.empty());
    QVERIFY(std::fabs(area_mm2(bowTie.picture()) - 2) < 0.01); // two triangles of one square millimetre
}

void TestGerber::hostileInputNeverCrashes() {
    const QString whole =
        head + "%AMA*1,1,$1x2,0,0*4,1,3,0,0,0,2,4,0,0,0,0*7,0,0,4,2,0.5,0*%%ADD10A,1*%%ADD11C,1*%"
               "%ABD20*%D11*X0Y0D03*%AB*%D20*X1Y1D03*%SRX2Y2I1J1*%D10*X0Y0D03*%SR*%G75*G02*X5Y5I1J1D01*"
               "G36*X0Y0D02*X3000000D01*Y2000000D01*X0D01*G37*%LPC*%X1D03*M02*";
    Random random(11);
    for (int round = 0; round < 500; ++round) {
        std::string text = whole.toStdString();
        for (int hits = 1 + random.below(6); hits > 0; --hits) {
            const auto at = static_cast<std::size_t>(random.below(static_cast<int>(text.size())));
            if (random.uniform() < 0.3)
                text.erase(at, static_cast<std::size_t>(random.below(20)));
            else
                text[at] = "%*XYDGM0123456789.-+$x(,"[random.below(23)];
            if (text.empty()) break;
        }
        const auto read = readGerber(text, "hostile.gbr");
        if (read && read.value().objects.size() < 2000) QVERIFY(area_mm2(read.value().picture()) >= 0);
    }
}
