#include "diagnosis/assess.h"
#include "diagnosis/evidence/power_items.h"
#include "diagnosis/evidence/story_items.h"
#include "diagnosis/fact/power_course.h"
#include "support/boards.h"
#include "support/facts.h"
#include "unit/diagnosis/test_diagnosis.h"

#include <QTest>
#include <algorithm>
#include <cmath>
#include <functional>

using namespace ustor;
using testing::factsOf;
using testing::ohms;

namespace {

Assessment told(const Board& board, const std::vector<FactBody>& bodies) {
    return assess(board, factsOf(bodies), {});
}

/// The odds of all hypotheses that hold such a fault.
double oddsOf(const Assessment& a, const std::function<bool(const Fault&)>& is) {
    double odds = 0;
    for (const Hypothesis& h : a.belief.hypotheses)
        if (std::any_of(h.causes.begin(), h.causes.end(), is)) odds += h.odds;
    return odds;
}
double oddsOf(const Assessment& a, const Board& board, const char* part) {
    const PartIndex p = board.findPart(part);
    return oddsOf(a, [p](const Fault& f) { return f.part == p; });
}
double oddsOf(const Assessment& a, FaultKind kind) {
    return oddsOf(a, [kind](const Fault& f) { return f.kind == kind; });
}

/// The small board with a clamp at its plug.
Board clampedBoard() {
    Board board = testing::smallBoard();
    testing::addChip(board, "D1", PartClass::ClampDiode, {8, 38}, "VIN_12V", "GND");
    return board;
}

} // namespace

void TestStory::wordsOfComplaints() {
    using P = std::vector<Past>;
    QCOMPARE(pastIn("Coffee was spilled on it last week"), P{Past::Liquid});
    QCOMPARE(pastIn("dead since it fell; another shop tried"), (P{Past::Drop, Past::OtherShop}));
    QCOMPARE(pastIn("no liquid, stopped while charging"), P{Past::Charging});
    QCOMPARE(pastIn("never dropped, never repaired"), P{});
    QCOMPARE(pastIn("does not start"), P{});
    QCOMPARE(pastIn("Polarity was wrong for a second"), P{Past::WrongSource});
}

// A wrong source goes through the clamp first, liquid through what lies between pads, a fall through joints
// (common practice).
void TestStory::wrongSourcesGoThroughTheClamp() {
    const Board board = clampedBoard();
    const auto nothing = told(board, {}), wrong = told(board, {Complaint{"wrong adapter was on it"}});
    QVERIFY(oddsOf(wrong, board, "D1") > 2 * oddsOf(nothing, board, "D1"));
    const auto wet = told(board, {History{Past::Liquid, ""}});
    QVERIFY(oddsOf(wet, FaultKind::Unlisted) > 1.5 * oddsOf(nothing, FaultKind::Unlisted));
    const auto fell = told(board, {History{Past::Drop, ""}});
    QVERIFY(oddsOf(fell, FaultKind::Open) > 1.5 * oddsOf(nothing, FaultKind::Open));
    // Told twice it is no second witness.
    const auto twice = told(board, {Complaint{"liquid damage"}, History{Past::Liquid, ""}});
    QVERIFY(std::fabs(oddsOf(twice, FaultKind::Unlisted) - oddsOf(wet, FaultKind::Unlisted)) < 1e-9);
}

void TestStory::coursesOfCurrent_data() {
    using Moments = std::vector<PowerTrace::Moment>;
    QTest::addColumn<Moments>("moments");
    QTest::addColumn<Reaction>("reaction");
    QTest::addColumn<PlugIn>("shows");
    // Rows of the table of first plug-ins (common practice).
    QTest::newRow("in steps") << Moments{{0, 20, 0.07}, {1, 20, 0.1}, {2, 20, 0.2}, {3, 20, 0.6}}
                              << Reaction::Starts << PlugIn::Starts;
    QTest::newRow("steady beat")
        << Moments{{0, 20, 0.02}, {0.5, 20, 0.5}, {1, 20, 0.02}, {1.5, 20, 0.5}, {2, 20, 0.02}}
        << Reaction::Pulses << PlugIn::Pulses;
    QTest::newRow("starts and dies") << Moments{{0, 20, 0.07}, {1, 20, 0.6}, {2, 20, 0.02}}
                                     << Reaction::StartsAndDies << PlugIn::TakesSome;
    QTest::newRow("shuts off") << Moments{{0, 20, 3}, {0.2, 3, 3}, {0.3, 0, 0}} << Reaction::ShutsOff
                               << PlugIn::TakesNothing;
    QTest::newRow("collapses") << Moments{{0, 1.1, 3}, {1, 1.0, 3}} << Reaction::NotSaid << PlugIn::Collapses;
    QTest::newRow("nothing") << Moments{{0, 20, 0}, {1, 20, 0.001}} << Reaction::NotSaid
                             << PlugIn::TakesNothing;
    QTest::newRow("stays at 5 V") << Moments{{0, 5, 0.04}, {2, 5, 0.03}} << Reaction::NotSaid
                                  << PlugIn::StaysLow;
}

