#include "base/random.h"
#include "diagnosis/assess.h"
#include "diagnosis/fact/fact_json.h"
#include "diagnosis/odds.h"
#include "support/boards.h"
#include "support/facts.h"
#include "unit/diagnosis/test_diagnosis.h"

#include <QTest>
#include <algorithm>
#include <cmath>

using namespace ustor;
using testing::diode;
using testing::factsOf;
using testing::ohms;

namespace {

const Suspect& suspect(const Assessment& a, const char* name) {
    const auto found = std::find_if(a.suspects.begin(), a.suspects.end(), [&](const Suspect& s) {
        return s.part >= 0 && a.state.board.parts[s.part].designator == name;
    });
    if (found == a.suspects.end()) qFatal("%s is no suspect", name);
    return *found;
}

HeatFound heatAt(const Board& board, std::initializer_list<const char*> parts) {
    HeatFound heat{HeatVerdict::Point, Side::Top, {}, ""};
    double snr = 60;
    for (const char* name : parts) {
        heat.spots.push_back({board.parts[board.findPart(name)].centre, 0.3, snr, 20, 0.3});
        snr *= 0.8;
    }
    return heat;
}

} // namespace

// Shannon: the entropy of n alike outcomes is the logarithm of n, that of a certain one nothing.
void TestSuspects::entropyAndOverflow() {
    QVERIFY(std::fabs(entropyBits({0.25, 0.25, 0.25, 0.25}) - 2) < 1e-12);
    QCOMPARE(entropyBits({1, 0}), 0.0);
    QVERIFY(std::fabs(normalised({1000, 1000})[0] - 0.5) < 1e-12); // no overflow
}

void TestSuspects::oddsSumToOneAndWeightsAddUp() {
    const Board board = testing::smallBoard();
    const auto a = assess(
        board, factsOf({ohms("C10.1", 0.3), Seen{"C11", Damage::Cracked, ""}, heatAt(board, {"C12"})}), {});
    double sum = 0;
    for (const Hypothesis& h : a.belief.hypotheses)
        sum += h.odds;
    QVERIFY(std::fabs(sum - 1) < 1e-9);
    // What is shown for a hypothesis adds up to the logarithm of its odds, from those before any fact on.
    const Hypothesis& likeliest = a.belief.hypotheses.front();
    double log = std::log(likeliest.prior);
    for (const Weight& w : likeliest.weights)
        log += w.weight;
    QVERIFY(std::fabs(log - std::log(likeliest.odds)) < 1e-6);
    // A suspect shows the weights of the likeliest hypothesis in which it is the cause.
    for (const Suspect& s : a.suspects) {
        double weights = 0;
        for (const Weight& w : s.evidence)
            weights += w.weight;
        QVERIFY(s.evidence.empty() || std::exp(weights) <= s.odds + 1e-9);
    }
    QVERIFY(a.suspects.back().part == -1 || a.suspects.back().odds <= a.suspects.front().odds);
}

void TestSuspects::heatPointsAtThePart() {
    const Board board = testing::smallBoard();
    const auto a = assess(board, factsOf({ohms("C10.1", 0.3), heatAt(board, {"C13"})}), {});
    QCOMPARE(board.parts[a.suspects.front().part].designator, std::string("C13"));
    QVERIFY(a.suspects.front().odds > 0.8);
    // The same warmth seen from the other side says less.
    HeatFound far = heatAt(board, {"C13"});
    far.side = Side::Bottom;
    far.verdict = HeatVerdict::FarSide;
    const auto b = assess(board, factsOf({ohms("C10.1", 0.3), far}), {});
    QCOMPARE(board.parts[b.suspects.front().part].designator, std::string("C13"));
    QVERIFY(b.suspects.front().odds < a.suspects.front().odds);
}

