#include "base/random.h"
#include "diagnosis/assess.h"
#include "diagnosis/evidence/part_evidence.h"
#include "diagnosis/hypothesis/words.h"
#include "diagnosis/moves/cost_to_repair.h"
#include "diagnosis/odds.h"
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

Board twoRails() {
    Board board;
    board.outline = {{0, 0}, {40, 0}, {40, 30}, {0, 30}};
    testing::addNet(board, "GND");
    testing::addChip(board, "C1", PartClass::CeramicCapacitor, {5, 5}, "+5V", "GND");
    testing::addChip(board, "C2", PartClass::CeramicCapacitor, {9, 5}, "+5V", "GND");
    testing::addChip(board, "U1", PartClass::Ic, {14, 5}, "+5V", "GND", 4, 4);
    testing::addChip(board, "L1", PartClass::Inductor, {20, 5}, "+5V", "+5V_B");
    testing::addChip(board, "C3", PartClass::PolarCapacitor, {25, 5}, "+5V_B", "GND");
    testing::addChip(board, "C4", PartClass::CeramicCapacitor, {5, 20}, "+3V3", "GND");
    testing::addChip(board, "C5", PartClass::CeramicCapacitor, {9, 20}, "+3V3", "GND");
    testing::addChip(board, "U2", PartClass::Ic, {14, 20}, "+3V3", "GND", 4, 4);
    return board;
}

FactBody reading(const char* place, MeterMode mode, double value) {
    return ReadingTaken{
        place, "", {mode, ReadingState::Value, value, mode == MeterMode::Diode ? 0.001 : 0.1}};
}

/// Some facts such as a bench brings, drawn without any regard to what follows from them.
std::vector<FactBody> randomFacts(Random& random) {
    const std::vector<const char*> places{"C1.1", "C2.1", "C3.1", "C4.1", "U2.1"};
    const std::vector<const char*> parts{"C1", "C2", "U1", "L1", "C3", "C4", "C5", "U2"};
    const auto any = [&random](const auto& list) {
        return list[static_cast<std::size_t>(random.below(static_cast<int>(list.size())))];
    };
    std::vector<FactBody> facts;
    const int count = 2 + random.below(6);
    for (int i = 0; i < count; ++i) {
        const int kind = random.below(8);
        if (kind < 3)
            facts.push_back(reading(any(places), MeterMode::Ohms,
                                    std::exp(random.uniform(std::log(0.1), std::log(2e4)))));
        else if (kind < 5)
            facts.push_back(reading(any(places), MeterMode::Diode, random.uniform(0, 0.7)));
        else if (kind == 5)
            facts.push_back(Lifted{any(parts)});
        else if (kind == 6)
            facts.push_back(Seen{any(parts), random.below(2) ? Damage::Cracked : Damage::None, ""});
        else
            facts.push_back(PartMeasured{any(parts), random.below(2) == 0});
    }
    return facts;
}

/// The same judgement by enumeration: each hypothesis, each level of each short, each load of each rail, in
/// nested loops, asking the circuit anew every time. No sharing, no rails apart, no order.
class Enumerated {
  public:
    Enumerated(const CaseState& state, const BoardCircuit& circuit, const Feed& feed)
        : m_state(state), m_circuit(circuit), m_groups(readingGroups(state, circuit)) {
        for (const auto& items : {seenEvidence(state, circuit, feed), measuredEvidence(state)})
            m_items.insert(m_items.end(), items.begin(), items.end());
    }

    double logOf(const std::vector<Fault>& faults) const {
        double items = 0;
        for (const EvidenceItem& item : m_items)
            items += item.logLikelihood(faults);
        if (faults.front().kind == FaultKind::Other) {
            // One place in ten is touched by what nobody knows; the others read as on a sound board, each
            // given those before it.
            double log = items;
            for (std::size_t k = 0; k < m_groups.size(); ++k)
                log += std::log(0.9 * healthyUpTo(k + 1) / healthyUpTo(k) + 0.1 * strayOf(m_groups[k]));
            return log;
        }
        double sum = 0;
        std::vector<double> ohms(faults.size(), 0.0);
        overLevels(faults, ohms, 0, 1, sum);
        return items + std::log(sum);
    }

