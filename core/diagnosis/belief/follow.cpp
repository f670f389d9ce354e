#include "diagnosis/belief/follow.h"

#include "diagnosis/belief/running_sum.h"
#include "diagnosis/odds.h"

#include <numeric>

namespace ustor {
namespace {

/// One fact: an item, or a group of readings.
struct Unit {
    long fact = 0;
    int item = -1, group = -1;
};

class Following {
  public:
    Following(std::vector<Weighed> all, const ItemsByPart& items, const ReadingEvidence& readings)
        : m_all(std::move(all)), m_items(items), m_readings(readings) {}

    /// From the prior through each fact in its turn.
    Belief belief() {
        std::vector<double> priors;
        for (const Weighed& h : m_all)
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
        Belief found;
        found.hypotheses.reserve(m_all.size());
        std::vector<std::size_t> rank(m_all.size());
        for (const std::size_t i : order) {
            rank[i] = found.hypotheses.size();
            found.hypotheses.push_back(
                {std::move(m_all[i].causes), std::exp(priors[i]), std::exp(logs[i] - whole), {}});
        }
        explain(found, all, told, others, together, rank);
        return found;
    }

  private:
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

    std::vector<Weighed> m_all;
    const ItemsByPart& m_items;
    const ReadingEvidence& m_readings;
};

} // namespace

Belief follow(std::vector<Weighed> all, const ItemsByPart& items, const ReadingEvidence& readings) {
    return Following(std::move(all), items, readings).belief();
}

} // namespace ustor