void TestStory::coursesOfCurrent() {
    QFETCH(const std::vector<PowerTrace::Moment>, moments);
    QFETCH(const Reaction, reaction);
    QFETCH(const PlugIn, shows);
    const SourceShows summed = shownBy({moments, ""});
    QCOMPARE(summed.reaction, reaction);
    QCOMPARE(plugInOf(summed), shows);
    // The course counts as the plug-in that it sums up to.
    const Board board = clampedBoard();
    const auto course = told(board, {PowerTrace{moments, ""}}), plugged = told(board, {summed});
    QVERIFY(std::fabs(oddsOf(course, board, "D1") - oddsOf(plugged, board, "D1")) < 1e-12);
    const auto csv = readPowerTrace("s;V;A\n0;20;0,1\n1;20;0,5\n", "log.csv");
    QVERIFY(csv.ok());
    QCOMPARE(csv.value().moments.size(), std::size_t(2));
    QVERIFY(std::fabs(csv.value().moments[1].amps - 0.5) < 1e-12);
    const auto holes = readPowerTrace("s,V,A\n0,20,0.1\n1,20,\n", "log.csv");
    QVERIFY(!holes.ok());
    QCOMPARE(holes.error().where, std::string("log.csv:3"));
}

// "A rail is judged against what that rail should read ... the same position on a donor" (common practice).
void TestStory::donorsSettleCoreRails() {
    const Board board = testing::smallBoard();
    const auto core = board.findNet("+3V3");
    const auto shorted = [&](const std::vector<FactBody>& bodies) {
        const auto a = told(board, bodies);
        const auto rail = std::find_if(a.rails.begin(), a.rails.end(),
                                       [&](const RailJudgement& r) { return r.net == core; });
        return rail == a.rails.end() ? -1.0 : rail->shorted;
    };
    const double alone = shorted({ohms("C10.1", 22)});
    const double same =
        shorted({ohms("C10.1", 22), DonorReading{"C10.1", {MeterMode::Ohms, ReadingState::Value, 24, 1}}});
    const double other =
        shorted({ohms("C10.1", 22), DonorReading{"C10.1", {MeterMode::Ohms, ReadingState::Value, 900, 1}}});
    QVERIFY2(same < 0.3 && same < alone, QByteArray::number(same).constData());
    QVERIFY2(other > 0.9 && other >= alone, QByteArray::number(other).constData());
    // Said before or after, or struck out again: the order does not matter.
    auto facts =
        factsOf({DonorReading{"C10.1", {MeterMode::Ohms, ReadingState::Value, 24, 1}}, ohms("C10.1", 22)});
    QVERIFY(std::fabs(assess(board, facts, {}).rails.front().shorted - same) < 1e-9);
    facts.push_back({3, 3000, Struck{1}});
    QVERIFY(std::fabs(assess(board, facts, {}).rails.front().shorted - alone) < 1e-9);
}

void TestStory::leadsAreTakenOff() {
    const Board board = testing::smallBoard();
    const auto a = told(board, {LeadsMeasured{LeadsOf::Meter, 0.25}, ohms("C10.1", 0.3)});
    QVERIFY(std::fabs(a.state.readings.front().taken.reading.value - 0.05) < 1e-12);
    // 1 V and 2 A through leads of 0.1 ohms: 0.4 are the board's.
    const auto b = told(board, {LeadsMeasured{LeadsOf::Supply, 0.1}, SupplyShows{"C10.1", 1, 2}});
    QVERIFY(std::fabs(b.state.readings.front().taken.reading.value - 0.4) < 1e-12);
    QVERIFY(oddsOf(b, [&](const Fault& f) { return f.conducts() && f.a == board.findNet("+3V3"); }) > 0.8);
    // At 3.3 V chips take a current of their own.
    const auto high = told(board, {SupplyShows{"C10.1", 3.3, 0.8}});
    QVERIFY(high.state.readings.empty());
    QVERIFY(high.setAside.front().why.text().find("a current of their own") != std::string::npos);
    const auto dropped = told(board, {SupplyShows{"C10.1", 1, 0.2, CurrentCourse::Drops}});
    QVERIFY(dropped.setAside.front().why.text().find("something opened") != std::string::npos);
}