// Joule's law: one current goes through a punched switch and what lies behind it, so that the power is shared
// by their ohms. A core of three ohms takes more of it than a switch of some tenths.
void TestSuspects::heatGoesOnBehindAPunchedSwitch() {
    const Board board = testing::smallBoard();
    const auto oddsOf = [&](const std::vector<FactBody>& bodies, const char* part) {
        return assess(board, factsOf(bodies), {})
            .belief.cause[static_cast<std::size_t>(board.findPart(part))];
    };
    const std::vector<FactBody> read{ohms("C1.1", 3.1), ohms("C3.1", 3.0)};
    std::vector<FactBody> far = read, elsewhere = read;
    HeatFound heat = heatAt(board, {"U1"});
    heat.net = "VSYS_12V";
    far.emplace_back(heat);
    heat = heatAt(board, {"C12"});
    heat.net = "VSYS_12V";
    elsewhere.emplace_back(heat);
    const double before = oddsOf(read, "Q1"), behind = oddsOf(far, "Q1"), away = oddsOf(elsewhere, "Q1");
    QVERIFY2(behind > 1.5 * before && behind > away,
             qPrintable(QString("%1 %2 %3").arg(before).arg(behind).arg(away)));
}

// Kirchhoff: two ways beside each other share a current by what they conduct. A current into a core that is
// fine goes into the core, hardly through a punched switch and on into what lies before it: that the chip is
// warm says nothing against either.
void TestSuspects::aCoreBesideAPunchedSwitchIsWarmByItself() {
    const Board board = testing::smallBoard();
    const std::vector<FactBody> read{ohms("C1.1", 3.1), ohms("C3.1", 3.0)};
    std::vector<FactBody> warm = read;
    HeatFound heat = heatAt(board, {"U1"});
    heat.net = "+1V0_CORE";
    warm.emplace_back(heat);
    const Assessment before = assess(board, factsOf(read), {}), after = assess(board, factsOf(warm), {});
    const auto cause = [&](const Assessment& a, const char* part) {
        return a.belief.cause[static_cast<std::size_t>(board.findPart(part))];
    };
    QVERIFY2(cause(after, "Q1") > 0.7 * cause(before, "Q1"),
             qPrintable(QString("%1 %2").arg(cause(before, "Q1")).arg(cause(after, "Q1"))));
    QVERIFY2(cause(after, "U1") < 0.3, qPrintable(QString::number(cause(after, "U1"))));
}

// Ohm's law: a current into an output goes back through the body diode of its high side where the rail before
// it is shorted, and leaves most of its power in that diode. The switch is warm, and fine.
void TestSuspects::heatOfABodyDiodeIsAShortBeforeIt() {
    const Board board = testing::smallBoard();
    HeatFound heat = heatAt(board, {"Q1"});
    heat.net = "+1V0_CORE";
    const Assessment a = assess(board, factsOf({ohms("C1.1", 0.2), ohms("C3.1", 3.0), heat}), {});
    const auto cause = [&](const char* part) {
        return a.belief.cause[static_cast<std::size_t>(board.findPart(part))];
    };
    const double capacitors = cause("C1") + cause("C2");
    QVERIFY2(capacitors > 2 * cause("Q1"), qPrintable(QString("%1 %2").arg(capacitors).arg(cause("Q1"))));
}

// Heat at a part without which the rail reads the same was not its own; a slip of the probe is no proof of
// that: the rail read again tells.
void TestSuspects::whatCarriedNothingDidNotWarm() {
    const Board board = testing::smallBoard();
    const auto index = static_cast<std::size_t>(board.findPart("U1"));
    const auto odds = [&](const std::vector<FactBody>& bodies) {
        return assess(board, factsOf(bodies), {}).belief.cause[index];
    };
    HeatFound heat = heatAt(board, {"U1"});
    heat.net = "+1V0_CORE";
    const std::vector<FactBody> warm{ohms("C3.1", 2.7), heat};
    std::vector<FactBody> same = warm, slipped = warm;
    same.emplace_back(Lifted{"U1"});
    same.push_back(ohms("C3.1", 2.7));
    QVERIFY2(odds(same) < 0.5 * odds(warm), qPrintable(QString("%1 %2").arg(odds(warm)).arg(odds(same))));
    slipped.emplace_back(Lifted{"U1"});
    slipped.push_back(ohms("C3.1", 2.7));
    slipped.push_back(ohms("C3.1", 2e4));
    slipped.push_back(ohms("C3.1", 2e4));
    QVERIFY2(odds(slipped) > odds(same), qPrintable(QString("%1 %2").arg(odds(same)).arg(odds(slipped))));
}

