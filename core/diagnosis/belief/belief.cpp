#include "diagnosis/belief/belief.h"

#include "board/chips.h"
#include "diagnosis/belief/follow.h"
#include "diagnosis/hypothesis/presence.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <numeric>
#include <optional>

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
        dropHopeless();
        Belief belief = follow(std::move(m_all), m_items, m_readings);
        belief.surprise = m_surprise;
        belief.cause.assign(m_state.board.parts.size(), 0.0);
        belief.victim.assign(m_state.board.parts.size(), 0.0);
        for (const Hypothesis& h : belief.hypotheses) {
            PartIndex counted = -1;
            for (const Fault& fault : h.causes)
                if (fault.part >= 0 && fault.part != counted) {
                    belief.cause[static_cast<std::size_t>(fault.part)] += h.odds;
                    if (h.causes.size() > 1 && isVictim(fault, h.causes))
                        belief.victim[static_cast<std::size_t>(fault.part)] += h.odds;
                    counted = fault.part;
                }
        }
        return belief;
    }

  private:
    using Courses = Weighed::Courses;

    static double gainOf(const Courses& read) {
        double gain = 0;
        for (const auto& course : read)
            gain += course->gain;
        return gain;
    }
    void stand(std::vector<Fault> causes, double prior, Courses read) {
        const double log = logPrior(prior) + gainOf(read) + m_items.sumOf(causes);
        m_all.push_back({std::move(causes), prior, std::move(read), log});
    }

    std::vector<Fault> beside(std::initializer_list<Fault> more) const {
        std::vector<Fault> all = m_found;
        all.insert(all.end(), more.begin(), more.end());
        return all;
    }
    bool isFound(const Fault& fault) const {
        return std::find(m_found.begin(), m_found.end(), fault) != m_found.end();
    }
    Courses coursesOf(const std::vector<Fault>& causes) {
        if (causes.empty() || causes.back().kind != FaultKind::Other) return m_readings.courses(causes);
        return {m_readings.unknownCourse({causes.data(), causes.size() - 1})};
    }
    bool isVictim(const Fault& fault, const std::vector<Fault>& causes) const {
        return std::any_of(causes.begin(), causes.end(), [&](const Fault& cause) {
            const auto taken = m_companions.of(cause);
            return std::any_of(taken.begin(), taken.end(),
                               [&](const Companions::Victim& victim) { return victim.fault == fault; });
        });
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
        const double share = m_found.empty() ? FaultCounts::one : FaultCounts::two;
        std::vector<Companions::Victim> taken; // by what was found
        for (const Fault& cause : m_found)
            for (const Companions::Victim& victim : m_companions.of(cause))
                taken.push_back(victim);
        m_all.reserve(2 * m_candidates.size());
        for (const Candidate& candidate : m_candidates) {
            double companionShare = 0;
            for (const Companions::Victim& victim : taken)
                if (victim.fault == candidate.fault) companionShare = std::max(companionShare, victim.share);
            // What is known stands in its place with no odds, so that the order of the candidates is kept.
            const double prior =
                isFound(candidate.fault) ? 0
                : candidate.byRework
                    ? FaultCounts::one * candidate.prior * (m_found.empty() ? KindShares::nothing : 1)
                    : std::max(share * candidate.prior * besideFound(candidate.fault),
                               FaultCounts::one * companionShare);
            std::vector<Fault> causes = beside({candidate.fault});
            Courses read = coursesOf(causes);
            stand(std::move(causes), prior, std::move(read));
            m_standing = std::max(m_standing, m_all.back().log);
        }
    }

    void nothingMore() {
        if (!m_found.empty()) stand(m_found, FaultCounts::one, coursesOf(m_found));
    }

    /// So many of a falling list, and those that stand with the last of them, up to twice as many: the order
    /// in a file must not decide between equals.
    class Cut {
      public:
        explicit Cut(std::size_t most) : m_most(most) {}
        bool hasRoom(double log) const {
            constexpr double equal = 1e-9;
            return m_taken < m_most || (m_taken < 2 * m_most && log > m_last - equal);
        }
        void take(double log) {
            ++m_taken;
            m_last = log;
        }

      private:
        std::size_t m_most, m_taken = 0;
        double m_last = 0;
    };

    /// Each rail keeps its own best, for a second fault explains what the first does not; and what was off
    /// or put on again always, for it is told apart by more than its odds.
    std::vector<std::size_t> bestOfEachRail(const std::vector<std::size_t>& order, double& bestSingle) {
        Cut byOdds(most);
        std::map<std::vector<int>, Cut> ofARail;
        constexpr std::size_t mostOfARail = 12, mostWorkedOn = 12;
        Cut byWork(mostWorkedOn);
        std::vector<std::size_t> chosen;
        for (const std::size_t i : order) {
            const Fault& fault = m_candidates[i].fault;
            if (fault.kind == FaultKind::Other || fault.kind == FaultKind::Nothing || isFound(fault))
                continue;
            bestSingle = std::max(bestSingle, gainOf(m_all[i].read));
            const bool worked = wasWorkedOn(m_candidates[i]);
            const double log = m_all[i].log;
            if (!(worked ? byWork : byOdds).hasRoom(log)) continue;
            auto rails = m_readings.touched({&fault, 1});
            if (rails.empty()) continue;
            Cut& cut = worked ? byWork : ofARail.try_emplace(std::move(rails), mostOfARail).first->second;
            if (!cut.hasRoom(log)) continue;
            cut.take(log);
            if (!worked) byOdds.take(log);
            chosen.push_back(i);
        }
        return chosen;
    }

    /// What the readings of each rail come to where each is explained as well as any single fault explains
    /// it, less what they come to on a sound board.
    void boundRails() {
        std::vector<double> best = m_readings.soundSteps();
        for (std::size_t i = 0; i < m_candidates.size(); ++i)
            for (const auto& course : m_all[i].read)
                for (std::size_t k = 0; k < course->groups.size(); ++k) {
                    double& most = best[static_cast<std::size_t>(course->groups[k])];
                    most = std::max(most, course->steps[k]);
                }
        for (std::size_t g = 0; g < best.size(); ++g)
            m_mostGain[m_readings.groups()[g].rail] += best[g] - m_readings.soundSteps()[g];
    }

    void pairs() {
        std::vector<std::size_t> order(m_candidates.size());
        std::iota(order.begin(), order.end(), std::size_t(0));
        std::stable_sort(order.begin(), order.end(),
                         [&](std::size_t a, std::size_t b) { return m_all[a].log > m_all[b].log; });
        double bestSingle = -1e300, bestPair = -1e300;
        const auto chosen = bestOfEachRail(order, bestSingle);
        m_mostOfItems = m_items.most();
        boundRails();
        for (std::size_t x = 0; x < chosen.size(); ++x)
            for (std::size_t y = x + 1; y < chosen.size(); ++y)
                choosePair(chosen[x], chosen[y]);
        chipsOnSeveralRails();
        weighSharedRails();
        for (const Pair& pair : m_pairs)
            bestPair = std::max(bestPair, weigh(pair));
        m_surprise = std::max(0.0, bestPair - bestSingle);
        // What takes others with it explains with them what it does not alone.
        m_likeliest = chosen;
        Cut cut(most);
        for (const std::size_t i : order) {
            if (!cut.hasRoom(m_all[i].log)) break;
            cut.take(m_all[i].log);
            if (std::find(chosen.begin(), chosen.end(), i) == chosen.end()) m_likeliest.push_back(i);
        }
    }

    /// The likeliest causes with what they take with them.
    void victims() {
        for (const std::size_t i : m_likeliest) {
            const Candidate& candidate = m_candidates[i];
            if (isFound(candidate.fault)) continue;
            for (const Companions::Victim& victim : m_companions.of(candidate.fault)) {
                std::vector<Fault> causes = beside({candidate.fault, victim.fault});
                Courses read = coursesOf(causes);
                stand(std::move(causes), m_all[i].prior * victim.share, std::move(read));
            }
        }
    }

    bool wasWorkedOn(const Candidate& candidate) {
        if (candidate.byRework) return true;
        if (candidate.fault.part < 0) return false;
        if (m_wasOff.empty()) {
            m_wasOff.resize(m_state.board.parts.size());
            for (const ReadingGroup& group : m_readings.groups())
                for (const PartIndex part : group.off)
                    m_wasOff[static_cast<std::size_t>(part)] = true;
        }
        return m_wasOff[static_cast<std::size_t>(candidate.fault.part)];
    }

    /// Two candidates that may both be what is wrong.
    struct Pair {
        std::size_t first, second;
        double prior;
        std::pair<int, int> courses; ///< of each by itself
    };

    /// The same for all candidates that the readings cannot tell apart.
    int courseId(std::size_t candidate) {
        const auto [known, fresh] = m_courseIds.try_emplace(candidate, 0);
        if (fresh) {
            std::vector<const void*> addresses;
            for (const auto& course : m_all[candidate].read)
                addresses.push_back(course.get());
            known->second =
                m_idsOfCourses.try_emplace(addresses, static_cast<int>(m_idsOfCourses.size())).first->second;
        }
        return known->second;
    }

    /// Pairs whose prior and readings leave them a chance.
    void choosePair(std::size_t i, std::size_t k) {
        const Candidate &first = m_candidates[i], &second = m_candidates[k];
        const bool rework = first.byRework || second.byRework;
        if (first.byRework && second.byRework) return;
        if (!rework && first.fault.part >= 0 && first.fault.part == second.fault.part) return;
        const double share = rework ? FaultCounts::one : FaultCounts::two * 2;
        add({i,
             k,
             share * first.prior * second.prior * (m_found.empty() ? 1 : FaultCounts::two) *
                 (rework ? 1 : relation(first.fault, second.fault)),
             {}});
    }

    /// A chip that dies often takes several of its rails with it, which is one fault of one chip.
    void chipsOnSeveralRails() {
        std::map<PartIndex, std::vector<std::size_t>> ways;
        for (std::size_t i = 0; i < m_candidates.size(); ++i) {
            const Fault& fault = m_candidates[i].fault;
            if (fault.kind != FaultKind::Short || fault.part < 0 || fault.through() ||
                m_candidates[i].byRework || !isChip(m_state.board.parts[fault.part]))
                continue;
            ways[fault.part].push_back(i);
        }
        constexpr double takesAnother = 0.25, explains = 0.5;
        for (const auto& [part, all] : ways) {
            std::vector<std::size_t> low; // on rails of which it explains what they read
            for (const std::size_t i : all)
                if (gainOf(m_all[i].read) > explains && !isFound(m_candidates[i].fault)) low.push_back(i);
            for (std::size_t x = 0; x < low.size(); ++x)
                for (std::size_t y = x + 1; y < low.size(); ++y) {
                    const double one = m_candidates[low[x]].prior + m_candidates[low[y]].prior;
                    const double which = static_cast<double>(all.size() - 1);
                    add({low[x],
                         low[y],
                         FaultCounts::one * one * takesAnother / which *
                             (m_found.empty() ? 1 : FaultCounts::two),
                         {}});
                }
        }
    }

    void add(Pair pair) {
        const std::size_t i = pair.first, k = pair.second;
        const Candidate &first = m_candidates[i], &second = m_candidates[k];
        const double prior = pair.prior;
        // All pairs that the readings cannot tell apart share their courses, whichever fault comes first.
        pair.courses = std::minmax({courseId(i), courseId(k)});
        SharedCourses& shared = m_pairCourses[pair.courses];
        if (!shared.asked) {
            shared.asked = true;
            const auto a = m_readings.touched({&first.fault, 1}), b = m_readings.touched({&second.fault, 1});
            std::vector<int> rails;
            std::set_union(a.begin(), a.end(), b.begin(), b.end(), std::back_inserter(rails));
            shared.apart = rails.size() == a.size() + b.size();
            for (const int rail : rails)
                shared.bound += m_mostGain[rail];
            shared.faults = beside({first.fault, second.fault});
        }
        constexpr double hopeless = 9;
        if (!shared.apart && logPrior(prior) + shared.bound + m_mostOfItems < m_standing - hopeless) return;
        shared.promise =
            std::max(shared.promise, logPrior(prior) + gainOf(m_all[i].read) + gainOf(m_all[k].read));
        m_pairs.push_back(pair);
    }

    /// Faults on rails apart add what each adds alone; of those that share rails the most promising are
    /// weighed together.
    void weighSharedRails() {
        std::vector<SharedCourses*> sharing; // in the order in which they were first asked for
        for (auto& [key, shared] : m_pairCourses) {
            if (shared.promise <= none) continue;
            if (shared.apart)
                shared.read = m_readings.courses(shared.faults);
            else
                sharing.push_back(&shared);
        }
        constexpr std::size_t weighed = 32;
        std::stable_sort(sharing.begin(), sharing.end(), [](const SharedCourses* a, const SharedCourses* b) {
            return a->promise > b->promise;
        });
        Cut cut(weighed);
        for (SharedCourses* shared : sharing) {
            if (!cut.hasRoom(shared->promise)) break;
            cut.take(shared->promise);
            shared->read = m_readings.courses(shared->faults);
        }
    }

    /// The gain of its readings.
    double weigh(const Pair& pair) {
        const std::optional<Courses>& read = m_pairCourses[pair.courses].read;
        if (!read) return none;
        const double gain = gainOf(*read);
        if (logPrior(pair.prior) + gain + m_mostOfItems > m_standing - nothing)
            stand(beside({m_candidates[pair.first].fault, m_candidates[pair.second].fault}), pair.prior,
                  *read);
        return gain;
    }

    /// Of several at once only those that may come to something.
    void dropHopeless() {
        double best = m_standing;
        for (const Weighed& h : m_all)
            best = std::max(best, h.log);
        const auto singly = static_cast<std::ptrdiff_t>(m_candidates.size());
        m_all.erase(std::remove_if(m_all.begin() + singly, m_all.end(),
                                   [best](const Weighed& h) { return h.log < best - nothing; }),
                    m_all.end());
    }

    static constexpr std::size_t most = 48; ///< faults that pairs are made of
    static constexpr double none = -1e300;
    static constexpr double nothing = 25; ///< nats below the best: less than one in ten thousand million

    const CaseState& m_state;
    const std::vector<Candidate>& m_candidates;
    ReadingEvidence& m_readings;
    ItemsByPart m_items;
    std::vector<Weighed> m_all; ///< the candidates in their order, then pairs
    /// What two faults make of the readings.
    struct SharedCourses {
        bool asked = false, apart = false;
        double bound = 0, promise = none;
        std::vector<Fault> faults;
        std::optional<Courses> read;
    };
    std::map<std::pair<int, int>, SharedCourses> m_pairCourses;
    std::map<std::vector<const void*>, int> m_idsOfCourses;
    std::map<std::size_t, int> m_courseIds; ///< by candidate
    std::vector<Pair> m_pairs;
    std::map<int, double> m_mostGain; ///< by rail
    const Companions& m_companions;
    std::map<int, double> m_onRail;       ///< what conducts, by rail, before any fact
    std::vector<Fault> m_found;           ///< beside which all else is weighed
    std::vector<std::size_t> m_likeliest; ///< candidates
    std::vector<bool> m_wasOff;           ///< by part: while something was read
    double m_surprise = 0;
    double m_mostOfItems = 0;
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
    const PartsOff& now = *state.now;
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
