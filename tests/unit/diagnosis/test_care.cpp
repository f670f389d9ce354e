#include "diagnosis/assess.h"
#include "diagnosis/evidence/part_evidence.h"
#include "diagnosis/evidence/power_items.h"
#include "diagnosis/hypothesis/board_model.h"
#include "support/boards.h"
#include "support/facts.h"
#include "unit/diagnosis/test_diagnosis.h"

#include <QTest>
#include <algorithm>
#include <cmath>

using namespace ustor;
using testing::factsOf;
using testing::ohms;
using testing::volts;

namespace {

/// A spot in the middle of the part, after so many volts were put on its rail.
std::vector<FactBody> warmAt(const Board& board, const char* part, const char* net, const char* place,
                             double volts) {
    const BoardPoint centre = board.parts[static_cast<std::size_t>(board.findPart(part))].centre;
    return {InjectionDone{net, place, "GND", volts, 1, 0.01, 30, "", StopCause::None},
            HeatFound{HeatVerdict::Point, Side::Top, {{centre, 0.3, 40, 10, 0.3}}, "", false, net}};
}

void add(std::vector<FactBody>& all, const std::vector<FactBody>& more) {
    all.insert(all.end(), more.begin(), more.end());
}

double oddsOf(const Assessment& a, FaultKind kind, const char* part) {
    const PartIndex p = a.state.board.findPart(part);
    double odds = 0;
    for (const Hypothesis& h : a.belief.hypotheses)
        if (std::any_of(h.causes.begin(), h.causes.end(),
                        [&](const Fault& f) { return f.kind == kind && f.part == p; }))
            odds += h.odds;
    return odds;
}

const NextMove* moveAt(const Assessment& a, MoveKind kind, const char* net) {
    const auto found = std::find_if(a.next.begin(), a.next.end(), [&](const NextMove& move) {
        const NetIndex its = netOfPlace(a.state.board, move.place);
        return move.kind == kind && its >= 0 && a.state.board.nets[static_cast<std::size_t>(its)].name == net;
    });
    return found == a.next.end() ? nullptr : &*found;
}

/// Every rail reads free, the source pulses, and one rail does not come up.
std::vector<FactBody> allFreeAndNoStart() {
    return {Complaint{"dead"},  SourceShows{12, 0.15, "", Reaction::Pulses},
            ohms("C1.1", 3000), ohms("C3.1", 4),
            ohms("C10.1", 600), volts("C1.1", 12),
            volts("C10.1", 0.2)};
}

} // namespace

// Common practice: half a minute with the meter before the iron, however warm a part was.
void TestCare::nothingComesOffForARailThatWasNotRead() {
    const Board board = testing::smallBoard();
    std::vector<FactBody> bodies{Complaint{"dead"}, ohms("C1.1", 3000)};
    add(bodies, warmAt(board, "C13", "+3V3", "C10.1", 1));
    const Assessment a = assess(board, factsOf(bodies), {});
    QVERIFY(oddsOf(a, FaultKind::Short, "C13") > 0.5);
    QVERIFY(!moveAt(a, MoveKind::Lift, "+3V3"));
    QVERIFY(moveAt(a, MoveKind::MeasureRail, "+3V3"));
    QCOMPARE(a.next.front().kind, MoveKind::MeasureRail);
    bodies.push_back(ohms("C10.1", 0.3));
    const Assessment read = assess(board, factsOf(bodies), {});
    QCOMPARE(read.next.front().kind, MoveKind::Lift);
    QCOMPARE(read.next.front().place, std::string("C13"));
}

// Common practice: a cracked capacitor may read free and break down under its working voltage. What a meter
// shows acquits no part of that, a look at a raised voltage finds it, one at less than a volt hardly can.
void TestCare::whatShortsOnlyUnderVoltage() {
    const Board board = testing::smallBoard();
    const std::vector<FactBody> before = allFreeAndNoStart();
    const Assessment unseen = assess(board, factsOf(before), {});
    QVERIFY(oddsOf(unseen, FaultKind::Short, "C13") < 0.01);
    QVERIFY(oddsOf(unseen, FaultKind::Breakdown, "C13") > oddsOf(unseen, FaultKind::Short, "C13"));
    std::vector<FactBody> raised = before, little = before;
    add(raised, warmAt(board, "C13", "+3V3", "C10.1", 3));
    add(little, warmAt(board, "C13", "+3V3", "C10.1", 0.7));
    const Assessment found = assess(board, factsOf(raised), {});
    QVERIFY(oddsOf(found, FaultKind::Breakdown, "C13") > 0.5);
    QVERIFY(oddsOf(assess(board, factsOf(little), {}), FaultKind::Breakdown, "C13") <
            0.6 * oddsOf(found, FaultKind::Breakdown, "C13"));
    QCOMPARE(found.next.front().kind, MoveKind::Replace);
    QCOMPARE(found.next.front().place, std::string("C13"));
    QVERIFY(found.next.front().reason.text().find("under voltage") != std::string::npos);
}

