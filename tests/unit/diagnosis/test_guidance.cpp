#include "base/quantity_text.h"
#include "diagnosis/assess.h"
#include "diagnosis/work_time.h"
#include "support/boards.h"
#include "support/facts.h"
#include "unit/diagnosis/test_diagnosis.h"

#include <QTest>
#include <algorithm>
#include <cmath>

using namespace ustor;
using testing::factsOf;
using testing::ohms;

namespace {

HeatFound warmAt(const Board& board, const char* part) {
    return {
        HeatVerdict::Point, Side::Top, {{board.parts[board.findPart(part)].centre, 0.3, 60, 20, 0.3}}, ""};
}

double causeOf(const Assessment& a, const char* part) {
    return a.belief.cause[static_cast<std::size_t>(a.state.board.findPart(part))];
}

/// Shannon's entropy in bits, written out.
double doubt_bits(const Belief& belief) {
    double bits = 0;
    for (const Hypothesis& h : belief.hypotheses)
        if (h.odds > 0) bits -= h.odds * std::log(h.odds) / std::log(2.0);
    return bits;
}

} // namespace

// What is told of a lift is the difference of two assessments: of the facts before it, and of all.
void TestGuidance::whatALiftTaught() {
    const Board board = testing::smallBoard();
    const std::vector<FactBody> before{Complaint{"dead"}, ohms("C10.1", 0.3)};
    std::vector<FactBody> after = before;
    after.emplace_back(Lifted{"C13"});
    after.emplace_back(ohms("C10.1", 0.3));
    const Assessment then = assess(board, factsOf(before), {}), now = assess(board, factsOf(after), {});
    QCOMPARE(then.learnt.fact, 0L);
    QCOMPARE(now.learnt.fact, 3L);
    QVERIFY(!now.learnt.shifts.empty());
    const Learnt::Shift& most = now.learnt.shifts.front();
    QCOMPARE(board.parts[static_cast<std::size_t>(most.part)].designator, std::string("C13"));
    QVERIFY(most.before > 0.1 && most.after < 0.05);
    QVERIFY(std::fabs(most.before - causeOf(then, "C13")) < 1e-12);
    QVERIFY(std::fabs(most.after - causeOf(now, "C13")) < 1e-12);
    QVERIFY(std::fabs(now.learnt.bits - (doubt_bits(then.belief) - doubt_bits(now.belief))) < 1e-9);
}

// A capacitor that was warm by itself under current was shorted (Joule), though the short stays without it:
// what is off is told first, and that it stays guilty; then what else is.
void TestGuidance::whatIsOffIsToldFirst() {
    const Board board = testing::smallBoard();
    const Learnt learnt =
        assess(board, factsOf({ohms("C10.1", 0.3), warmAt(board, "C13"), Lifted{"C13"}, ohms("C10.1", 0.3)}),
               {})
            .learnt;
    QVERIFY(learnt.shifts.size() > 1);
    QCOMPARE(board.parts[static_cast<std::size_t>(learnt.shifts.front().part)].designator,
             std::string("C13"));
    QVERIFY(learnt.shifts.front().after > 0.9);
    for (std::size_t i = 1; i < learnt.shifts.size(); ++i)
        QVERIFY(learnt.shifts[i].after > learnt.shifts[i].before + 0.05);
}

