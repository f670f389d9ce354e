#include "diagnosis/moves/prospect.h"

#include "diagnosis/hypothesis/presence.h"
#include "diagnosis/knowledge.h"
#include "diagnosis/moves/cost_to_repair.h"
#include "diagnosis/odds.h"

#include <algorithm>
#include <cmath>
#include <map>

namespace ustor {

namespace {

/// What it takes to be done with what no part of the list is (judgement).
double minutesOf(FaultKind kind) {
    switch (kind) {
    case FaultKind::Nothing:
        return 25;
    case FaultKind::Unlisted:
        return 50;
    default:
        return unlistedMinutes;
    }
}

} // namespace

Prospect::Prospect(const CaseState& state, const Belief& belief, const WorkPace& pace)
    : m_board(state.board), m_pace(pace) {
    const PartsOff& now = *state.now;
    constexpr double enough = 0.997;
    constexpr std::size_t most = 1000;
    double sum = 0;
    for (const Hypothesis& h : belief.hypotheses) {
        if (sum > enough || m_views.size() >= most) break;
        sum += h.odds;
        View view{h.odds, {}, {}, true, true, 0};
        for (const Fault& fault : h.causes) {
            if (!isOn(m_board, now, fault)) continue;
            view.left.push_back(fault);
            if (fault.part < 0)
                view.listed = false, view.minutes = std::max(view.minutes, minutesOf(fault.kind));
            else if (std::find(view.parts.begin(), view.parts.end(), fault.part) == view.parts.end())
                view.parts.push_back(fault.part);
        }
        view.repairable = view.listed && std::none_of(view.parts.begin(), view.parts.end(), [&](PartIndex p) {
                              return m_board.parts[p].partClass == PartClass::Processor;
                          });
        m_views.push_back(std::move(view));
    }
    for (View& view : m_views)
        view.odds /= sum;
    const std::vector<double> all(m_views.size(), 1.0);
    m_now = weightedMinutes(all);
    m_liftingOnly = weightedMinutes(all, -1, false);
}

double Prospect::weightedMinutes(const std::vector<double>& given, PartIndex off, bool hopeful) const {
    std::vector<double> byPart(m_board.parts.size(), 0.0);
    std::vector<PartIndex> parts;
    double all = 0, mended = 0, unlisted = 0, unlistedSum = 0;
    for (std::size_t i = 0; i < m_views.size(); ++i) {
        const View& view = m_views[i];
        const double odds = view.odds * given[i];
        if (odds <= 0) continue;
        all += odds;
        const auto left = view.parts.size() -
                          static_cast<std::size_t>(std::count(view.parts.begin(), view.parts.end(), off));
        if (left == 0 && view.listed) mended += odds;
        if (!view.listed) {
            unlisted += odds;
            unlistedSum += odds * view.minutes;
        }
        if (left == 0 || !view.listed) continue;
        for (const PartIndex part : view.parts) {
            if (part == off) continue;
            double& sum = byPart[static_cast<std::size_t>(part)];
            if (sum == 0) parts.push_back(part);
            sum += odds / static_cast<double>(left);
        }
    }
    const double open = all - mended;
    constexpr double least = 1e-12;
    if (open <= least) return 0;
    std::vector<Trial> trials;
    for (const PartIndex part : parts)
        trials.push_back({byPart[static_cast<std::size_t>(part)] / open,
                          minutesToTry(m_board.parts[part], m_pace) + minutesToPutBack});
    // What is found by no trial is what no part is, or a part that was not worth the trial.
    const double otherwise = unlisted > 0 ? unlistedSum / unlisted : unlistedMinutes;
    return hopeful ? all * hopefulMinutes(trials, open / all, otherwise)
                   : open * expectedMinutes(std::move(trials), unlistedMinutes);
}

double Prospect::hopefulMinutes(const std::vector<Trial>& trials, double open, double otherwise) {
    std::vector<double> odds{1 - open};
    double unlisted = open, lifts = 0;
    for (const Trial& trial : trials) {
        const double p = open * trial.odds;
        odds.push_back(p);
        unlisted -= p;
        lifts += p * trial.minutes;
    }
    odds.push_back(std::max(0.0, unlisted));
    const double asked = minutesOfABit * entropyBits(odds) + lifts + odds.back() * otherwise;
    return std::min(asked, open * expectedMinutes(trials, unlistedMinutes));
}

double Prospect::add(std::vector<MoveOutcome>& outcomes, const Message& what,
                     const std::vector<double>& given, PartIndex off, double putBack_min) const {
    double odds = 0;
    for (std::size_t i = 0; i < m_views.size(); ++i)
        odds += m_views[i].odds * given[i];
    const double minutes = weightedMinutes(given, off) + odds * putBack_min;
    double repairable = 0;
    for (std::size_t i = 0; i < m_views.size(); ++i)
        if (m_views[i].repairable) repairable += m_views[i].odds * given[i];
    constexpr double least = 1e-9;
    if (odds > least) outcomes.push_back({what, odds, minutes / odds, repairable / odds});
    return minutes;
}

double Prospect::gainBits(const std::vector<std::vector<double>>& outcomes) const {
    std::vector<double> before;
    for (const View& view : m_views)
        before.push_back(view.odds);
    double gain = entropyBits(before);
    for (const auto& given : outcomes) {
        double sum = 0;
        std::vector<double> after;
        for (std::size_t i = 0; i < m_views.size(); ++i) {
            after.push_back(m_views[i].odds * given[i]);
            sum += after.back();
        }
        if (sum <= 0) continue;
        for (double& odds : after)
            odds /= sum;
        gain -= sum * entropyBits(after);
    }
    return std::max(0.0, gain);
}

} // namespace ustor