void TestStory::readingsUnderPowerAreSetAside() {
    const Board board = testing::smallBoard();
    ReadingTaken live = ohms("C10.1", 0.3);
    live.powered = true;
    const auto a = told(board, {live}), nothing = told(board, {});
    QCOMPARE(a.setAside.size(), std::size_t(1));
    QVERIFY(a.setAside.front().why.text().find("with the power on") != std::string::npos);
    QVERIFY(std::fabs(oddsOf(a, board, "C10") - oddsOf(nothing, board, "C10")) < 1e-12);
    // On a warm board a softer reading says less.
    auto facts = factsOf({BoardWarm{true}, ohms("C10.1", 40)});
    facts[1].time_s = facts[0].time_s + 1000; // it has cooled
    QVERIFY(!assess(board, facts, {}).state.readings.front().warm);
    facts[1].time_s = facts[0].time_s + 30;
    QVERIFY(assess(board, facts, {}).state.readings.front().warm);
    facts.insert(facts.begin() + 1, {2, facts[0].time_s + 10, BoardWarm{false}});
    facts[2].id = 3;
    QVERIFY(!assess(board, facts, {}).state.readings.front().warm);
}

void TestStory::whatDriesFirst_data() {
    QTest::addColumn<HeatSense>("by");
    for (const auto& each : vocabulary(HeatSense{}))
        if (each.value != HeatSense::Idle) QTest::newRow(std::string(each.word).c_str()) << each.value;
}

// "The wet or frosted spot clears first over the fault" (common practice).
void TestStory::whatDriesFirst() {
    QFETCH(const HeatSense, by);
    const Board board = testing::smallBoard();
    const std::string net = by == HeatSense::Flare ? "" : "+3V3";
    const auto before = told(board, {ohms("C10.1", 0.3)});
    const auto after = told(board, {ohms("C10.1", 0.3), HeatSensed{by, "C12", net}});
    QVERIFY2(oddsOf(after, board, "C12") > 0.5 && oddsOf(before, board, "C12") < 0.3,
             QByteArray::number(oddsOf(after, board, "C12")).constData());
    // Its neighbour is more likely than a part at the other end.
    QVERIFY(oddsOf(after, board, "C13") > oddsOf(after, board, "C15"));
    // Current into another rail warms nothing here.
    const auto elsewhere = told(board, {ohms("C10.1", 0.3), HeatSensed{by, "C12", "VSYS_12V"}});
    QVERIFY(oddsOf(elsewhere, board, "C12") < 1.5 * oddsOf(before, board, "C12"));
    const auto none = told(board, {ohms("C10.1", 0.3), HeatSensed{by, "", net}});
    QVERIFY(oddsOf(none, FaultKind::Short) <= oddsOf(before, FaultKind::Short));
}

// "Laminate burnt at a connector is itself a short: no part is guilty; cut it away" (common practice).
void TestStory::aBridgeOpenedIsFound() {
    const Board board = testing::smallBoard();
    std::vector<FactBody> bodies{ohms("C10.1", 0.3), BoardSeen{BoardDamage::BurntLaminate, "C12.1", ""}};
    const auto seen = told(board, bodies);
    QVERIFY(oddsOf(seen, FaultKind::Unlisted) >
            3 * oddsOf(told(board, {ohms("C10.1", 0.3)}), FaultKind::Unlisted));
    bodies.emplace_back(CopperWorked{CopperWork::BridgeOpened, "C12.1", ""});
    bodies.emplace_back(ohms("C10.1", 700));
    const auto opened = told(board, bodies);
    QVERIFY2(oddsOf(opened, FaultKind::Unlisted) > 0.9,
             QByteArray::number(oddsOf(opened, FaultKind::Unlisted)).constData());
    QVERIFY(opened.stillShorted < 0.1);
    // It stays: what was cut away was not it.
    bodies.back() = ohms("C10.1", 0.3);
    const auto stays = told(board, bodies);
    QVERIFY(stays.stillShorted > 0.9);
    QVERIFY(oddsOf(stays, FaultKind::Short) > 0.8);
}