// However the facts came, one by one, all at once, struck out and brought back: the same was learnt.
void TestGuidance::lookingBackIsTheSameHoweverTheFactsCame() {
    const Board board = testing::smallBoard();
    const std::vector<Fact> facts = factsOf(
        {ohms("C10.1", 0.3), warmAt(board, "C13"), Lifted{"C13"}, ohms("C10.1", 0.3), Lifted{"C12"},
         ohms("C10.1", 0.3), Struck{6}, Struck{5}, Struck{8}, Struck{2}, Lifted{"C11"}, ohms("C10.1", 900)});
    Assessor kept(board, {});
    std::vector<Fact> sofar;
    for (const Fact& fact : facts) {
        sofar.push_back(fact);
        kept.take(sofar);
        const Learnt one = kept.assessment().learnt, all = assess(board, sofar, {}).learnt;
        QCOMPARE(one.fact, all.fact);
        QVERIFY2(std::fabs(one.bits - all.bits) < 1e-9, qPrintable(QString("fact %1").arg(fact.id)));
        QCOMPARE(one.shifts.size(), all.shifts.size());
        for (std::size_t i = 0; i < one.shifts.size(); ++i) {
            QCOMPARE(one.shifts[i].part, all.shifts[i].part);
            QVERIFY(std::fabs(one.shifts[i].before - all.shifts[i].before) < 1e-9);
            QVERIFY(std::fabs(one.shifts[i].after - all.shifts[i].after) < 1e-9);
        }
    }
    QCOMPARE(kept.assessment().learnt.fact, 11L);
    // What good boards read is often known only after the case was opened: it counts for both sides.
    Knowledge knowledge;
    knowledge.knownGood.readings.push_back(
        {"C10.1", {MeterMode::Ohms, ReadingState::Value, 900, 1}, false, {}});
    kept.setKnown(knowledge.knownGood, {});
    const Learnt one = kept.assessment().learnt, all = assess(board, facts, knowledge).learnt;
    QCOMPARE(one.fact, all.fact);
    QVERIFY(std::fabs(one.bits - all.bits) < 1e-9);
}

// Minutes are the trail's own, a gap longer than any move is a break, and a clock that was set back counts
// nothing.
void TestGuidance::minutesByTheTrail() {
    auto facts = factsOf({Complaint{"dead"}, ohms("C10.1", 0.3), ohms("C10.1", 0.3), ohms("C10.1", 0.3)});
    QCOMPARE(WorkTime(facts).minutes(), 3.0);
    facts[2].time_s = facts[1].time_s + 3600 * 14; // the next morning
    facts[3].time_s = facts[2].time_s + 60 * 12;
    QCOMPARE(WorkTime(facts).minutes(), 13.0);
    facts[3].time_s = facts[2].time_s - 60;
    QCOMPARE(WorkTime(facts).minutes(), 1.0);
    QCOMPARE(WorkTime({}).minutes(), 0.0);
    QCOMPARE(WorkTime(facts).factsAfter(0.5), std::size_t(1));
}

// Sixteen capacitors that took four minutes each, where common practice says two: with a normal prior of four
// pseudo-observations over the logarithm (conjugate mean; Gelman and others, Bayesian Data Analysis, 2.5
// [memory]) the factor is 2^(16/20). What was noted in a go, a break and what was struck out are not timed.
void TestGuidance::theShopsOwnPaceCounts() {
    const Board board = testing::smallBoard();
    std::vector<Fact> facts;
    const auto add = [&](const FactBody& body, double after_min) {
        const double before_s = facts.empty() ? 0 : facts.back().time_s;
        facts.push_back({static_cast<long>(facts.size()) + 1, before_s + 60 * after_min, body});
    };
    add(Complaint{"dead"}, 0);
    for (int i = 0; i < 16; ++i)
        add(Lifted{"C13"}, 4);
    add(Lifted{"C13"}, 0.1);
    add(Lifted{"C13"}, 14 * 60);
    add(Lifted{"C13"}, 20);
    add(Struck{static_cast<long>(facts.size())}, 1);
    const WorkPace pace = paceOf(board, facts);
    QCOMPARE(pace.timed(WorkKind::LiftSmall).times, 16L);
    QVERIFY(std::fabs(pace.factor(WorkKind::LiftSmall) - std::pow(2.0, 0.8)) < 1e-12);
    QCOMPARE(pace.factor(WorkKind::LiftChip), 1.0);

    Knowledge slow;
    slow.pace = pace;
    const auto liftOf = [&](const Knowledge& knowledge) {
        const auto next = assess(board, factsOf({ohms("C10.1", 0.3), warmAt(board, "C13")}), knowledge).next;
        return *std::find_if(next.begin(), next.end(),
                             [](const NextMove& m) { return m.kind == MoveKind::Lift && m.place == "C13"; });
    };
    const NextMove usual = liftOf({}), here = liftOf(slow);
    QCOMPARE(usual.minutes, 2.0 + 1);
    QVERIFY(std::fabs(here.minutes - (2 * std::pow(2.0, 0.8) + 1)) < 1e-12);
    QVERIFY(here.reason.text().find("16 that were timed here") != std::string::npos);
    QVERIFY(usual.reason.text().find("timed") == std::string::npos);
}