// What became warmer between two stills may be a hand or hot-air heat (common practice): it moves the odds,
// is written and read as what it is, spares no injection, and counts for nothing beside one.
void TestSuspects::stillsSayLessThanAnInjection() {
    const Board board = testing::smallBoard();
    HeatFound stills = heatAt(board, {"C13"});
    stills.fromStills = true;
    const auto facts = factsOf({ohms("C10.1", 0.3), stills});
    const auto back = factFromJson(factToJson(facts.back()));
    QVERIFY(back.ok() && std::get<HeatFound>(back.value().body).fromStills);
    const double before = suspect(assess(board, factsOf({ohms("C10.1", 0.3)}), {}), "C13").odds;
    const auto a = assess(board, facts, {});
    QVERIFY(suspect(a, "C13").odds > 2 * before && suspect(a, "C13").odds < 0.9);
    QVERIFY(std::any_of(a.next.begin(), a.next.end(),
                        [](const NextMove& move) { return move.kind == MoveKind::Inject; }));
    const auto both = assess(board, factsOf({ohms("C10.1", 0.3), stills, heatAt(board, {"C12"})}), {});
    QCOMPARE(board.parts[both.suspects.front().part].designator, std::string("C12"));
    const auto alone = assess(board, factsOf({ohms("C10.1", 0.3), heatAt(board, {"C12"})}), {});
    QCOMPARE(suspect(both, "C13").odds, suspect(alone, "C13").odds);
}

// Parts in the path warm and are fine (common practice): the fault is what is left over.
void TestSuspects::partsInThePathExplainTheirHeat() {
    const Board board = testing::smallBoard();
    const auto a = assess(board, factsOf({ohms("C1.1", 0.3), heatAt(board, {"F1", "C2"})}), {});
    QCOMPARE(board.parts[a.suspects.front().part].designator, std::string("C2"));
    QVERIFY(a.suspects.front().odds > 0.7);
}

// Damage that is seen moves the odds, and proves nothing (common practice).
void TestSuspects::damageMovesTheOddsAndProvesNothing() {
    const Board board = testing::smallBoard();
    const double before = suspect(assess(board, factsOf({ohms("C10.1", 0.3)}), {}), "C14").odds;
    const double seen =
        suspect(assess(board, factsOf({ohms("C10.1", 0.3), Seen{"C14", Damage::Burnt, ""}}), {}), "C14").odds;
    const double fine =
        suspect(assess(board, factsOf({ohms("C10.1", 0.3), Seen{"C14", Damage::None, ""}}), {}), "C14").odds;
    QVERIFY(seen > 2 * before && seen < 0.95);
    QVERIFY(fine < before);
}

// Short stays: the next one comes under suspicion (common practice). It may be one of two, for it did warm;
// but it is off, and nothing more is asked of it.
void TestSuspects::whatWasLiftedAndDidNotHelpIsCleared() {
    const Board board = testing::smallBoard();
    const auto a = assess(board, factsOf({ohms("C10.1", 0.3), Lifted{"C13"}, ohms("C10.1", 0.3)}), {});
    QVERIFY(suspect(a, "C13").cleared);
    QVERIFY(!a.suspects.front().cleared);
    QVERIFY(std::none_of(a.next.begin(), a.next.end(), [](const NextMove& m) { return m.place == "C13"; }));
    QVERIFY(a.culprit.empty());
}

// A body that was warm by itself under current was shorted (Joule), though a second short stays without it:
// it is guilty, off, and behind what may be the second one.
void TestSuspects::theFirstOfTwoStaysGuilty() {
    const Board board = testing::smallBoard();
    const auto a = assess(
        board, factsOf({ohms("C10.1", 0.3), heatAt(board, {"C13"}), Lifted{"C13"}, ohms("C10.1", 0.3)}), {});
    const Suspect& first = suspect(a, "C13");
    QVERIFY(first.odds > 0.9 && first.off && !first.cleared);
    QVERIFY(!a.suspects.front().off && !a.suspects.front().cleared);
    // Those that may be the second one come before it, what is cleared behind it.
    for (const Suspect& s : a.suspects)
        if (s.off && &s != &first) QVERIFY(s.cleared);
    QVERIFY(std::none_of(a.next.begin(), a.next.end(), [](const NextMove& m) { return m.place == "C13"; }));
}