void TestStory::aCutTraceIsSaid() {
    const Board board = testing::smallBoard();
    const auto cut = told(board, {CopperWorked{CopperWork::TraceCut, "C12.1", ""}, ohms("C10.1", 0.3)});
    QVERIFY(cut.state.readings.empty());
    QVERIFY(cut.setAside.front().why.text().find("a trace of +3V3 is cut") != std::string::npos);
    // Mended by a wire it is one net again.
    const auto wired = told(board, {CopperWorked{CopperWork::TraceCut, "C12.1", ""},
                                    CopperWorked{CopperWork::WireRun, "C12.1", "C13.1"}, ohms("C10.1", 0.3)});
    QCOMPARE(wired.state.readings.size(), std::size_t(1));
    // A mended joint is not open any more.
    const auto joint = told(board, {CopperWorked{CopperWork::PadMended, "F1.1", ""}});
    const PartIndex fuse = board.findPart("F1");
    QVERIFY(joint.state.mended.at("F1") == 1);
    QVERIFY(oddsOf(joint, [&](const Fault& f) { return f.part == fuse && f.kind == FaultKind::Open; }) <=
            0.2);
}

// "Fails again at once or with the same part: the cause is elsewhere (controller, driver ...)" (common
// practice).
void TestStory::itFailsAgain() {
    const Board board = testing::smallBoard();
    const std::vector<FactBody> repaired{ohms("C1.1", 0.2),       Lifted{"Q2"},
                                         ohms("C1.1", 0.2),       Lifted{"Q1"},
                                         ohms("C1.1", 3e3),       Refitted{"Q2", true, ""},
                                         Refitted{"Q1", true, ""}};
    std::vector<FactBody> again = repaired;
    again.emplace_back(CameBack{"Q1", ""});
    const auto before = told(board, repaired), after = told(board, again);
    const PartIndex controller = board.findPart("U3");
    const auto dead = [controller](const Fault& f) {
        return f.part == controller && f.kind == FaultKind::Dead;
    };
    QVERIFY(oddsOf(after, dead) > oddsOf(before, dead));
    // The case that was closed is open again.
    again.insert(again.end() - 1, FactBody(Closed{true, "Q1", ""}));
    QVERIFY(!told(board, again).state.closed);
}

void TestStory::onePlugTwoWays() {
    const Board board = testing::smallBoard();
    const PartIndex port = board.findPart("J1");
    const auto open = [port](const Fault& f) { return f.part == port && f.kind == FaultKind::Open; };
    const auto one = told(board, {Negotiated{"J1", false, 20, 5}});
    const auto two = told(board, {Negotiated{"J1", false, 20, 5}, Negotiated{"J1", true, 20, 20}});
    QVERIFY(oddsOf(two, open) > 2 * oddsOf(one, open));
    QVERIFY(oddsOf(one, FaultKind::Nothing) < oddsOf(told(board, {}), FaultKind::Nothing) * 1.05);
}

void TestStory::whatTheJobPays() {
    const Board board = testing::smallBoard();
    const std::vector<FactBody> hunt{Complaint{"dead"}, SourceShows{20, 0, "", Reaction::None},
                                     ohms("C10.1", 0.3)};
    QVERIFY(told(board, hunt).next.front().end == CaseEnd::Open);
    std::vector<FactBody> poor = hunt;
    poor.emplace_back(FeeAgreed{5, 5, 120});
    const auto a = told(board, poor);
    QCOMPARE(a.next.front().end, CaseEnd::NotWorthIt);
}

void TestStory::everyStoryMovesTheOddsAsTheTradeSays_data() {
    QTest::addColumn<QString>("part");
    QTest::addColumn<int>("fact");
    QTest::newRow("spark") << "C12" << 0;
    QTest::newRow("askew") << "C12" << 1;
    QTest::newRow("off the board") << "C12" << 2;
    QTest::newRow("corrosion") << "C12" << 3;
}

void TestStory::everyStoryMovesTheOddsAsTheTradeSays() {
    QFETCH(const QString, part);
    QFETCH(const int, fact);
    const std::string name = part.toStdString();
    const std::vector<FactBody> facts{BurstSeen{Burst::Spark, name}, Seen{name, Damage::Askew, ""},
                                      PartMeasured{name, true}, BoardSeen{BoardDamage::Corrosion, name, ""}};
    const Board board = testing::smallBoard();
    const auto before = told(board, {ohms("C10.1", 0.3)});
    const auto after = told(board, {ohms("C10.1", 0.3), facts[static_cast<std::size_t>(fact)]});
    QVERIFY(oddsOf(after, board, name.c_str()) > 1.5 * oddsOf(before, board, name.c_str()));
}