// Common practice: a rail that reads free and yet takes amps from a supply below its working voltage shorts
// under voltage; one that takes next to nothing there does not. At its working voltage chips take what they
// take.
void TestCare::whatTheSupplyShowsIsAWitness() {
    const Board board = testing::smallBoard();
    const auto breaksDown = [](const Assessment& a) {
        double odds = 0;
        for (const Hypothesis& h : a.belief.hypotheses)
            for (const Fault& f : h.causes)
                if (f.kind == FaultKind::Breakdown && a.state.board.nets[f.a].name == "+3V3") {
                    odds += h.odds;
                    break;
                }
        return odds;
    };
    const auto shown = [&](double volts, double amps) {
        std::vector<FactBody> bodies = allFreeAndNoStart();
        bodies.emplace_back(SupplyShows{"C10.1", volts, amps});
        return assess(board, factsOf(bodies), {});
    };
    const double before = breaksDown(assess(board, factsOf(allFreeAndNoStart()), {}));
    const Assessment much = shown(2.5, 1.9);
    QVERIFY2(breaksDown(much) > 3 * before && breaksDown(much) > 0.4,
             qPrintable(QString::number(breaksDown(much))));
    QVERIFY(breaksDown(shown(2.5, 0.02)) < 0.7 * before);
    QVERIFY(std::fabs(breaksDown(shown(3.3, 1.9)) - before) < 1e-9);
    // Where exactly is the camera's, at a raised voltage.
    const auto inject = std::find_if(much.next.begin(), much.next.end(),
                                     [](const NextMove& m) { return m.kind == MoveKind::Inject; });
    QVERIFY(inject != much.next.end() && inject->school == School::Climb);
    // What a meter has read as low takes its current, by nature or as the short that is known.
    std::vector<FactBody> low{Complaint{"dead"}, ohms("C10.1", 1.2)};
    const Assessment read = assess(board, factsOf(low), {});
    low.emplace_back(SupplyShows{"C10.1", 2.5, 1.9});
    QVERIFY(std::fabs(oddsOf(assess(board, factsOf(low), {}), FaultKind::Short, "C13") -
                      oddsOf(read, FaultKind::Short, "C13")) < 0.02);
    // A rail that was never read with a meter: it may as well be shorted.
    const Assessment alone = assess(board, factsOf({SupplyShows{"C10.1", 2.5, 1.9}}), {});
    QVERIFY(alone.belief.hypotheses.front().odds > 0);
    QVERIFY(breaksDown(alone) < 0.5);
}

// Common practice: a spot that comes and goes with the tries of a converter, on the board's own power, is
// what breaks down under voltage.
void TestCare::aFlareUnderItsOwnPower() {
    const Board board = testing::smallBoard();
    std::vector<FactBody> bodies = allFreeAndNoStart();
    const double before = oddsOf(assess(board, factsOf(bodies), {}), FaultKind::Breakdown, "C13");
    bodies.emplace_back(HeatFound{HeatVerdict::Point,
                                  Side::Top,
                                  {{board.parts[board.findPart("C13")].centre, 0.3, 60, 20, 0.3}},
                                  "01"});
    const Assessment after = assess(board, factsOf(bodies), {});
    QVERIFY(oddsOf(after, FaultKind::Breakdown, "C13") > 20 * before);
    QVERIFY(oddsOf(after, FaultKind::Breakdown, "C13") > oddsOf(after, FaultKind::Short, "C13"));
}