void TestSuspects::theShortWentWithTheLastPart() {
    const Board board = testing::smallBoard();
    const auto a = assess(
        board,
        factsOf({ohms("C10.1", 0.3), Lifted{"C13"}, ohms("C10.1", 0.3), Lifted{"C12"}, ohms("C10.1", 4000)}),
        {});
    QCOMPARE(a.culprit, std::string("C12"));
    QCOMPARE(board.parts[a.suspects.front().part].designator, std::string("C12"));
    QVERIFY(a.suspects.front().odds > 0.9);
    QVERIFY(std::any_of(a.next.begin(), a.next.end(),
                        [](const NextMove& m) { return m.kind == MoveKind::Replace && m.place == "C12"; }));
}

// A new C13 is another part than the one that shorted: how often the repaired rail is read does not matter.
void TestSuspects::healthyReadingsAcquitNoCulprit() {
    const Board board = testing::smallBoard();
    std::vector<FactBody> bodies{ohms("C10.1", 0.3), Lifted{"C13"}, ohms("C10.1", 900),
                                 Refitted{"C13", true, ""}};
    double before = suspect(assess(board, factsOf(bodies), {}), "C13").odds;
    QVERIFY(before > 0.8); // one reading in fifty is a slip
    for (int again = 0; again < 3; ++again) {
        bodies.emplace_back(ohms("C10.1", 880 + again));
        const Assessment a = assess(board, factsOf(bodies), {});
        QVERIFY2(suspect(a, "C13").odds >= before - 1e-9,
                 qPrintable(QString("%1 %2").arg(again).arg(suspect(a, "C13").odds)));
        QCOMPARE(a.culprit, std::string("C13"));
        QCOMPARE(a.state.generation.at("C13"), 1);
        before = suspect(a, "C13").odds;
    }
}

// Two at once: the first was cleared, for the short stayed; put back on it brings it back.
void TestSuspects::aPartThatBringsTheShortBackIsNotCleared() {
    const Board board = testing::smallBoard();
    std::vector<FactBody> bodies{ohms("C10.1", 0.3), Lifted{"C12"},      ohms("C10.1", 0.3),
                                 Lifted{"C13"},      ohms("C10.1", 900), diode("C11.1", 0.42)};
    QVERIFY(suspect(assess(board, factsOf(bodies), {}), "C12").cleared);
    bodies.emplace_back(Refitted{"C12", false, ""});
    bodies.emplace_back(ohms("C10.1", 0.4));
    const Assessment a = assess(board, factsOf(bodies), {});
    QVERIFY(!suspect(a, "C12").cleared);
    QCOMPARE(board.parts[a.suspects.front().part].designator, std::string("C12"));
    QVERIFY(a.suspects.front().odds > 0.85);
}

// With one reading between, among many parts, it may as well have been that reading: but what may have
// brought the short back is not struck off the list.
void TestSuspects::whatMayHaveBroughtTheShortBackIsNotCleared() {
    const Board board = testing::demoBoard("greenhouse-controller");
    const Assessment a = assess(board,
                                factsOf({ohms("L2.2", 0.3), Lifted{"C10"}, ohms("L2.2", 0.3), Lifted{"C11"},
                                         ohms("L2.2", 4000), Refitted{"C10", false, ""}, ohms("L2.2", 0.3)}),
                                {});
    QVERIFY(suspect(a, "C10").odds > suspect(a, "C12").odds);
    QVERIFY(!suspect(a, "C10").cleared);
}

