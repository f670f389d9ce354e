#include "diagnosis/assess.h"
#include "diagnosis/steady_reading.h"
#include "support/boards.h"
#include "support/facts.h"
#include "unit/diagnosis/test_diagnosis.h"

#include <QTest>
#include <cmath>

using namespace ustor;
using testing::factsOf;
using testing::ohms;

namespace {

/// Input, fuse FA, four capacitors, ferrite FB, four capacitors behind it, a plug with a daughter board.
Board chain() {
    Board board;
    testing::addNet(board, "GND");
    testing::addChip(board, "J1", PartClass::Connector, {2, 5}, "VIN_5V", "GND", 4, 3);
    testing::addChip(board, "FA", PartClass::Fuse, {8, 5}, "VIN_5V", "A_5V", 3, 1.5);
    for (int i = 0; i < 4; ++i)
        testing::addChip(board, "C1" + std::to_string(i), PartClass::CeramicCapacitor, {12 + 3.0 * i, 5},
                         "A_5V", "GND");
    testing::addChip(board, "FB", PartClass::Ferrite, {26, 5}, "A_5V", "B_5V", 3, 1.5);
    for (int i = 0; i < 4; ++i)
        testing::addChip(board, "C2" + std::to_string(i), PartClass::CeramicCapacitor, {30 + 3.0 * i, 5},
                         "B_5V", "GND");
    testing::addChip(board, "J2", PartClass::Connector, {46, 5}, "B_5V", "GND", 4, 3);
    for (Net& net : board.nets)
        if (net.name != "GND") net.nominal = Volts(5);
    return board;
}

const NextMove* moveOf(const Assessment& a, MoveKind kind) {
    const auto found =
        std::find_if(a.next.begin(), a.next.end(), [kind](const NextMove& m) { return m.kind == kind; });
    return found == a.next.end() ? nullptr : &*found;
}

bool suspected(const Assessment& a, const char* part) {
    return std::any_of(a.suspects.begin(), a.suspects.end(), [&](const Suspect& s) {
        return s.part >= 0 && !s.cleared && a.state.board.parts[s.part].designator == part;
    });
}

} // namespace

// Lift one link and measure both pads; choose the link that halves the doubt for the least work (common
// practice).
void TestSplit::linkThatHalvesTheDoubt() {
    const Assessment a = assess(chain(), factsOf({ohms("C10.1", 0.3)}), {});
    QCOMPARE(a.splits.size(), std::size_t(2));
    // The ferrite parts four from five; the fuse only the connector from all others.
    QCOMPARE(a.state.board.parts[a.splits.front().links.front()].designator, std::string("FB"));
    const SplitChoice& best = a.splits.front();
    // A perfect test with two outcomes tells the entropy of its odds.
    const double sum = best.oddsNear + best.oddsFar, p = best.oddsNear / sum;
    QVERIFY(std::fabs(best.gainBits - sum * -(p * std::log2(p) + (1 - p) * std::log2(1 - p))) < 1e-9);
    const NextMove* move = moveOf(a, MoveKind::Split);
    QVERIFY(move && move->place == "FB");
    // Both outcomes are told before it is done.
    QVERIFY(move->reason.text().find("short at " + best.placeNear) != std::string::npos);
    QVERIFY(move->reason.text().find("short at " + best.placeFar) != std::string::npos);
}

void TestSplit::parallelLinksGoTogether() {
    Board board = chain();
    testing::addChip(board, "FC", PartClass::Ferrite, {26, 9}, "A_5V", "B_5V", 3, 1.5);
    const Assessment a = assess(board, factsOf({ohms("C10.1", 0.3)}), {});
    QVERIFY(!a.splits.empty());
    for (const SplitChoice& split : a.splits)
        if (split.links.size() == 2) return;
    QFAIL("two ferrites side by side must go together");
}

void TestSplit::theShortStaysWithOneSide() {
    const auto lifted = [](double atA, double atB) {
        return assess(
            chain(), factsOf({ohms("C10.1", 0.3), Lifted{"FB"}, ohms("C10.1", atA), ohms("C20.1", atB)}), {});
    };
    const Assessment far = lifted(800, 0.3), near = lifted(0.3, 800);
    const NetIndex a = far.state.board.findNet("A_5V"), b = far.state.board.findNet("B_5V");
    QVERIFY(far.down.holds(b) && !far.down.holds(a));
    QVERIFY(near.down.holds(a) && !near.down.holds(b));
    QVERIFY(suspected(far, "C21") && !suspected(far, "C11"));
    QVERIFY(suspected(near, "C11") && !suspected(near, "C21"));
    // The freed side is told; the link is not taken for the culprit.
    QVERIFY(far.cleared.size() == 1 && far.cleared.front().holds(a));
    QVERIFY(far.culprit.empty() && near.culprit.empty());
    // Until both sides were read, the reading is what comes next.
    const Assessment open =
        assess(chain(), factsOf({ohms("C10.1", 0.3), Lifted{"FB"}, ohms("C10.1", 800)}), {});
    QVERIFY(open.down.holds(b) && moveOf(open, MoveKind::MeasureAfterLift));
}

