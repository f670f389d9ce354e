#include "diagnosis/belief/belief.h"

#include "diagnosis/hypothesis/presence.h"
#include "diagnosis/odds.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <numeric>
#include <optional>
#include <unordered_map>

namespace ustor {
namespace {

/// Facts about single parts move only hypotheses with a fault of theirs; all others are told once.
class Items {
  public:
    explicit Items(const std::vector<EvidenceItem>& items) : m_items(items) {
        for (int i = 0; i < static_cast<int>(items.size()); ++i) {
            const EvidenceItem& item = items[static_cast<std::size_t>(i)];
            m_others.push_back(item.part >= 0 ? item.logLikelihood({}) : 0);
            m_others_sum += m_others.back();
            if (item.part >= 0)
                m_ofPart[item.part].push_back(i);
            else
                m_ofAll.push_back(i);
        }
        m_most = m_others;
        for (const int i : m_ofAll)
            m_most[static_cast<std::size_t>(i)] = -1e300;
    }

    const std::vector<EvidenceItem>& all() const { return m_items; }
    const std::vector<int>& ofAll() const { return m_ofAll; }
    double ofOthers(int item) const { return m_others[static_cast<std::size_t>(item)]; }
    double logOf(int item, std::span<const Fault> faults) const {
        return m_items[static_cast<std::size_t>(item)].logLikelihood(faults);
    }
    /// Facts about parts of these faults.
    std::vector<int> about(std::span<const Fault> faults) const {
        std::vector<int> items;
        for (std::size_t i = 0; i < faults.size(); ++i) {
            const auto known = m_ofPart.find(faults[i].part);
            const bool again =
                std::any_of(faults.begin(), faults.begin() + static_cast<std::ptrdiff_t>(i),
                            [&](const Fault& before) { return before.part == faults[i].part; });
            if (known != m_ofPart.end() && !again)
                items.insert(items.end(), known->second.begin(), known->second.end());
        }
        return items;
    }
    double sumOf(std::span<const Fault> faults) {
        double log = m_others_sum;
        const auto add = [&](int item, double others) {
            const double its = logOf(item, faults);
            double& most = m_most[static_cast<std::size_t>(item)];
            most = std::max(most, its);
            log += its - others;
        };
        for (const int item : m_ofAll)
            add(item, 0);
        for (const int item : about(faults))
            add(item, ofOthers(item));
        return log;
    }
    /// No hypothesis was seen to explain all of them better.
    double most() const { return std::accumulate(m_most.begin(), m_most.end(), 0.0); }

  private:
    const std::vector<EvidenceItem>& m_items;
    std::vector<double> m_others; ///< by item, for hypotheses without a fault of its part
    std::vector<double> m_most;
    double m_others_sum = 0;
    std::unordered_map<PartIndex, std::vector<int>> m_ofPart;
    std::vector<int> m_ofAll;
};

/// The logarithm of a sum of exponentials that is kept while some of them change.
class RunningSum {
  public:
    explicit RunningSum(std::vector<double> logs) : m_logs(std::move(logs)) { sumAnew(); }
    const std::vector<double>& logs() const { return m_logs; }
    double log() const { return m_base + std::log(m_sum); }
    void add(std::size_t which, double more) {
        const double before = m_logs[which];
        m_logs[which] += more;
        m_sum += std::exp(m_logs[which] - m_base) - std::exp(before - m_base);
        constexpr double far = 1e6; // beyond that the difference loses its digits
        if (!(m_sum * far > m_whole && m_sum < far * m_whole)) sumAnew();
    }
    void addToAll(const std::vector<double>& more) {
        for (std::size_t i = 0; i < m_logs.size(); ++i)
            m_logs[i] += more[i];
        sumAnew();
    }

  private:
    void sumAnew() {
        m_base = logSum(m_logs);
        m_sum = m_whole = 1;
    }
    std::vector<double> m_logs;
    double m_base = 0, m_sum = 1, m_whole = 1;
};

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
        Belief belief = follow();
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
    using Courses = std::vector<ReadingEvidence::SharedCourse>;
    /// A hypothesis while it is weighed.
    struct Standing {
        std::vector<Fault> causes;
        double prior = 0;
        Courses read;   ///< on rails apart
        double log = 0; ///< prior, and all evidence against that of a sound board
    };
    /// One fact: an item, or a group of readings.
    struct Unit {
        long fact = 0;
        int item = -1, group = -1;
    };