// Common practice: a burnt fuse that reads open, a board that takes nothing, and a dead short behind the fuse
// are one story, the short and its victim; and of what hangs on that rail the jack is the least likely.
void TestCare::theShortBehindABlownFuse() {
    const Board board = testing::smallBoard();
    const ReadingTaken across{"F1.1", "F1.2", {MeterMode::Ohms, ReadingState::OverRange, 0, 0}};
    const Assessment a = assess(board,
                                factsOf({SourceShows{12, 0, "", Reaction::None},
                                         Seen{"F1", Damage::Burnt, ""}, across, ohms("C1.1", 0.3)}),
                                {});
    double both = 0;
    for (const Hypothesis& h : a.belief.hypotheses) {
        const bool open = std::any_of(h.causes.begin(), h.causes.end(), [&](const Fault& f) {
            return f.kind == FaultKind::Open && f.part == board.findPart("F1");
        });
        const bool shorted =
            std::any_of(h.causes.begin(), h.causes.end(), [](const Fault& f) { return f.conducts(); });
        if (open && shorted) both += h.odds;
    }
    QVERIFY2(both > 0.7, qPrintable(QString::number(both)));
    QVERIFY(oddsOf(a, FaultKind::Short, "J1") < 0.5 * oddsOf(a, FaultKind::Short, "C1"));
    // Current that is put in before the open fuse reaches nothing.
    const NetIndex behind = netOfPlace(board, "C1.1");
    const auto inject = std::find_if(a.next.begin(), a.next.end(),
                                     [](const NextMove& m) { return m.kind == MoveKind::Inject; });
    QVERIFY(inject != a.next.end());
    QCOMPARE(netOfPlace(board, inject->place), behind);
    QVERIFY(a.down.holds(behind) && !a.down.holds(netOfPlace(board, "J1.1")));
    // What lies before the fuse does show at the plug.
    const Assessment before =
        assess(board, factsOf({SourceShows{0.4, 3, "", Reaction::None}, across, ohms("J1.1", 0.3)}), {});
    QVERIFY(before.belief.victim[static_cast<std::size_t>(board.findPart("F1"))] < 0.5);
}

// Ohm's law: behind an open fuse a short takes nothing from the plug, before it all. Common practice: a burnt
// fuse blew for a short more often than by itself.
void TestCare::anOpenLinkHidesWhatIsBehindIt() {
    const CaseState state = caseState(testing::smallBoard(), factsOf({Seen{"F1", Damage::Burnt, ""}}));
    const Board& board = state.board;
    BoardModel model(board, *state.netParts);
    const Fault open{FaultKind::Open, board.findPart("F1")};
    const auto shorted = [&](const char* part, const char* place) {
        return Fault{FaultKind::Short, board.findPart(part), 0, 0, netOfPlace(board, place), -1};
    };
    const Fault behind = shorted("C1", "C1.1"), before = shorted("J1", "J1.1");
    const auto takesNothing = [&](std::vector<Fault> faults) {
        return plugInShares(faults, state, *state.now, model.circuit,
                            model.feed)[static_cast<std::size_t>(PlugIn::TakesNothing)];
    };
    QCOMPARE(takesNothing({behind, open}), takesNothing({open}));
    QCOMPARE(takesNothing({before, open}), takesNothing({before}));
    QVERIFY(takesNothing({open}) > 5 * takesNothing({behind}));
    const auto seen = seenEvidence(state, model.circuit, model.feed);
    QCOMPARE(seen.size(), std::size_t(1));
    const auto burnt = [&](std::vector<Fault> faults) { return seen.front().logLikelihood(faults); };
    QVERIFY(burnt({behind, open}) > burnt({open}) && burnt({open}) > burnt({}));
}

// Power is put on again with nothing changed that matters: what shows again was known, and is no second
// witness for a fault that stayed.
void TestCare::whatShowsAgainIsNoSecondWitness() {
    const Board board = testing::smallBoard();
    const SourceShows nothing{12, 0, "", Reaction::None};
    std::vector<FactBody> bodies{Complaint{"dead"},  nothing,          ohms("C1.1", 3000), ohms("C3.1", 4),
                                 ohms("C10.1", 600), volts("C10.1", 0)};
    const auto ratio = [&] {
        const Assessment a = assess(board, factsOf(bodies), {});
        return std::log(oddsOf(a, FaultKind::Open, "F1") / oddsOf(a, FaultKind::Dead, "U3"));
    };
    const double once = ratio();
    for (const char* part : {"C10", "C11", "C12"}) {
        bodies.emplace_back(Lifted{part});
        bodies.emplace_back(Refitted{part, true, ""});
        bodies.emplace_back(nothing);
        bodies.push_back(volts("C10.1", 0));
    }
    QVERIFY(std::fabs(ratio() - once) < 0.3); // each look alone is worth 1.6
}

