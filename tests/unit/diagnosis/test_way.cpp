#include "diagnosis/assess.h"
#include "support/boards.h"
#include "support/facts.h"
#include "unit/diagnosis/test_diagnosis.h"

#include <QTest>
#include <algorithm>
#include <set>

using namespace ustor;
using testing::factsOf;
using testing::ohms;
using testing::volts;

namespace {

double oddsWhere(const Assessment& a, const std::function<bool(const Fault&)>& is) {
    double odds = 0;
    for (const Hypothesis& h : a.belief.hypotheses)
        if (std::any_of(h.causes.begin(), h.causes.end(), is)) odds += h.odds;
    return odds;
}
double open(const Assessment& a, const char* part) {
    const PartIndex p = a.state.board.findPart(part);
    return oddsWhere(a, [p](const Fault& f) { return f.kind == FaultKind::Open && f.part == p; });
}
double cause(const Assessment& a, const char* part) {
    return a.belief.cause[static_cast<std::size_t>(a.state.board.findPart(part))];
}

/// The demo board with a branch of its own for a display: behind the main rail, through a small fuse.
Board withDisplay() {
    Board board = testing::demoBoard("chart-plotter");
    testing::addNet(board, "BL");
    testing::addChip(board, "F9", PartClass::Fuse, {50, 60}, "VMAIN_12V", "BL", 1.6, 0.8);
    for (const char* name : {"C98", "C99"})
        testing::addChip(board, name, PartClass::CeramicCapacitor, {54, 60}, "BL", "GND");
    testing::addChip(board, "J9", PartClass::Connector, {60, 60}, "BL", "+3V3", 5, 3);
    return board;
}

std::vector<FactBody> with(std::vector<FactBody> bodies, const std::vector<FactBody>& more) {
    bodies.insert(bodies.end(), more.begin(), more.end());
    return bodies;
}

} // namespace

// Kirchhoff's current law: the current of a short flows through what lies between it and the plug, and
// through nothing else. A fuse in another branch is no victim of it; a burnt one tells of what is behind it
// (common practice: look behind).
void TestWay::aFuseBehindTheShortIsNoVictim() {
    const Board board = withDisplay();
    const std::vector<FactBody> down{Complaint{"dead"}, ohms("F9.1", 0.3)};
    const Assessment a = assess(board, factsOf(down), {});
    QVERIFY(open(a, "F1") > 5 * open(a, "F9"));
    QVERIFY(a.belief.victim[static_cast<std::size_t>(board.findPart("F9"))] < 0.01);
    // Both rails read the same through the fuse: the capacitors before it are as likely as those behind it.
    const char* before = "C2"; // an input capacitor of the main rail
    QVERIFY(cause(a, "C98") < 2 * cause(a, before));
    const Assessment burnt = assess(board, factsOf(with(down, {Seen{"F9", Damage::Burnt, ""}})), {});
    QVERIFY(cause(burnt, "C98") > 10 * cause(burnt, before));
}

// Volts that stand behind a fuse went through it.
void TestWay::voltsBehindAFuseAcquitIt() {
    const Board board = withDisplay();
    const std::vector<FactBody> plugged{Complaint{"dead"}, SourceShows{12, 0, "", Reaction::None}};
    const Assessment before = assess(board, factsOf(plugged), {});
    const Assessment behind = assess(board, factsOf(with(plugged, {volts("F1.2", 12)})), {});
    const Assessment none = assess(board, factsOf(with(plugged, {volts("F1.1", 12), volts("F1.2", 0)})), {});
    QVERIFY(open(behind, "F1") < 0.2 * open(before, "F1"));
    QVERIFY2(open(none, "F1") > 0.8, qPrintable(QString::number(open(none, "F1"))));
}

// Ohm's law: a sound coil has one voltage on both its ends but for millivolts. A switch node that is up
// before an output that is not is the picture of a cracked one (common practice); a meter across it settles
// it.
void TestWay::anOpenCoilShowsOnItsTwoSides() {
    const Board board = testing::demoBoard("chart-plotter");
    const std::vector<FactBody> missing{Complaint{"dead"},  SourceShows{12, 0.05, "", Reaction::None},
                                        ohms("C1.1", 3000), ohms("L1.2", 700),
                                        ohms("L2.2", 600),  volts("C1.1", 12),
                                        volts("L2.2", 3.3), volts("L1.2", 0)};
    const Assessment one = assess(board, factsOf(missing), {});
    const Assessment both = assess(board, factsOf(with(missing, {volts("L1.1", 5)})), {});
    QVERIFY2(open(both, "L1") > 3 * open(one, "L1"),
             qPrintable(QString("%1 %2").arg(open(one, "L1")).arg(open(both, "L1"))));
    const ReadingTaken across{"L1.1", "L1.2", {MeterMode::Ohms, ReadingState::OverRange, 0, 0}};
    const Assessment told = assess(board, factsOf(with(missing, {volts("L1.1", 5), across})), {});
    QVERIFY2(open(told, "L1") > 0.8, qPrintable(QString::number(open(told, "L1"))));
    // The same twice over, on a coil that is whole, is no news.
    const Assessment whole = assess(board, factsOf(with(missing, {volts("L1.1", 0)})), {});
    QVERIFY(open(whole, "L1") < 2 * open(one, "L1"));
}