  private:
    static double strayOf(const ReadingGroup& g, bool slip = false) {
        double log = 0;
        for (std::size_t i = 0; i < g.readings.size(); ++i)
            log += std::log(slip ? g.strayOf(i) : strayDensity(g.readings[i])) /
                   static_cast<double>(g.readings.size());
        return std::exp(log);
    }

    double healthyUpTo(std::size_t count) const {
        double product = 1;
        for (int rail = 0; rail < static_cast<int>(m_circuit.rails().size()); ++rail)
            product *= railOf(rail, {}, {}, count);
        return product;
    }

    void overLevels(const std::vector<Fault>& faults, std::vector<double>& ohms, std::size_t i, double share,
                    double& sum) const {
        if (i == faults.size()) {
            double product = share;
            for (int rail = 0; rail < static_cast<int>(m_circuit.rails().size()); ++rail)
                product *= railOf(rail, faults, ohms);
            sum += product;
            return;
        }
        if (!faults[i].conducts()) return overLevels(faults, ohms, i + 1, share, sum);
        const PartClass kind = faults[i].part < 0
                                   ? PartClass::Other
                                   : m_state.board.parts[static_cast<std::size_t>(faults[i].part)].partClass;
        for (const ShortLevel& level : shortLevels(kind)) {
            ohms[i] = level.ohms;
            overLevels(faults, ohms, i + 1, share * level.share, sum);
        }
    }

    double railOf(int rail, const std::vector<Fault>& faults, const std::vector<double>& ohms,
                  std::size_t count = SIZE_MAX) const {
        double sum = 0;
        bool any = false;
        for (const LoadLevel& load : m_circuit.rails()[static_cast<std::size_t>(rail)].levels) {
            if (load.share < 1e-4) continue;
            double product = load.share;
            for (std::size_t k = 0; k < std::min(count, m_groups.size()); ++k)
                if (m_groups[k].rail == rail) {
                    product *= groupOf(m_groups[k], faults, ohms, load.ohms);
                    any = true;
                }
            sum += product;
        }
        return any ? sum : 1;
    }

    double groupOf(const ReadingGroup& g, const std::vector<Fault>& faults, const std::vector<double>& ohms,
                   double load) const {
        std::vector<Conductor> conductors;
        std::vector<PartIndex> off = g.off;
        for (std::size_t i = 0; i < faults.size(); ++i) {
            const Fault& f = faults[i];
            if (f.part >= 0 && std::count(g.off.begin(), g.off.end(), f.part) > 0) continue;
            if (f.conducts()) conductors.push_back({f.a, f.b, ohms[i]});
            if (f.kind == FaultKind::Open) off.push_back(f.part);
        }
        std::sort(off.begin(), off.end());
        const std::pair<int, double> loads[] = {{g.rail, load}};
        const auto predicted = m_circuit.predict(g.probed, {off, conductors, loads, g.probed.against < 0});
        double own = 0;
        for (const Reading& r : g.readings)
            own += std::log(std::max(1e-300, readingDensity(r, *predicted, g.doubt))) /
                   static_cast<double>(g.readings.size());
        const double slip = slipShare(g.doubt);
        return (1 - slip) * std::exp(own) + slip * strayOf(g, true);
    }

    const CaseState& m_state;
    const BoardCircuit& m_circuit;
    std::vector<ReadingGroup> m_groups;
    std::vector<EvidenceItem> m_items;
};

} // namespace

/// Two on one rail go together more often than by chance, by the share of faults of that rail.
static double together(const Fault& a, const Fault& b, const std::vector<Candidate>& all,
                       const BoardCircuit& circuit) {
    const double loose = 1 - FaultCounts::sameRail;
    if (!a.conducts() || !b.conducts() || circuit.railOf(a.a) != circuit.railOf(b.a)) return loose;
    double share = 0;
    for (const Candidate& c : all)
        if (c.fault.conducts() && circuit.railOf(c.fault.a) == circuit.railOf(a.a)) share += c.prior;
    return loose + FaultCounts::sameRail / share;
}