// A second rail that still reads down keeps the case open.
void TestSuspects::oneRailHealedIsNotTheEnd() {
    const Board board = testing::smallBoard();
    std::vector<FactBody> bodies{ohms("C10.1", 0.3), ohms("F1.1", 0.5),         Lifted{"C13"},
                                 ohms("C10.1", 900), Refitted{"C13", true, ""}, ohms("C10.1", 900)};
    const auto closes = [&] {
        const auto moves = assess(board, factsOf(bodies), {}).next;
        return std::any_of(moves.begin(), moves.end(),
                           [](const NextMove& move) { return move.kind == MoveKind::Close; });
    };
    QVERIFY(!closes());
    const Assessment a = assess(board, factsOf(bodies), {});
    QVERIFY(a.down.holds(netOfPlace(board, "F1.1")));
    bodies.emplace_back(ohms("F1.1", 1200)); // it was one fault, seen on both
    QVERIFY(!closes());                      // what was not put under power is not proven
    bodies.emplace_back(SourceShows{12, 0.02, "", Reaction::None});
    QVERIFY(!closes());
    bodies.emplace_back(SourceShows{12, 0.6, "", Reaction::Starts});
    QVERIFY(closes());
}

void TestSuspects::assessmentIsPure() {
    const Board board = testing::smallBoard();
    const auto facts = factsOf(
        {Complaint{"dead"}, ohms("C10.1", 0.3), heatAt(board, {"C13"}), Lifted{"C13"}, ohms("C10.1", 4000)});
    const auto a = assess(board, facts, {}), b = assess(board, facts, {});
    QCOMPARE(a.suspects.size(), b.suspects.size());
    for (std::size_t i = 0; i < a.suspects.size(); ++i)
        QCOMPARE(a.suspects[i].odds, b.suspects[i].odds);
    // A struck fact leaves nothing behind.
    auto struck = facts;
    struck.push_back({9, 0, Struck{3}});
    auto without = facts;
    without.erase(without.begin() + 2);
    const auto c = assess(board, struck, {}), d = assess(board, without, {});
    for (std::size_t i = 0; i < c.suspects.size(); ++i)
        QCOMPARE(c.suspects[i].odds, d.suspects[i].odds);
}

void TestSuspects::nextMovesFollowTheWork() {
    const Board board = testing::smallBoard();
    const auto first = [&](const std::vector<FactBody>& bodies) {
        const auto a = assess(board, factsOf(bodies), {});
        return a.next.empty() ? MoveKind::Stop : a.next.front().kind;
    };
    const Complaint story{"dead"};
    QCOMPARE(first({story}), MoveKind::ReadSource);
    QCOMPARE(first({story, SourceShows{12, 0.02, ""}}), MoveKind::MeasureRail);
    const auto surveyed = assess(board, factsOf({story, ohms("C10.1", 0.3)}), {});
    QCOMPARE(surveyed.next.front().kind, MoveKind::Inject);
    QVERIFY(!surveyed.next.front().risk.empty());
    QCOMPARE(first({story, ohms("C10.1", 0.3), heatAt(board, {"C13"})}), MoveKind::Lift);
    QCOMPARE(first({story, ohms("C10.1", 0.3), heatAt(board, {"C13"}), Lifted{"C13"}}),
             MoveKind::MeasureAfterLift);
    QCOMPARE(first({story, ohms("C10.1", 0.3), heatAt(board, {"C13"}), Lifted{"C13"}, ohms("C10.1", 3000)}),
             MoveKind::Replace);
    std::vector<FactBody> refitted{story,         ohms("C10.1", 0.3),  heatAt(board, {"C13"}),
                                   Lifted{"C13"}, ohms("C10.1", 3000), Refitted{"C13", true, ""}};
    QCOMPARE(first(refitted), MoveKind::ProveRail);
    refitted.emplace_back(ohms("C10.1", 3000));
    // Rails that nobody has read, then power, then the end.
    for (int i = 0; i < 4 && first(refitted) == MoveKind::ProveRail; ++i) {
        const auto move = assess(board, factsOf(refitted), {}).next.front();
        refitted.emplace_back(ohms(move.place.c_str(), 4000));
    }
    QCOMPARE(first(refitted), MoveKind::FirstPower);
    refitted.emplace_back(SourceShows{12, 0.6, "", Reaction::Starts});
    QCOMPARE(first(refitted), MoveKind::Close);
    // No current and no rail down: first of all an open part on the way of the power (common practice).
    std::vector<FactBody> healthy{story, SourceShows{12, 0, ""}};
    for (const NetIndex net : powerNets(board)) {
        const std::string& name = board.nets[net].name;
        healthy.push_back(ohms(name.c_str(), name.ends_with("12V") ? 5000 : name == "+3V3" ? 640 : 4));
    }
    const auto a = assess(board, factsOf(healthy), {});
    // From pad to pad of what may be open or punched through, before anything is lifted. Both ends of the
    // fuse read alike: it conducts.
    QCOMPARE(a.next.front().kind, MoveKind::MeasureAcross);
    QVERIFY(!a.next.front().place.starts_with("F1"));
}