void TestGuidance::thePaceReadsBack() {
    CasePace one{"hub, \"the first\"", {}}, two{"plotter", {}};
    one.pace.add(WorkKind::Read, {12, 12 * std::log(1.5)});
    one.pace.add(WorkKind::LiftChip, {2, 2 * std::log(0.5)});
    two.pace.add(WorkKind::LookAtHeat, {1, std::log(3.0)});
    std::vector<Message> warnings;
    const std::string text = paceToCsv({one, two});
    const auto read = readPace(text, "pace.csv", warnings).value();
    QVERIFY(warnings.empty());
    QCOMPARE(read.size(), std::size_t(2));
    QCOMPARE(read[0].caseName, one.caseName);
    for (const WorkKind kind : workKinds) {
        QCOMPARE(read[0].pace.timed(kind).times, one.pace.timed(kind).times);
        QVERIFY(std::fabs(read[0].pace.factor(kind) - one.pace.factor(kind)) < 1e-9);
        QVERIFY(std::fabs(read[1].pace.factor(kind) - two.pace.factor(kind)) < 1e-9);
    }
    // Each row that is none is told by its line; the others stand.
    const auto rest = readPace("case,work,times,against_usual\n"
                               "a,read,3,1\n"
                               "a,dance,3,1\n"
                               "a,read,-3,1\n"
                               "a,read,3,nan\n"
                               "a,read,3,1e9\n"
                               ",read,3,1\n"
                               "a,read\n",
                               "pace.csv", warnings)
                          .value();
    QCOMPARE(rest.size(), std::size_t(1));
    QCOMPARE(rest[0].pace.timed(WorkKind::Read).times, 3L);
    QCOMPARE(warnings.size(), std::size_t(6));
    QVERIFY(warnings.front().text().find("pace.csv:3") != std::string::npos);
    QVERIFY(!readPace("place,mode\n", "other.csv", warnings).ok());
}

// An hour that left the doubt as it was is said to have done so; one that taught something is not. What it
// taught is the difference of two assessments, and the same however the facts came.
void TestGuidance::anHourThatBroughtNothingIsSaid() {
    const Board board = testing::smallBoard();
    std::vector<FactBody> bodies{Complaint{"dead"}, ohms("C10.1", 0.3)};
    for (int i = 0; i < 5; ++i)
        bodies.emplace_back(ohms("C10.1", 0.3));
    constexpr double apart_s = 15 * 60;
    const auto told = [&](bool oneByOne) {
        auto facts = factsOf(bodies);
        for (std::size_t i = 0; i < facts.size(); ++i)
            facts[i].time_s = apart_s * static_cast<double>(i);
        if (!oneByOne) return assess(board, facts, {});
        Assessor kept(board, {});
        std::vector<Fact> sofar;
        for (const Fact& fact : facts) {
            sofar.push_back(fact);
            kept.take(sofar);
        }
        return kept.assessment();
    };
    const auto stands = [](const Assessment& a) {
        return std::any_of(a.setAside.begin(), a.setAside.end(), [](const SetAside& each) {
            return each.why.text().find("hour of work") != std::string::npos;
        });
    };
    const Assessment idle = told(false);
    QCOMPARE(idle.worked_min, 90.0);
    QVERIFY(idle.hourBits && *idle.hourBits < 0.2 && stands(idle));
    // Twenty minutes after the start two facts were known.
    const Assessment then = assess(board, factsOf({bodies[0], bodies[1]}), {});
    QVERIFY(std::fabs(*idle.hourBits - (doubt_bits(then.belief) - doubt_bits(idle.belief))) < 1e-9);
    QVERIFY(std::fabs(*told(true).hourBits - *idle.hourBits) < 1e-9);
    bodies.back() = warmAt(board, "C13");
    QVERIFY(*told(false).hourBits > 0.2 && !stands(told(false)));
    bodies.resize(4);
    QVERIFY(!told(false).hourBits && !stands(told(false)));
}