// What can be unplugged goes first (common practice).
void TestSplit::unpluggedBoardsAreFree() {
    const Assessment before = assess(chain(), factsOf({ohms("C10.1", 0.3)}), {});
    QVERIFY(moveOf(before, MoveKind::Unplug));
    const Assessment stayed =
        assess(chain(), factsOf({ohms("C10.1", 0.3), Unplugged{"J2"}, ohms("C10.1", 0.3)}), {});
    QVERIFY(!suspected(stayed, "J2"));
    std::vector<FactBody> told{ohms("C10.1", 0.3), Unplugged{"J2"}, ohms("C10.1", 900)};
    const Assessment gone = assess(chain(), factsOf(told), {});
    QCOMPARE(gone.suspects.front().part, gone.state.board.findPart("J2"));
    // One reading may be a slip of the probe: it is no proof.
    QVERIFY(!moveOf(gone, MoveKind::Close));
    QCOMPARE(gone.next.front().kind, MoveKind::ProveRail);
    told.push_back(ohms("C10.1", 890));
    const Assessment proven = assess(chain(), factsOf(told), {});
    const NextMove* close = moveOf(proven, MoveKind::Close);
    QVERIFY(close && close->sentence.text().find("J2") != std::string::npos);
}

void TestSplit::steadyReadings() {
    const auto read = [](double value, ReadingState state = ReadingState::Value) {
        return Reading{MeterMode::Ohms, state, value, 0.1};
    };
    SteadyReading steady({3, 0.02, 2});
    QVERIFY(!steady.add(read(480)));
    QVERIFY(!steady.add(read(440))); // still moving: the run starts anew
    QVERIFY(!steady.add(read(438)));
    const auto taken = steady.add(read(441));
    QVERIFY(taken.has_value());
    QCOMPARE(taken->value, 440.0);
    // Small values may differ by digits where two per cent is less than one.
    for (const double v : {0.3, 0.4})
        QVERIFY(!steady.add(read(v)));
    QVERIFY(steady.add(read(0.3)).has_value());
    // A probe in the air is no reading, unless somebody wants it.
    for (int i = 0; i < 9; ++i)
        QVERIFY(!steady.add(read(0, ReadingState::OverRange)));
    QVERIFY(!steady.add(read(0, ReadingState::OverRange), true) &&
            !steady.add(read(0, ReadingState::OverRange), true));
    QVERIFY(steady.add(read(0, ReadingState::OverRange), true).has_value());
}

// A strip of copper: V falls evenly to the short and stays level behind it. 1 A, 35 um, 2 mm wide: 0.2463
// mOhm a mm (IEC 60028).
void TestSplit::millivoltsAreEvidence() {
    Board board;
    testing::addNet(board, "GND");
    for (int i = 0; i < 6; ++i)
        testing::addChip(board, "C1" + std::to_string(i), PartClass::CeramicCapacitor, {5 + 10.0 * i, 5},
                         "A_5V", "GND");
    board.copper = {{"top", 0.035, {{{{0, 4}, {60, 4}, {60, 6}, {0, 6}}, {}, board.findNet("A_5V")}}}};
    const auto at = [](double x_mm) { return 0.05 - 0.2463e-3 * std::min(x_mm, 34.5); }; // shorted at C13
    std::vector<FactBody> bodies{ohms("C10.1", 0.3)};
    for (const int i : {0, 2, 4})
        bodies.emplace_back(MillivoltTaken{"C1" + std::to_string(i) + ".1", "", at(4.5 + 10.0 * i), 1e-5, 1,
                                           "C10.1", "C10.2"});
    Assessor kept(board, {});
    kept.take(factsOf(bodies));
    const Assessment a = kept.assessment();
    QVERIFY2(a.along.has_value(), a.alongTrouble.text().c_str());
    QCOMPARE(a.suspects.front().part, board.findPart("C13"));
    QVERIFY(a.suspects.front().odds > 0.8);
    // What is remembered changes no answer.
    kept.take(factsOf(bodies));
    const Assessment &again = kept.assessment(), fresh = assess(board, factsOf(bodies), {});
    QCOMPARE(again.suspects.front().odds, a.suspects.front().odds);
    QCOMPARE(fresh.suspects.front().odds, a.suspects.front().odds);
}