// A brute-force judge on a small board: every single fault and every pair, enumerated. Pass rule: each
// posterior to 0.02, for the judge reckons pairs at every second level of a short and takes loads that
// change nothing together.
void TestBelief::enumerationAgrees() {
    const Board board = twoRails();
    Random random(3);
    for (int round = 0; round < 25; ++round) {
        const CaseState state = caseState(board, factsOf(randomFacts(random)));
        BoardModel model(state.board, *state.netParts);
        const BoardCircuit& circuit = model.circuit;
        const auto candidates = candidatesOf(state, circuit, model.feed);
        ReadingEvidence readings(model);
        readings.setGroups(readingGroups(state, circuit));
        std::vector<EvidenceItem> items = seenEvidence(state, circuit, model.feed);
        const auto more = measuredEvidence(state);
        items.insert(items.end(), more.begin(), more.end());
        const Belief belief = weigh(state, candidates, readings, items,
                                    Companions(state.board, circuit, Feed(state.board, circuit)));

        const Enumerated judge(state, circuit, model.feed);
        std::vector<double> logs;
        for (const Hypothesis& h : belief.hypotheses) {
            double prior = h.causes.size() == 1 ? FaultCounts::one : FaultCounts::two * 2;
            for (const Fault& fault : h.causes)
                for (const Candidate& c : candidates)
                    if (c.fault == fault) prior *= c.prior;
            if (h.causes.size() == 2) prior *= together(h.causes[0], h.causes[1], candidates, circuit);
            logs.push_back(std::log(prior) + judge.logOf(h.causes));
        }
        const auto odds = normalised(logs);
        double all = 0;
        for (std::size_t i = 0; i < odds.size(); ++i) {
            all += belief.hypotheses[i].odds;
            QVERIFY2(std::fabs(odds[i] - belief.hypotheses[i].odds) < 0.02,
                     qPrintable(QString("round %1: %2 not %3: %4")
                                    .arg(round)
                                    .arg(belief.hypotheses[i].odds)
                                    .arg(odds[i])
                                    .arg(QString::fromStdString(
                                        sentenceOf(state.board, belief.hypotheses[i].causes).text()))));
            // What is shown for it adds up to the logarithm of its odds.
            const Hypothesis& h = belief.hypotheses[i];
            if (h.weights.empty()) continue;
            double log = std::log(h.prior);
            for (const Weight& w : h.weights)
                log += w.weight;
            QVERIFY(std::fabs(log - std::log(h.odds)) < 1e-6);
        }
        QVERIFY(std::fabs(all - 1) < 1e-9);
    }
}

namespace {

double oddsOf(const Belief& belief, const std::function<bool(const Fault&)>& is) {
    double odds = 0;
    for (const Hypothesis& h : belief.hypotheses)
        if (std::any_of(h.causes.begin(), h.causes.end(), is)) odds += h.odds;
    return odds;
}

FactBody across(const char* place, const char* against, double value) {
    return ReadingTaken{place, against, {MeterMode::Ohms, ReadingState::Value, value, 0.01}};
}

} // namespace

// A core rail reads a few ohms when nothing is wrong (common practice): its ohms alone start no hunt.
void TestBelief::coreRailsAreNotHunted() {
    const Board board = testing::smallBoard();
    const auto a = assess(board, factsOf({reading("C3.1", MeterMode::Ohms, 3.1)}), {});
    QVERIFY(a.down.nets.empty());
    const double shorted = oddsOf(a.belief, [&](const Fault& f) {
        return f.conducts() && f.b < 0 && f.a == a.state.board.findNet("+1V0_CORE");
    });
    QVERIFY2(shorted < 0.15, qPrintable(QString::number(shorted)));
    // The same number on a main rail is a short.
    QVERIFY(!assess(board, factsOf({reading("C10.1", MeterMode::Ohms, 3.1)}), {}).down.nets.empty());
}