// Common practice: without power a driver may leave its gate open. From gate to source "OL" says nothing
// about the way behind the switch.
void TestCare::anOpenGateSaysNothing() {
    const Board board = testing::smallBoard();
    std::vector<FactBody> bodies{Complaint{"dead"}, ohms("C1.1", 3000), ohms("C3.1", 4), ohms("C10.1", 600)};
    const double before = oddsOf(assess(board, factsOf(bodies), {}), FaultKind::Open, "L1");
    bodies.emplace_back(ReadingTaken{"Q1.G", "Q1.S", {MeterMode::Ohms, ReadingState::OverRange, 0, 0}});
    const double after = oddsOf(assess(board, factsOf(bodies), {}), FaultKind::Open, "L1");
    QVERIFY2(after < 3 * before, qPrintable(QString("%1 %2").arg(before).arg(after)));
}

// Common practice: a core reads a few ohms by itself. Its first reading tells where it is next to nothing,
// and of what is lifted the rail tells by rising, not by reading free.
void TestCare::coreRailsTellByNextToNothing() {
    const Board board = testing::smallBoard();
    const Assessment unread =
        assess(board, factsOf({Complaint{"dead"}, ohms("C1.1", 3000), ohms("C10.1", 600)}), {});
    const NextMove* first = moveAt(unread, MoveKind::MeasureRail, "+1V0_CORE");
    QVERIFY(first && first->outcomes.size() == 2);
    QVERIFY(first->outcomes.front().what.text().find("next to nothing") != std::string::npos);
    QVERIFY(first->outcomes.front().odds < 0.5);
    std::vector<FactBody> bodies{Complaint{"dead"}, ohms("C1.1", 3000), ohms("C10.1", 600),
                                 ohms("C3.1", 0.1)};
    add(bodies, warmAt(board, "C3", "+1V0_CORE", "C3.1", 1));
    const Assessment low = assess(board, factsOf(bodies), {});
    const NextMove* lift = moveAt(low, MoveKind::Lift, "+1V0_CORE");
    QVERIFY(lift && lift->place == "C3");
    QVERIFY(lift->outcomes.back().odds > 0.5);
}

// Common practice: what comes off has to go back, and that is work as well.
void TestCare::puttingBackIsCounted() {
    const Board board = testing::smallBoard();
    const Assessment a =
        assess(board, factsOf({Complaint{"dead"}, ohms("C1.1", 3000), ohms("C10.1", 0.3)}), {});
    const NextMove* lift = moveAt(a, MoveKind::Lift, "+3V3");
    QVERIFY(lift);
    for (const MoveOutcome& outcome : lift->outcomes)
        QVERIFY(outcome.minutesAfter >= 3);
}

namespace {

ReadingTaken across(const std::string& place, const std::string& against, MeterMode mode) {
    const double sound = mode == MeterMode::Diode ? 0.5 : 0.1;
    return {place, against, {mode, ReadingState::Value, sound, 0.001}};
}

/// The demo board reads free everywhere; the plug is fed, and what lies behind is told by the volts.
std::vector<FactBody> freeEverywhere() {
    return {Complaint{"dead"},
            ohms("F1.2", 5000),
            ohms("C1.1", 3000),
            ohms("L1.2", 700),
            ohms("L2.2", 600),
            ohms("L3.2", 40),
            across("F1.1", "F1.2", MeterMode::Ohms),
            across("R2.1", "R2.2", MeterMode::Ohms)};
}

} // namespace

// Common practice: the input switches wait for what steers them. Power before them, none behind, and both
// sound: the driver is asked for, though it carries none of the current.
void TestCare::aDriverStandsInTheWay() {
    Board board = testing::demoBoard("chart-plotter");
    Part driver;
    driver.designator = "U90";
    driver.partClass = PartClass::Ic;
    for (const char* net : {"VIN_F", "IN_G", "GND"}) {
        Pad pad;
        pad.pin = std::to_string(driver.pads.size() + 1);
        pad.net = board.findNet(net);
        driver.pads.push_back(pad);
    }
    board.parts.push_back(driver);
    std::vector<FactBody> bodies = freeEverywhere();
    bodies.emplace_back(SourceShows{12, 0.003, "", Reaction::None});
    bodies.push_back(volts("F1.2", 12));
    bodies.push_back(volts("C1.1", 0));
    // Its body diode: black on the cathode, which the board's names do not tell.
    bodies.push_back(across("Q1.D", "Q1.S", MeterMode::Diode));
    const Assessment a = assess(board, factsOf(bodies), {});
    const double driverDead = oddsOf(a, FaultKind::Dead, "U90");
    for (const double other : a.belief.cause)
        QVERIFY(other <= a.belief.cause[static_cast<std::size_t>(board.findPart("U90"))]);
    for (const char* behind : {"U1", "U2", "U3"})
        QVERIFY(driverDead > 3 * oddsOf(a, FaultKind::Dead, behind));
}