    static double gainOf(const Courses& read) {
        double gain = 0;
        for (const auto& course : read)
            gain += course->gain;
        return gain;
    }
    static double logPrior(double prior) { return std::log(std::max(prior, 1e-300)); }
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

    /// Each rail keeps its own best, for a second fault explains what the first does not; and what was off
    /// or put on again always, for it is told apart by more than its odds.
    std::vector<std::size_t> bestOfEachRail(const std::vector<std::size_t>& order, double& bestSingle) {
        constexpr std::size_t mostOfARail = 12, mostWorkedOn = 12;
        std::map<std::vector<int>, std::size_t> onRails;
        std::vector<std::size_t> chosen;
        std::size_t workedOn = 0;
        for (const std::size_t i : order) {
            const Fault& fault = m_candidates[i].fault;
            if (fault.kind == FaultKind::Other || fault.kind == FaultKind::Nothing || isFound(fault))
                continue;
            bestSingle = std::max(bestSingle, gainOf(m_all[i].read));
            const bool worked = wasWorkedOn(m_candidates[i]);
            if (worked ? workedOn >= mostWorkedOn : chosen.size() >= most) continue;
            auto rails = m_readings.touched({&fault, 1});
            if (rails.empty()) continue;
            if (worked ? ++workedOn <= mostWorkedOn : ++onRails[std::move(rails)] <= mostOfARail)
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
        weighSharedRails();
        for (const Pair& pair : m_pairs)
            bestPair = std::max(bestPair, weigh(pair));
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
        const double prior = share * first.prior * second.prior * (m_found.empty() ? 1 : FaultCounts::two) *
                             (rework ? 1 : relation(first.fault, second.fault));
        const Pair pair{i, k, prior, {courseId(i), courseId(k)}};
        // All pairs that the readings cannot tell apart share their courses.
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
        for (std::size_t i = 0; i < std::min(weighed, sharing.size()); ++i)
            sharing[i]->read = m_readings.courses(sharing[i]->faults);
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
        for (const Standing& h : m_all)
            best = std::max(best, h.log);
        const auto singly = static_cast<std::ptrdiff_t>(m_candidates.size());
        m_all.erase(std::remove_if(m_all.begin() + singly, m_all.end(),
                                   [best](const Standing& h) { return h.log < best - nothing; }),
                    m_all.end());
    }

    std::vector<Unit> units() const {
        std::vector<Unit> all;
        for (int i = 0; i < static_cast<int>(m_items.all().size()); ++i)
            all.push_back({m_items.all()[static_cast<std::size_t>(i)].fact, i, -1});
        for (int g = 0; g < static_cast<int>(m_readings.groups().size()); ++g)
            all.push_back({m_readings.groups()[static_cast<std::size_t>(g)].fact, -1, g});
        std::stable_sort(all.begin(), all.end(),
                         [](const Unit& a, const Unit& b) { return a.fact < b.fact; });
        return all;
    }

    /// What a fact is to those hypotheses that it moves unlike all others.
    struct Moved {
        std::size_t hypothesis;
        double log;
    };
    struct Told {
        std::vector<std::vector<Moved>> byItem, byGroup;
    };
    Told toldApart() const {
        Told told{std::vector<std::vector<Moved>>(m_items.all().size()),
                  std::vector<std::vector<Moved>>(m_readings.groups().size())};
        for (std::size_t h = 0; h < m_all.size(); ++h) {
            for (const auto& course : m_all[h].read)
                for (std::size_t k = 0; k < course->groups.size(); ++k)
                    told.byGroup[static_cast<std::size_t>(course->groups[k])].push_back(
                        {h, course->steps[k]});
            for (const int item : m_items.about(m_all[h].causes))
                told.byItem[static_cast<std::size_t>(item)].push_back(
                    {h, m_items.logOf(item, m_all[h].causes)});
        }
        for (const int item : m_items.ofAll())
            for (std::size_t h = 0; h < m_all.size(); ++h)
                told.byItem[static_cast<std::size_t>(item)].push_back(
                    {h, m_items.logOf(item, m_all[h].causes)});
        return told;
    }

    std::shared_ptr<const Message> whatOf(const Unit& unit) const {
        if (unit.item >= 0)
            return std::make_shared<const Message>(m_items.all()[static_cast<std::size_t>(unit.item)].what);
        const ReadingGroup& group = m_readings.groups()[static_cast<std::size_t>(unit.group)];
        return std::make_shared<const Message>(say(
            "{place} reads {reading}", {{"place", group.place}, {"reading", textOf(group.readings.back())}}));
    }

    /// From the prior through each fact in its turn.
    Belief follow() {
        std::vector<double> priors;
        for (const Standing& h : m_all)
            priors.push_back(logPrior(h.prior));
        const double first = logSum(priors);
        for (double& log : priors)
            log -= first;
        RunningSum sum(priors);
        const Told told = toldApart();
        const std::vector<Unit> all = units();
        std::vector<double> others, together; // of each fact: what most foresaw, and all of them together
        for (const Unit& unit : all) {
            const auto& moved = unit.item >= 0 ? told.byItem[static_cast<std::size_t>(unit.item)]
                                               : told.byGroup[static_cast<std::size_t>(unit.group)];
            others.push_back(unit.item >= 0 ? m_items.ofOthers(unit.item)
                                            : m_readings.soundSteps()[static_cast<std::size_t>(unit.group)]);
            const double before = sum.log();
            if (moved.size() == m_all.size() && unit.item >= 0) {
                std::vector<double> more(m_all.size());
                for (const Moved& each : moved)
                    more[each.hypothesis] = each.log - others.back();
                sum.addToAll(more);
            } else {
                for (const Moved& each : moved)
                    sum.add(each.hypothesis, each.log - others.back());
            }
            together.push_back(others.back() + sum.log() - before);
        }
        const std::vector<double>& logs = sum.logs();
        const double whole = logSum(logs);
        std::vector<std::size_t> order(m_all.size());
        std::iota(order.begin(), order.end(), std::size_t(0));
        std::stable_sort(order.begin(), order.end(),
                         [&](std::size_t a, std::size_t b) { return logs[a] > logs[b]; });
        Belief belief;
        belief.hypotheses.reserve(m_all.size());
        std::vector<std::size_t> rank(m_all.size());
        for (const std::size_t i : order) {
            rank[i] = belief.hypotheses.size();
            belief.hypotheses.push_back(
                {std::move(m_all[i].causes), std::exp(priors[i]), std::exp(logs[i] - whole), {}});
        }
        explain(belief, all, told, others, together, rank);
        return belief;
    }

    /// What each fact did to the likeliest.
    void explain(Belief& belief, const std::vector<Unit>& all, const Told& told,
                 const std::vector<double>& others, const std::vector<double>& together,
                 const std::vector<std::size_t>& rank) const {
        constexpr std::size_t most = 60;
        constexpr double nothing = 1e-9;
        const std::size_t explained = std::min(most, belief.hypotheses.size());
        std::vector<double> its(explained);
        for (std::size_t u = 0; u < all.size(); ++u) {
            const Unit& unit = all[u];
            std::fill(its.begin(), its.end(), others[u] - together[u]);
            for (const Moved& each : unit.item >= 0 ? told.byItem[static_cast<std::size_t>(unit.item)]
                                                    : told.byGroup[static_cast<std::size_t>(unit.group)])
                if (rank[each.hypothesis] < explained) its[rank[each.hypothesis]] = each.log - together[u];
            std::shared_ptr<const Message> what;
            for (std::size_t k = 0; k < explained; ++k) {
                if (std::fabs(its[k]) < nothing) continue;
                if (!what) what = whatOf(unit);
                belief.hypotheses[k].weights.push_back({what, unit.fact, its[k]});
            }
        }
    }

    static constexpr std::size_t most = 48; ///< faults that pairs are made of
    static constexpr double none = -1e300;
    static constexpr double nothing = 25; ///< nats below the best: less than one in ten thousand million

    const CaseState& m_state;
    const std::vector<Candidate>& m_candidates;
    ReadingEvidence& m_readings;
    Items m_items;
    std::vector<Standing> m_all; ///< the candidates in their order, then pairs
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