// Several shorted rails may be one fault seen through a switch that conducts (common practice).
void TestSuspects::aSwitchThatConductsJoinsTheRails() {
    const Board board = testing::smallBoard();
    const PartIndex q1 = board.findPart("Q1");
    const Part& q = board.parts[q1];
    const auto pinOn = [&](const char* net) {
        for (const Pad& pad : q.pads)
            if (pad.net == board.findNet(net)) return q.designator + "." + pad.pin;
        qFatal("Q1 has no pin there");
    };
    std::string other;
    for (const Pad& pad : q.pads)
        if (pad.pin != "G" && pad.net != board.findNet("VSYS_12V") && !board.nets[pad.net].ground)
            other = board.nets[pad.net].name;
    const auto across = [&](double value) {
        ReadingTaken taken = ohms(pinOn("VSYS_12V").c_str(), value);
        taken.against = pinOn(other.c_str());
        return taken;
    };
    const auto down = [&](const std::vector<FactBody>& more) {
        std::vector<FactBody> facts{ohms("VSYS_12V", 0.3)};
        facts.insert(facts.end(), more.begin(), more.end());
        return assess(board, factsOf(facts), {}).down.holds(board.findNet(other));
    };
    QVERIFY(!down({}));
    QVERIFY(down({across(0.02)}));
    QVERIFY(!down({across(400)}));
    QVERIFY(!down({across(0.02), across(400)})); // the newest counts
}

// Stay near one volt; climbing is a choice for when nothing showed (common practice): both sides first, and
// once.
void TestSuspects::voltageIsRaisedOnlyWhenNothingShowed() {
    const Board board = testing::smallBoard();
    const auto climbs = [&](const std::vector<FactBody>& more) {
        std::vector<FactBody> all{Complaint{"dead"}, ohms("C10.1", 0.3)};
        all.insert(all.end(), more.begin(), more.end());
        const auto next = assess(board, factsOf(all), {}).next;
        return std::any_of(next.begin(), next.end(), [](const NextMove& m) {
            return m.kind == MoveKind::Inject && m.school == School::Climb;
        });
    };
    const HeatFound top{HeatVerdict::None, Side::Top, {}, ""},
        bottom{HeatVerdict::None, Side::Bottom, {}, ""};
    QVERIFY(!climbs({}));
    QVERIFY(!climbs({top}));
    QVERIFY(climbs({top, bottom}));
    QVERIFY(!climbs({top, {HeatFound{HeatVerdict::Spread, Side::Bottom, {}, ""}}}));
    InjectionDone raised;
    raised.net = "+3V3";
    raised.volts = 2.2;
    QVERIFY(!climbs({top, bottom, raised}));
}

// A wide warm area: inner layer, or the warmth of something on the other side (common practice).
void TestSuspects::otherSideIsFacedWhenThisOneDoesNotSettle() {
    const Board board = testing::smallBoard();
    const auto turnOffered = [&](const HeatFound& heat) {
        const auto a = assess(board, factsOf({Complaint{"dead"}, ohms("C10.1", 0.3), heat}), {});
        const auto move = std::find_if(a.next.begin(), a.next.end(),
                                       [](const NextMove& m) { return m.kind == MoveKind::TurnOver; });
        if (move != a.next.end() && move->side == heat.side) qFatal("turned to the same side");
        return move != a.next.end() && worthTurning(a.state, a.suspects);
    };
    QVERIFY(!turnOffered(heatAt(board, {"C13"})));
    QVERIFY(turnOffered({HeatVerdict::None, Side::Top, {}, ""}));
    QVERIFY(turnOffered({HeatVerdict::Spread, Side::Bottom, {}, ""}));
    HeatFound strayed = heatAt(board, {"C13"}); // a point, but where no part of the rail is
    strayed.spots.front().at = {1, 1};
    QVERIFY(turnOffered(strayed));
    const auto before = assess(board, factsOf({Complaint{"dead"}, ohms("C10.1", 0.3)}), {});
    QVERIFY(!worthTurning(before.state, before.suspects));
    QVERIFY(before.next.front().side == Side::Top);
}

