#include "diagnosis/belief/belief.h"

#include "diagnosis/hypothesis/presence.h"
#include "diagnosis/odds.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <numeric>

namespace ustor {
namespace {

class Weigher {
  public:
    Weigher(const CaseState& state, const std::vector<Candidate>& candidates, ReadingEvidence& readings,
            const std::vector<EvidenceItem>& items, const Companions& companions, std::vector<Fault> found)
        : m_state(state), m_candidates(candidates), m_readings(readings), m_items(items),
          m_companions(companions), m_found(std::move(found)) {}

    Belief weigh() {
        singles();
        pairs();
        victims();
        nothingMore();
        Belief belief = follow();
        belief.surprise = m_surprise;
        belief.cause.assign(m_state.board.parts.size(), 0.0);
        belief.victim.assign(m_state.board.parts.size(), 0.0);
        for (const Hypothesis& h : belief.hypotheses) {
            PartIndex counted = -1;
            for (const Fault& fault : h.causes)
                if (fault.part >= 0 && fault.part != counted) {
                    belief.cause[static_cast<std::size_t>(fault.part)] += h.odds;
                    if (isVictim(fault, h.causes))
                        belief.victim[static_cast<std::size_t>(fault.part)] += h.odds;
                    counted = fault.part;
                }
        }
        return belief;
    }

  private:
    /// A hypothesis while it is weighed.
    struct Standing {
        std::vector<Fault> causes;
        double prior = 0;
        ReadingEvidence::Course read;
    };
    struct PairCourse {
        std::vector<int> rails;
        ReadingEvidence::Course read;
    };
    /// One fact: an item, or a group of readings.
    struct Unit {
        long fact = 0;
        int item = -1, group = -1;
    };

    static double last(const ReadingEvidence::Course& course) { return course->empty() ? 0 : course->back(); }

    double itemsOf(std::span<const Fault> faults) const {
        double log = 0;
        for (const EvidenceItem& item : m_items)
            log += item.logLikelihood(faults);
        return log;
    }

    /// What the readings of these rails come to on a sound board.
    double healthyOn(const std::vector<int>& rails) const {
        double log = 0;
        for (std::size_t g = 0; g < m_healthy->size(); ++g)
            if (std::binary_search(rails.begin(), rails.end(), m_readings.groups()[g].rail))
                log += (*m_healthy)[g] - (g > 0 ? (*m_healthy)[g - 1] : 0);
        return log;
    }

    std::vector<Fault> beside(std::initializer_list<Fault> more) const {
        std::vector<Fault> all = m_found;
        all.insert(all.end(), more.begin(), more.end());
        return all;
    }
    bool isFound(const Fault& fault) const {
        return std::find(m_found.begin(), m_found.end(), fault) != m_found.end();
    }
    ReadingEvidence::Course courseOf(const std::vector<Fault>& causes) {
        if (causes.empty() || causes.back().kind != FaultKind::Other) return m_readings.course(causes);
        return m_readings.unknownCourse({causes.data(), causes.size() - 1});
    }
    bool isVictim(const Fault& fault, const std::vector<Fault>& causes) const {
        return std::any_of(causes.begin(), causes.end(), [&](const Fault& cause) {
            const auto taken = m_companions.of(cause);
            return std::any_of(taken.begin(), taken.end(),
                               [&](const Companions::Victim& victim) { return victim.fault == fault; });
        });
    }

    /// What was found takes some with it.
    double companionShare(const Fault& fault) const {
        double share = 0;
        for (const Fault& cause : m_found)
            for (const Companions::Victim& victim : m_companions.of(cause))
                if (victim.fault == fault) share = std::max(share, victim.share);
        return share;
    }