// Common practice: several rails down from one chip are one fault, and the chip that is common to all comes
// before the capacitors of each.
void TestWay::aChipThatTakesSeveralRails() {
    const Board board = testing::demoBoard("chart-plotter");
    const std::vector<FactBody> free{Complaint{"dead"}, ohms("C1.1", 3000), ohms("L3.2", 40)};
    const Assessment one = assess(board, factsOf(with(free, {ohms("L2.2", 0.5), ohms("L1.2", 700)})), {});
    const Assessment two = assess(board, factsOf(with(free, {ohms("L2.2", 0.5), ohms("L1.2", 0.6)})), {});
    double capacitor = 0;
    for (PartIndex p = 0; p < static_cast<PartIndex>(board.parts.size()); ++p)
        if (board.parts[p].partClass == PartClass::CeramicCapacitor)
            capacitor = std::max(capacitor, two.belief.cause[static_cast<std::size_t>(p)]);
    const double common = std::max(cause(two, "U10"), cause(two, "U11"));
    QVERIFY2(common > capacitor, qPrintable(QString("%1 %2").arg(common).arg(capacitor)));
    QVERIFY(cause(two, "U11") > 2 * cause(one, "U11"));
}

// Common practice: what came off is measured on the bench before it goes back. The rail got softer and not
// free without the first, and free without the second: half a minute tells whether the first was one of two.
void TestWay::whatIsOffIsMeasuredByItself() {
    const Board board = testing::smallBoard();
    const std::vector<FactBody> bodies{ohms("C10.1", 0.2), Lifted{"C13"}, ohms("C10.1", 0.9), Lifted{"C14"},
                                       ohms("C10.1", 12000)};
    const auto asks = [](const Assessment& a, const char* part) {
        return std::any_of(a.next.begin(), a.next.end(), [part](const NextMove& m) {
            return m.kind == MoveKind::MeasurePart && m.place == part;
        });
    };
    const Assessment a = assess(board, factsOf(bodies), {});
    QVERIFY(asks(a, "C13"));
    QCOMPARE(a.next.front().kind, MoveKind::MeasurePart);
    const Assessment shorted =
        assess(board, factsOf(with(bodies, {PartMeasured{"C13", true}, PartMeasured{"C14", true}})), {});
    QVERIFY(cause(shorted, "C13") > 0.5 && cause(shorted, "C14") > 0.9);
    QVERIFY(!asks(shorted, "C13") && !asks(shorted, "C14"));
    const Assessment sound = assess(board, factsOf(with(bodies, {PartMeasured{"C13"}})), {});
    QVERIFY(cause(sound, "C13") < 0.01);
    QVERIFY(!asks(sound, "C13"));
}

// What a connector gives away is a rail like others: a large capacitor holds it up, and its short counts.
void TestWay::whatTheBoardGivesAwayIsARail() {
    Board board = testing::demoBoard("chart-plotter");
    testing::addNet(board, "OUT9");
    testing::addNet(board, "DATA9");
    testing::addChip(board, "U99", PartClass::Ic, {50, 60}, "OUT9", "+5V0", 3, 3);
    testing::addChip(board, "J9", PartClass::Connector, {60, 60}, "OUT9", "DATA9", 5, 3);
    testing::addChip(board, "C99", PartClass::CeramicCapacitor, {54, 60}, "OUT9", "GND");
    board.parts[board.findPart("C99")].value = "47u";
    const std::vector<FactBody> low{Complaint{"dead"}, ohms("C99.1", 0.2), ohms("J9.1", 0.2)};
    QVERIFY(cause(assess(board, factsOf(low), {}), "C99") > 0.1);
    // A picofarad at a plug keeps a signal clean, and nothing is fed there.
    board.parts[board.findPart("C99")].value = "100p";
    QVERIFY(cause(assess(board, factsOf(low), {}), "C99") < 0.02);
}

// Common practice: where the current comes in pulses a converter tries again and again, and what is shorted
// becomes warm with each try: the camera looks without anything injected, once a side.
void TestWay::pulsesAreWatched() {
    const Board board = testing::demoBoard("chart-plotter");
    const std::vector<FactBody> pulses{Complaint{"dead"}, ohms("C1.1", 3000),
                                       SourceShows{12, 0.15, "", Reaction::Pulses}};
    const auto sides = [&](const std::vector<FactBody>& bodies) {
        std::set<Side> all;
        for (const NextMove& move : assess(board, factsOf(bodies), {}).next)
            if (move.kind == MoveKind::WatchFlares) all.insert(move.side);
        return all;
    };
    const auto first = sides(pulses);
    QCOMPARE(first.size(), std::size_t(1));
    const Side other = *first.begin() == Side::Top ? Side::Bottom : Side::Top;
    const std::vector<FactBody> once = with(pulses, {HeatFound{HeatVerdict::None, *first.begin(), {}, "01"}});
    QCOMPARE(sides(once), std::set<Side>{other});
    QVERIFY(sides(with(once, {HeatFound{HeatVerdict::None, other, {}, "02"}})).empty());
    QVERIFY(sides({Complaint{"dead"}, SourceShows{12, 0.15, "", Reaction::None}}).empty());
}