// What was worked is more than the job pays, and nothing is likely: stop. In the time that the same facts
// take when they are noted at once it is not.
void TestGuidance::theTrailsClockStopsTheHunt() {
    const Board board = testing::smallBoard();
    std::vector<FactBody> bodies{Complaint{"dead"}, FeeAgreed{40, 0, 60}, ohms("C10.1", 0.3)};
    for (int i = 0; i < 3; ++i)
        bodies.emplace_back(ohms("C10.1", 0.3));
    auto facts = factsOf(bodies);
    const auto stops = [&] {
        const auto moves = assess(board, facts, {}).next;
        return !moves.empty() && moves.front().end == CaseEnd::NotWorthIt;
    };
    QVERIFY(!stops());
    for (std::size_t i = 0; i < facts.size(); ++i)
        facts[i].time_s = 15.0 * 60 * static_cast<double>(i);
    QVERIFY(stops());
}

void TestGuidance::theChosenSchoolComesFirst_data() {
    QTest::addColumn<HuntSchool>("school");
    QTest::newRow("capacitors") << HuntSchool::Capacitors;
    QTest::newRow("chips") << HuntSchool::Chips;
    QTest::newRow("eyes") << HuntSchool::Eyes;
    QTest::newRow("heat") << HuntSchool::Heat;
}

// Common practice: some lift capacitors first, some chips, some look first, some inject at once. Each may,
// and is told what it costs beside the move that would have been first.
void TestGuidance::theChosenSchoolComesFirst() {
    QFETCH(HuntSchool, school);
    const Board board = testing::smallBoard();
    std::vector<FactBody> bodies{Complaint{"dead"}, SourceShows{12, 0.02, "", Reaction::None},
                                 ohms("C1.1", 3000), ohms("C3.1", 300), ohms("C10.1", 0.3)};
    const auto plain = assess(board, factsOf(bodies), {}).next;
    bodies.emplace_back(SchoolChosen{school});
    const Assessment a = assess(board, factsOf(bodies), {});
    QVERIFY(!plain.empty() && plain.front().turn > 0 && !a.next.empty());
    const NextMove& first = a.next.front();
    const PartIndex p = board.findPart(first.place);
    const PartClass partClass = p < 0 ? PartClass::Other : board.parts[static_cast<std::size_t>(p)].partClass;
    const bool capacitor = partClass == PartClass::CeramicCapacitor || partClass == PartClass::PolarCapacitor;
    const bool lifts = first.kind == MoveKind::Lift;
    QVERIFY2(school == HuntSchool::Capacitors ? lifts && capacitor
             : school == HuntSchool::Chips    ? lifts && !capacitor
             : school == HuntSchool::Eyes     ? first.kind == MoveKind::LookOver
                                              : first.kind == MoveKind::Inject,
             first.sentence.text().c_str());
    const auto same = [](const NextMove& x, const NextMove& y) {
        return x.kind == y.kind && x.place == y.place;
    };
    if (same(first, plain.front())) return; // it would have been first anyway
    const double dearer = first.total() - plain.front().total();
    QVERIFY2(first.reason.text().find(quantityText(std::max(0.0, dearer), "min")) != std::string::npos,
             first.reason.text().c_str());
    QVERIFY(first.reason.text().find(plain.front().sentence.text()) != std::string::npos);
}

// What was worked on is read again before anything else, whatever was chosen; and the choice can be undone.
void TestGuidance::whatHasToComeFirstStays() {
    const Board board = testing::smallBoard();
    std::vector<FactBody> bodies{ohms("C10.1", 0.3), SchoolChosen{HuntSchool::Chips}, Lifted{"C13"}};
    const Assessment a = assess(board, factsOf(bodies), {});
    QCOMPARE(a.next.front().kind, MoveKind::MeasureAfterLift);
    bodies = {ohms("C10.1", 0.3)};
    const auto plain = assess(board, factsOf(bodies), {}).next;
    bodies.emplace_back(SchoolChosen{HuntSchool::Chips});
    bodies.emplace_back(SchoolChosen{HuntSchool::Cheapest});
    const auto back = assess(board, factsOf(bodies), {}).next;
    QCOMPARE(back.size(), plain.size());
    for (std::size_t i = 0; i < plain.size(); ++i)
        QCOMPARE(back[i].sentence.text(), plain[i].sentence.text());
}