    /// How much likelier two faults go together than by chance alone.
    double relation(const Fault& a, const Fault& b) {
        if (m_onRail.empty())
            for (const Candidate& candidate : m_candidates)
                if (candidate.fault.conducts() && !candidate.byRework)
                    m_onRail[m_readings.circuit().railOf(candidate.fault.a)] += candidate.prior;
        constexpr double same = FaultCounts::sameRail;
        if (!a.conducts() || !b.conducts()) return 1 - same;
        const int rail = m_readings.circuit().railOf(a.a);
        const bool shared = rail >= 0 && rail == m_readings.circuit().railOf(b.a);
        const double share = shared ? m_onRail[rail] : 0;
        return 1 - same + (share > 0 ? same / share : 0);
    }
    double besideFound(const Fault& fault) {
        double most = m_found.empty() ? 1 : 0;
        for (const Fault& each : m_found)
            most = std::max(most, relation(each, fault));
        return most;
    }

    /// One fault each; beside what was found: nothing more, or one more.
    void singles() {
        m_healthy = m_readings.course(m_found);
        const double share = m_found.empty() ? FaultCounts::one : FaultCounts::two;
        for (const Candidate& candidate : m_candidates) {
            // What is known stands in its place with no odds, so that the order of the candidates is kept.
            const double prior =
                isFound(candidate.fault) ? 0
                : candidate.byRework
                    ? FaultCounts::one * candidate.prior * (m_found.empty() ? KindShares::nothing : 1)
                    : std::max(share * candidate.prior * besideFound(candidate.fault),
                               FaultCounts::one * companionShare(candidate.fault));
            std::vector<Fault> causes = beside({candidate.fault});
            ReadingEvidence::Course read = courseOf(causes);
            m_all.push_back({std::move(causes), prior, std::move(read)});
        }
    }

    void nothingMore() {
        if (!m_found.empty()) m_all.push_back({m_found, FaultCounts::one, m_healthy});
    }

    void pairs() {
        std::vector<double> standing;
        for (const Standing& h : m_all) {
            standing.push_back(std::log(std::max(h.prior, 1e-300)) + last(h.read) + itemsOf(h.causes));
            m_standing = std::max(m_standing, standing.back());
        }
        std::vector<std::size_t> order(m_candidates.size());
        std::iota(order.begin(), order.end(), std::size_t(0));
        std::stable_sort(order.begin(), order.end(),
                         [&](std::size_t a, std::size_t b) { return standing[a] > standing[b]; });
        // Each rail keeps its own best, for a second fault explains what the first does not; and what was off
        // or put on again always, for it is told apart by more than its odds.
        constexpr std::size_t most = 48, mostOfARail = 12, mostWorkedOn = 12;
        std::map<std::vector<int>, std::size_t> onRails;
        std::vector<std::size_t> chosen;
        std::size_t workedOn = 0;
        double bestSingle = -1e300, bestPair = -1e300;
        for (const std::size_t i : order) {
            const Fault& fault = m_candidates[i].fault;
            if (fault.kind == FaultKind::Other || fault.kind == FaultKind::Nothing || isFound(fault))
                continue;
            bestSingle = std::max(bestSingle, last(m_all[i].read));
            const auto rails = m_readings.touched({&fault, 1});
            if (rails.empty()) continue;
            if (wasWorkedOn(m_candidates[i]) ? ++workedOn <= mostWorkedOn
                                             : chosen.size() < most && ++onRails[rails] <= mostOfARail)
                chosen.push_back(i);
        }
        for (std::size_t x = 0; x < chosen.size(); ++x)
            for (std::size_t y = x + 1; y < chosen.size(); ++y)
                bestPair = std::max(bestPair, pair(chosen[x], chosen[y]));
        m_surprise = std::max(0.0, bestPair - bestSingle);
        // What takes others with it explains with them what it does not alone.
        m_likeliest = chosen;
        for (std::size_t k = 0; k < std::min<std::size_t>(order.size(), most); ++k)
            if (std::find(chosen.begin(), chosen.end(), order[k]) == chosen.end())
                m_likeliest.push_back(order[k]);
    }

    /// The likeliest causes with what they take with them.
    void victims() {
        for (const std::size_t i : m_likeliest) {
            const Candidate& candidate = m_candidates[i];
            if (isFound(candidate.fault)) continue;
            for (const Companions::Victim& victim : m_companions.of(candidate.fault)) {
                std::vector<Fault> causes = beside({candidate.fault, victim.fault});
                ReadingEvidence::Course read = courseOf(causes);
                m_all.push_back({std::move(causes), m_all[i].prior * victim.share, std::move(read)});
            }
        }
    }