// Common practice: a converter makes nothing without its lower switch, and no meter shows that it is open.
// With its controller new and the rail still missing it is the next to go; not before.
void TestCare::theLowerSwitchMayBeOpen() {
    const Board board = testing::demoBoard("chart-plotter");
    const SourceShows stays{12, 0.05, "", Reaction::None};
    std::vector<FactBody> bodies = freeEverywhere();
    bodies.emplace_back(stays);
    for (const auto& [place, value] : {std::pair{"C1.1", 12.0}, {"L2.2", 3.3}, {"L1.2", 0.0}})
        bodies.push_back(volts(place, value));
    bodies.push_back(across("Q2.D", "Q2.S", MeterMode::Diode));
    bodies.push_back(across("L1.1", "L1.2", MeterMode::Ohms));
    const Assessment before = assess(board, factsOf(bodies), {});
    QVERIFY(oddsOf(before, FaultKind::Dead, "U1") > oddsOf(before, FaultKind::Open, "Q3"));
    bodies.emplace_back(Refitted{"U1", true, ""});
    bodies.emplace_back(stays);
    bodies.push_back(volts("L1.2", 0));
    const Assessment after = assess(board, factsOf(bodies), {});
    QVERIFY(oddsOf(after, FaultKind::Open, "Q3") > 1.2 * oddsOf(before, FaultKind::Open, "Q3"));
    QVERIFY(oddsOf(after, FaultKind::Open, "Q3") > oddsOf(after, FaultKind::Dead, "U1"));
}

// Common practice: one rail that is missing tells little, all of them together nearly everything; nobody
// gives up before they were read.
void TestCare::noEndBeforeTheVoltsWereRead() {
    const Board board = testing::demoBoard("chart-plotter");
    std::vector<FactBody> bodies = freeEverywhere();
    bodies.emplace_back(SourceShows{12, 0.05, "", Reaction::None});
    constexpr int most = 80;
    bool ended = false;
    for (int step = 0; step < most && !ended; ++step) {
        const Assessment a = assess(board, factsOf(bodies), {});
        const NextMove& next = a.next.front();
        const NetIndex net = netOfPlace(board, next.place);
        switch (next.kind) {
        case MoveKind::Stop:
            ended = true;
            for (const NextMove& left : a.next)
                QVERIFY2(left.kind != MoveKind::ReadVolts, left.sentence.text().c_str());
            break;
        case MoveKind::ReadVolts: // no rail that is made on the board is there
            bodies.push_back(volts(next.place.c_str(),
                                   board.nets[static_cast<std::size_t>(net)].nominal == Volts(12) ? 12 : 0));
            break;
        case MoveKind::FirstPower:
            bodies.emplace_back(SourceShows{12, 0.05, "", Reaction::None});
            break;
        case MoveKind::Lift:
            bodies.emplace_back(Lifted{next.place});
            break;
        case MoveKind::Replace:
            bodies.emplace_back(Refitted{next.place, true, ""});
            break;
        case MoveKind::PutBack:
            bodies.emplace_back(Refitted{next.place, false, ""});
            break;
        case MoveKind::MeasureAcross:
            bodies.push_back(across(next.place, next.against, next.mode));
            break;
        case MoveKind::Inject:
            bodies.emplace_back(HeatFound{HeatVerdict::None, next.side, {}, "", false, ""});
            break;
        case MoveKind::LookOver:
            bodies.emplace_back(Seen{"", Damage::None, "", ""});
            break;
        default:
            QVERIFY2(net >= 0, next.sentence.text().c_str());
            bodies.push_back(ohms(next.place.c_str(), 800));
        }
    }
    QVERIFY(ended);
}