// A switch punched through passes its rail's resistance on: two rails read down, and it is neither's
// capacitor (common practice). Read across it nearly nothing is left.
void TestBelief::aPunchedSwitchIsFound() {
    const Board board = testing::smallBoard();
    const auto through = [&](const Fault& f) {
        return f.through() && board.parts[static_cast<std::size_t>(f.part)].designator == "Q1";
    };
    std::vector<FactBody> bodies{reading("C1.1", MeterMode::Ohms, 2.3),
                                 reading("C3.1", MeterMode::Ohms, 2.2)};
    const double before = oddsOf(assess(board, factsOf({bodies.front()}), {}).belief, through);
    const double both = oddsOf(assess(board, factsOf(bodies), {}).belief, through);
    bodies.push_back(across("C1.1", "L1.1", 0.1));
    const Assessment a = assess(board, factsOf(bodies), {});
    const double all = oddsOf(a.belief, through);
    QVERIFY2(all > both && both > before && all > 0.8,
             qPrintable(QString("%1 %2 %3").arg(before).arg(both).arg(all)));
    QCOMPARE(board.parts[static_cast<std::size_t>(a.suspects.front().part)].designator, std::string("Q1"));
}

// A hard short and what hangs behind it are far apart: nearly nothing across a switch is no two shorts in a
// row, and a few ohms across another one are no reason against the first.
void TestBelief::nearlyNothingAcrossASwitchIsTheSwitch() {
    const Board board = testing::smallBoard();
    const auto through = [&](const Fault& f) {
        return f.through() && board.parts[static_cast<std::size_t>(f.part)].designator == "Q1";
    };
    const auto sure = [&](const std::vector<FactBody>& bodies) {
        return oddsOf(assess(board, factsOf(bodies), {}).belief, through);
    };
    const std::vector<FactBody> both{reading("C1.1", MeterMode::Ohms, 2.3),
                                     reading("C3.1", MeterMode::Ohms, 2.2)};
    std::vector<FactBody> low = both, high = both;
    low.push_back(across("Q1.D", "Q1.S", 0.1));
    high.push_back(across("Q1.D", "Q1.S", 4.6));
    QVERIFY2(sure(low) > 0.9 && sure(high) < 0.1,
             qPrintable(QString("%1 %2").arg(sure(low)).arg(sure(high))));
}

// An inductor that reads open is open, though a controller looks at its switch node.
void TestBelief::anOpenInductorIsFound() {
    const Board board = testing::smallBoard();
    const auto open = [&](const Fault& f) {
        return f.kind == FaultKind::Open && board.parts[static_cast<std::size_t>(f.part)].designator == "L1";
    };
    const double before = oddsOf(assess(board, {}, {}).belief, open);
    const Assessment a = assess(
        board, factsOf({ReadingTaken{"L1.1", "L1.2", {MeterMode::Ohms, ReadingState::OverRange, 0, 0}}}), {});
    QVERIFY2(oddsOf(a.belief, open) > 20 * before, qPrintable(QString::number(oddsOf(a.belief, open))));
}

// One rail that stays away while the others are there is a fault of what makes it; several that stay away may
// be waiting together.
void TestBelief::theOnlyMissingRailIsTheFault() {
    const Board board = testing::demoBoard("chart-plotter");
    const auto volts = [&](const char* place, double value) {
        return ReadingTaken{place, "", {MeterMode::Volts, ReadingState::Value, value, 0.01}};
    };
    const auto about = [&](const std::vector<FactBody>& bodies) {
        const PartIndex controller = board.findPart("U1"), high = board.findPart("Q2"),
                        coil = board.findPart("L1");
        return oddsOf(assess(board, factsOf(bodies), {}).belief, [&](const Fault& f) {
            return f.part >= 0 && (f.part == controller || f.part == high || f.part == coil);
        });
    };
    const double alone =
        about({volts("C1.1", 12), volts("C17.1", 3.3), volts("C62.1", 1.8), volts("C9.1", 0)});
    const double together =
        about({volts("C1.1", 12), volts("C17.1", 0), volts("C62.1", 0), volts("C9.1", 0)});
    QVERIFY2(alone > 3 * together, qPrintable(QString("%1 %2").arg(alone).arg(together)));
}