    bool wasWorkedOn(const Candidate& candidate) const {
        if (candidate.byRework) return true;
        if (candidate.fault.part < 0) return false;
        const std::string& name = m_state.board.parts[candidate.fault.part].designator;
        return std::any_of(m_readings.groups().begin(), m_readings.groups().end(),
                           [&](const ReadingGroup& group) { return group.then->off.contains(name); });
    }

    /// The logarithm of the likelihood of its readings.
    double pair(std::size_t i, std::size_t k) {
        const Candidate &first = m_candidates[i], &second = m_candidates[k];
        const bool rework = first.byRework || second.byRework;
        if (first.byRework && second.byRework) return -1e300;
        if (!rework && first.fault.part >= 0 && first.fault.part == second.fault.part) return -1e300;
        const double share = rework ? FaultCounts::one : FaultCounts::two * 2;
        Standing both{beside({first.fault, second.fault}),
                      share * first.prior * second.prior * (m_found.empty() ? 1 : FaultCounts::two) *
                          (rework ? 1 : relation(first.fault, second.fault)),
                      {}};
        // All pairs that the readings cannot tell apart share their course.
        const auto [known, fresh] = m_pairCourses.try_emplace({m_all[i].read.get(), m_all[k].read.get()});
        PairCourse& course = known->second;
        if (fresh) {
            const auto a = m_readings.touched({&first.fault, 1}), b = m_readings.touched({&second.fault, 1});
            std::set_union(a.begin(), a.end(), b.begin(), b.end(), std::back_inserter(course.rails));
            if (course.rails.size() == a.size() + b.size()) {
                // Rails of their own: each adds what it adds alone.
                auto sum = std::make_shared<std::vector<double>>(*m_all[i].read);
                for (std::size_t g = 0; g < sum->size(); ++g)
                    (*sum)[g] += (*m_all[k].read)[g] - (*m_healthy)[g];
                course.read = std::move(sum);
            }
        }
        if (!course.read) {
            // Not where even the best that it could come to is hopeless: the readings of its rails all
            // explained, the others as a sound board explains them.
            constexpr double hopeless = 9;
            const double bound = last(m_healthy) - healthyOn(course.rails) + m_readings.bestOn(course.rails);
            if (std::log(both.prior) + bound + itemsOf(both.causes) < m_standing - hopeless) return -1e300;
            course.read = m_readings.course(both.causes);
        }
        both.read = course.read;
        const double read = last(both.read);
        m_all.push_back(std::move(both));
        return read;
    }

    std::vector<Unit> units() const {
        std::vector<Unit> all;
        for (int i = 0; i < static_cast<int>(m_items.size()); ++i)
            all.push_back({m_items[static_cast<std::size_t>(i)].fact, i, -1});
        for (int g = 0; g < static_cast<int>(m_readings.groups().size()); ++g)
            all.push_back({m_readings.groups()[static_cast<std::size_t>(g)].facts.front(), -1, g});
        std::stable_sort(all.begin(), all.end(),
                         [](const Unit& a, const Unit& b) { return a.fact < b.fact; });
        return all;
    }

    double logOf(const Unit& unit, const Standing& h) const {
        if (unit.item >= 0) return m_items[static_cast<std::size_t>(unit.item)].logLikelihood(h.causes);
        const auto g = static_cast<std::size_t>(unit.group);
        return (*h.read)[g] - (g > 0 ? (*h.read)[g - 1] : 0);
    }

    Message whatOf(const Unit& unit) const {
        if (unit.item >= 0) return m_items[static_cast<std::size_t>(unit.item)].what;
        const ReadingGroup& group = m_readings.groups()[static_cast<std::size_t>(unit.group)];
        return say("{place} reads {reading}",
                   {{"place", group.place}, {"reading", textOf(group.readings.back())}});
    }

