#include "diagnosis/suspects.h"

#include "diagnosis/hypothesis/presence.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <set>

namespace ustor {
namespace {

bool isDown(RailState s) {
    return s == RailState::Short || s == RailState::Partial;
}

bool isOff(const CaseState& state, const std::string& part) {
    return state.lifted.contains(part) || state.unplugged.contains(part);
}

/// What was off while the rail read down all the same.
std::set<std::string> offWhileDown(const CaseState& state, const Stretch& stretch) {
    std::set<std::string> all;
    const PartsOff* last = nullptr;
    for (const CaseState::TakenReading& r : state.readings) {
        if (r.then.get() == last || !stretch.holds(r.net) || !r.taken.against.empty() ||
            !isDown(r.ruling.state))
            continue;
        last = r.then.get();
        all.insert(last->off.begin(), last->off.end());
    }
    return all;
}

} // namespace

StretchReading newestReading(const CaseState& state, const Stretch& stretch) {
    StretchReading newest;
    for (auto at = state.readings.rbegin(); at != state.readings.rend(); ++at) {
        const auto& r = *at;
        if (!stretch.holds(r.net) || !r.taken.against.empty()) continue;
        if (r.ruling.state == RailState::Unknown) continue;
        newest.ruling = r.ruling;
        newest.fact = r.fact;
        newest.sinceLift = r.then->off == state.off() && r.then->generation == state.generation;
        const bool resistance =
            r.taken.reading.mode == MeterMode::Ohms && r.taken.reading.state == ReadingState::Value;
        newest.ohms = resistance ? std::optional(r.taken.reading.value) : std::nullopt;
        break;
    }
    return newest;
}

double stillShorted(const CaseState& state, const Belief& belief) {
    const PartsOff& now = *state.now;
    double odds = 0;
    for (const Hypothesis& h : belief.hypotheses)
        if (std::any_of(h.causes.begin(), h.causes.end(), [&](const Fault& fault) {
                return fault.conducts() && isOn(state.board, now, fault);
            }))
            odds += h.odds;
    return odds;
}

std::vector<Suspect> suspectsOf(const CaseState& state, const Stretch& stretch, const Belief& belief) {
    std::set<PartIndex> parts(stretch.suspects.begin(), stretch.suspects.end());
    std::map<PartIndex, const Hypothesis*> best; // -1: without a part
    double noPart = 0;
    for (std::size_t i = 0; i < belief.found.size(); ++i)
        best.emplace(belief.found[i].part, &belief.foundBy[i]);
    constexpr double worthTelling = 0.01;
    for (const Hypothesis& h : belief.hypotheses) {
        bool listed = false;
        for (const Fault& fault : h.causes) {
            listed = listed || fault.part >= 0;
            if (fault.part >= 0) best.emplace(fault.part, &h);
            if (fault.part >= 0 && belief.cause[static_cast<std::size_t>(fault.part)] > worthTelling)
                parts.insert(fault.part);
        }
        if (listed) continue;
        noPart += h.odds;
        best.emplace(-1, &h);
    }
    std::vector<Suspect> suspects;
    // That clears a part unless it has become likely: put back it may have brought the short back, and off it
    // may have been the first of two.
    const std::set<std::string> offAndDown = offWhileDown(state, stretch);
    constexpr double likely = 0.1;
    const auto add = [&](PartIndex part, double odds) {
        Suspect suspect{part, odds, false, false, {}};
        if (part >= 0) {
            const std::string& name = state.board.parts[part].designator;
            suspect.off = isOff(state, name);
            suspect.cleared = odds <= likely && offAndDown.contains(name);
        }
        const auto found = best.find(part);
        if (found != best.end() && !found->second->weights.empty()) {
            suspect.evidence.push_back(
                {std::make_shared<const Message>(
                     part < 0 ? say("before any fact")
                              : say("before any fact: a {class}",
                                    {{"class", labelOf(state.board.parts[part].partClass)}})),
                 0, std::log(found->second->prior)});
            for (const Weight& weight : found->second->weights)
                suspect.evidence.push_back(weight);
        }
        suspects.push_back(std::move(suspect));
    };
    for (const PartIndex part : parts)
        add(part, belief.cause[static_cast<std::size_t>(part)]);
    add(-1, noPart);
    const StretchReading newest = newestReading(state, stretch);
    const bool stays = newest.sinceLift && isDown(newest.ruling.state);
    std::stable_sort(suspects.begin(), suspects.end(), [stays](const Suspect& a, const Suspect& b) {
        if (a.cleared != b.cleared) return b.cleared;
        if (stays && a.off != b.off) return b.off;
        return a.odds > b.odds;
    });
    return suspects;
}

} // namespace ustor