// What the source shows at the first plug-in narrows where it is (table of the trade, common practice).
void TestBelief::theFirstPlugInNarrowsIt() {
    const Board board = testing::smallBoard();
    const auto at = [&](double volts, double amps, const char* net) {
        const Assessment a = assess(board, factsOf({SourceShows{volts, amps, ""}}), {});
        const std::vector<NetIndex> rail = stretchOf(a.state.board, a.state.board.findNet(net)).nets;
        return oddsOf(a.belief, [&](const Fault& f) {
            return f.conducts() && std::find(rail.begin(), rail.end(), f.a) != rail.end();
        });
    };
    QVERIFY(at(1.0, 3.0, "VIN_12V") > 3 * at(12, 0.3, "VIN_12V"));
    QVERIFY(at(1.0, 3.0, "VIN_12V") > at(1.0, 3.0, "+1V0_CORE"));
    // Full voltage and no current: an open way in, or nothing at all, more than before.
    const auto open = [](const Fault& f) { return f.kind == FaultKind::Open; };
    const double none = oddsOf(assess(board, {}, {}).belief, open),
                 noCurrent = oddsOf(assess(board, factsOf({SourceShows{12, 0, ""}}), {}).belief, open);
    QVERIFY(noCurrent > 2 * none);
}

// Phase 1 against phase 2 (common practice): a core rail that reads a third of its sibling is suspect, one
// that reads alike is not.
void TestBelief::siblingsSettleWhatARuleCannot() {
    Board board;
    board.outline = {{0, 0}, {40, 0}, {40, 30}, {0, 30}};
    testing::addNet(board, "GND");
    for (int i = 0; i < 2; ++i) {
        const std::string net = i == 0 ? "VCORE_A_0V9" : "VCORE_B_0V9", n = std::to_string(i);
        for (int k = 0; k < 3; ++k)
            testing::addChip(board, "C" + n + std::to_string(k), PartClass::CeramicCapacitor,
                             {5.0 + 4 * k, 5.0 + 10 * i}, net, "GND");
        testing::addChip(board, "U" + n, PartClass::Processor, {25, 5.0 + 10 * i}, net, "GND", 8, 8);
    }
    for (Net& net : board.nets)
        if (net.name != "GND") net.nominal = Volts(0.9);
    for (int k = 0; k < 16; ++k) // where the fault may be instead
        testing::addChip(board, "C2" + std::to_string(k), PartClass::CeramicCapacitor, {2.0 + 2 * k, 26},
                         "+5V", "GND");
    const auto suspected = [&](double a, double b) {
        const Assessment judged = assess(
            board, factsOf({reading("C00.1", MeterMode::Ohms, a), reading("C10.1", MeterMode::Ohms, b)}), {});
        return oddsOf(judged.belief, [&](const Fault& f) {
            return f.conducts() && f.a == judged.state.board.findNet("VCORE_B_0V9");
        });
    };
    const double alike = suspected(6, 5.5), lower = suspected(6, 0.4);
    QVERIFY2(lower > 4 * alike && alike < 0.1, qPrintable(QString("%1 %2").arg(alike).arg(lower)));
}

// Looking one after another with perfect tests: falling odds per minute costs least. Every order of up to
// seven trials is tried against it (provable by exchange).
void TestBelief::noOrderCostsLess() {
    Random random(8);
    for (int round = 0; round < 60; ++round) {
        std::vector<Trial> trials(static_cast<std::size_t>(1 + random.below(7)));
        double sum = 0;
        for (Trial& t : trials) {
            t = {random.uniform(0.01, 1), random.uniform(1, 20)};
            sum += t.odds;
        }
        for (Trial& t : trials)
            t.odds *= 0.9 / sum;
        constexpr double otherwise = 1e5; // no trial is left out
        std::vector<std::size_t> order(trials.size());
        for (std::size_t i = 0; i < order.size(); ++i)
            order[i] = i;
        double least = 1e300;
        do {
            double minutes = 0, left = 1;
            for (const std::size_t i : order) {
                minutes += left * trials[i].minutes;
                left -= trials[i].odds;
            }
            least = std::min(least, minutes + left * otherwise);
        } while (std::next_permutation(order.begin(), order.end()));
        QVERIFY(std::fabs(expectedMinutes(trials, otherwise) - least) < 1e-6);
    }
}