    /// From the prior through each fact in its turn.
    Belief follow() {
        std::vector<double> logs;
        for (const Standing& h : m_all)
            logs.push_back(std::log(std::max(h.prior, 1e-300)));
        const double first = logSum(logs);
        for (double& log : logs)
            log -= first;
        const std::vector<double> priors = logs;
        const std::vector<Unit> all = units();
        std::vector<double> together; // what all of them foresaw of each fact
        for (const Unit& unit : all) {
            for (std::size_t h = 0; h < m_all.size(); ++h)
                logs[h] += logOf(unit, m_all[h]);
            together.push_back(logSum(logs));
            for (double& log : logs)
                log -= together.back();
        }
        std::vector<std::size_t> order(m_all.size());
        std::iota(order.begin(), order.end(), std::size_t(0));
        std::stable_sort(order.begin(), order.end(),
                         [&](std::size_t a, std::size_t b) { return logs[a] > logs[b]; });
        Belief belief;
        constexpr std::size_t explained = 60;
        for (const std::size_t i : order) {
            Hypothesis h{std::move(m_all[i].causes), std::exp(priors[i]), std::exp(logs[i]), {}};
            if (belief.hypotheses.size() < explained) {
                m_all[i].causes = h.causes;
                for (std::size_t u = 0; u < all.size(); ++u)
                    h.weights.push_back({whatOf(all[u]), all[u].fact, logOf(all[u], m_all[i]) - together[u]});
            }
            belief.hypotheses.push_back(std::move(h));
        }
        return belief;
    }

    const CaseState& m_state;
    const std::vector<Candidate>& m_candidates;
    ReadingEvidence& m_readings;
    const std::vector<EvidenceItem>& m_items;
    std::vector<Standing> m_all; ///< the candidates in their order, then pairs
    std::map<std::pair<const void*, const void*>, PairCourse> m_pairCourses;
    ReadingEvidence::Course m_healthy;
    const Companions& m_companions;
    std::map<int, double> m_onRail;       ///< what conducts, by rail, before any fact
    std::vector<Fault> m_found;           ///< beside which all else is weighed
    std::vector<std::size_t> m_likeliest; ///< candidates
    double m_surprise = 0;
    double m_standing = -1e300; ///< of the best single: its prior and all evidence
};

} // namespace

Belief weigh(const CaseState& state, const std::vector<Candidate>& candidates, ReadingEvidence& readings,
             const std::vector<EvidenceItem>& items, const Companions& companions) {
    return Weigher(state, candidates, readings, items, companions, {}).weigh();
}

Belief weighBesideFound(const CaseState& state, const std::vector<Candidate>& candidates,
                        ReadingEvidence& readings, const std::vector<EvidenceItem>& items,
                        const Companions& companions) {
    std::vector<Fault> found;
    std::vector<Hypothesis> shownBy;
    Belief belief = weigh(state, candidates, readings, items, companions);
    const PartsOff now = standOf(state);
    constexpr std::size_t most = 5;
    constexpr double sure = 0.9;
    while (found.size() < most) {
        // Off the board, and known to have been it: what is asked next is what else is wrong.
        std::vector<std::pair<Fault, double>> gone;
        for (const Hypothesis& h : belief.hypotheses)
            for (const Fault& fault : h.causes) {
                if (isOn(state.board, now, fault)) continue;
                if (std::find(found.begin(), found.end(), fault) != found.end()) continue;
                const auto same =
                    std::find_if(gone.begin(), gone.end(), [&](const auto& g) { return g.first == fault; });
                if (same != gone.end())
                    same->second += h.odds;
                else
                    gone.emplace_back(fault, h.odds);
            }
        const auto best = std::max_element(gone.begin(), gone.end(),
                                           [](const auto& a, const auto& b) { return a.second < b.second; });
        if (best == gone.end() || best->second < sure) break;
        const auto shown =
            std::find_if(belief.hypotheses.begin(), belief.hypotheses.end(), [&](const Hypothesis& h) {
                return std::find(h.causes.begin(), h.causes.end(), best->first) != h.causes.end();
            });
        shownBy.push_back(*shown);
        found.push_back(best->first);
        belief = Weigher(state, candidates, readings, items, companions, found).weigh();
    }
    belief.found = std::move(found);
    belief.foundBy = std::move(shownBy);
    return belief;
}

} // namespace ustor