void TestSuspects::trailNamesTheNet() {
    const Board board = testing::smallBoard();
    QVERIFY(sentenceOn(board, ohms("C10.1", 0.3)).text().find("(+3V3)") != std::string::npos);
    QCOMPARE(sentenceOn(board, ohms("+3V3", 0.3)), sentenceOf(ohms("+3V3", 0.3)));
    QCOMPARE(sentenceOn(board, ohms("X9.1", 0.3)), sentenceOf(ohms("X9.1", 0.3)));
    QCOMPARE(sentenceOn(board, Noted{"tea"}), sentenceOf(Noted{"tea"}));
}

// New switch and old controller is a dead new switch (common practice): the set goes together, the fuse is
// measured.
void TestSuspects::switchesGoTogether() {
    const Board board = testing::smallBoard();
    std::vector<std::string> replace;
    for (const Together& t : replaceTogether(board, "Q2"))
        if (t.replace) replace.push_back(board.parts[t.part].designator);
    std::sort(replace.begin(), replace.end());
    QCOMPARE(replace, (std::vector<std::string>{"Q1", "U3"}));
    std::vector<std::string> high;
    for (const Together& t : replaceTogether(board, "Q1"))
        if (t.replace) high.push_back(board.parts[t.part].designator);
    std::sort(high.begin(), high.end());
    QCOMPARE(high, (std::vector<std::string>{"Q2", "U3"}));
    QVERIFY(replaceTogether(board, "C10").empty());
    QVERIFY(replaceTogether(board, "nothing").empty());
}

void TestSuspects::correctedClassCounts() {
    const Board board = testing::smallBoard();
    const auto a = assess(
        board,
        factsOf({ohms("C10.1", 0.3), ClassCorrected{"C10", PartClass::TestPoint}, NominalSet{"+3V3", 2.5}}),
        {});
    QVERIFY(std::none_of(a.suspects.begin(), a.suspects.end(),
                         [&](const Suspect& s) { return s.part == board.findPart("C10"); }));
    QCOMPARE(a.down.nominal->value, 2.5);
}

// What follows from the board is kept while facts come, and not beyond a correction: a link that is none
// parts a rail, as on a board that was drawn so.
void TestSuspects::aCorrectedBoardIsJudgedAsIfDrawnSo() {
    const Board board = testing::demoBoard("chart-plotter");
    Board drawnSo = board;
    drawnSo.parts[static_cast<std::size_t>(board.findPart("R2"))].partClass = PartClass::Resistor;
    drawnSo.nets[static_cast<std::size_t>(board.findNet("+3V3"))].nominal = Volts(2.5);
    const std::vector<FactBody> readings{ohms("C1.1", 0.3), ohms("Q1.D", 3000), ohms("L2.2", 600)};
    std::vector<FactBody> corrected = readings;
    corrected.emplace_back(ClassCorrected{"R2", PartClass::Resistor});
    corrected.emplace_back(NominalSet{"+3V3", 2.5});
    const Assessment a = assess(board, factsOf(corrected), {}), b = assess(drawnSo, factsOf(readings), {});
    QCOMPARE(a.belief.hypotheses.size(), b.belief.hypotheses.size());
    constexpr double same = 1e-9;
    for (std::size_t p = 0; p < board.parts.size(); ++p)
        QVERIFY2(std::fabs(a.belief.cause[p] - b.belief.cause[p]) < same, board.parts[p].designator.c_str());
}
