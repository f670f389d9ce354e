#include "diagnosis/suspects.h"

#include "base/quantity_text.h"
#include "diagnosis/heat_evidence.h"
#include "diagnosis/odds.h"

#include <algorithm>
#include <cmath>
#include <map>

namespace ustor {
namespace {

/// Chance that none of the parts on the list is the short (common practice: laminate, solder under a chip).
constexpr double unlistedShare = 0.04;

/// How much likelier a shorted part of the list shows such damage than a good one (common practice).
double damageFactor(Damage damage) {
    switch (damage) {
    case Damage::None:
        return 0.8;
    case Damage::Cracked:
    case Damage::Burnt:
    case Damage::Hole:
        return 8;
    case Damage::Bulged:
        return 5;
    case Damage::Discoloured:
    case Damage::Corroded:
        return 3;
    case Damage::Missing:
        return 0.01;
    }
    return 1;
}

/// What is off the board cannot be what still shorts the rail: a matter of logic, so its factor stands for
/// nothing, small enough that no finding outweighs it; a slip of the probe is taken back by striking its
/// reading out. A short that goes while a part is still on clears that one, unless the hot air moved
/// something (common practice: rare).
constexpr double stayedFactor = 1e-6, goneFactor = 2e-3;

/// A short that comes back with the one part that was put on again (common practice: else the hot air did
/// it).
constexpr double returnFactor = 1 / goneFactor;

/// A leaking chip reads tens of ohms, a broken capacitor or a punched switch nearly nothing (common
/// practice).
double partialFactor(PartClass partClass) {
    switch (partClass) {
    case PartClass::Ic:
    case PartClass::Regulator:
    case PartClass::Processor:
        return 2.5;
    case PartClass::CeramicCapacitor:
        return 0.6;
    default:
        return 1;
    }
}

/// Readings of the stretch in order, with what was off the board at each. Said twice of a board that stands
/// as before, it is no more evidence than once.
struct Dated {
    const CaseState::TakenReading* reading;
    RailState state;
};

std::vector<Dated> judgedReadings(const CaseState& state, const Stretch& stretch) {
    std::vector<Dated> dated;
    for (const auto& r : state.readings)
        if (stretch.holds(r.net) && r.taken.against.empty() && r.ruling.state != RailState::Unknown) {
            const bool same =
                !dated.empty() && dated.back().state == r.ruling.state &&
                (dated.back().reading->then == r.then || *dated.back().reading->then == *r.then);
            if (!same) dated.push_back({&r, r.ruling.state});
        }
    return dated;
}

bool isDown(RailState s) {
    return s == RailState::Short || s == RailState::Partial;
}

/// A factor on the likelihood of each part, and the words for it.
struct Factor {
    double factor = 1;
    Message what;
    long fact = 0;
};

/// Of the findings on a side the clearest, of alike ones the last; none where there is none.
const std::pair<long, HeatFound>* clearestOn(Side side, const CaseState::HeatFindings& findings) {
    const std::pair<long, HeatFound>* best = nullptr;
    const auto strength = [](const HeatFound& h) { return h.spots.empty() ? 0.0 : h.spots.front().snr; };
    for (const auto& found : findings)
        if (found.second.side == side && (!best || strength(found.second) >= strength(best->second)))
            best = &found;
    return best;
}

int generationAt(const CaseState::TakenReading& reading, const std::string& part) {
    const auto found = reading.then->generation.find(part);
    return found == reading.then->generation.end() ? 0 : found->second;
}

/// What the readings say of one part, as lifting, replacing and putting back went on around them.
struct Past {
    std::vector<Factor> factors;
    bool cleared = false; ///< it was off, and the short stayed
};

/// The part in question is the one that was on when the rail first read down: a new one in its place is
/// another part, and while that is on the old one is off.
Past pastOf(const std::string& part, const std::vector<Dated>& readings) {
    Past past;
    const CaseState::TakenReading *first = nullptr, *before = nullptr;
    RailState was = RailState::Unknown;
    int generation = 0;
    bool healed = false; ///< once gone while it was off: a later short is another one
    for (const Dated& d : readings) {
        const CaseState::TakenReading& now = *d.reading;
        if (!first) generation = generationAt(now, part);
        const bool wasOff = now.then->off.contains(part) || generationAt(now, part) != generation;
        if (first && isDown(d.state) && was == RailState::Healthy && before->then->off.contains(part) &&
            !now.then->off.contains(part) && before->then->off.size() == now.then->off.size() + 1) {
            // Back with it, old or new: what had cleared it before is void.
            past = {{{returnFactor, say("the short came back with it"), now.fact}}, false};
            generation = generationAt(now, part);
            healed = false;
        } else if (isDown(d.state)) {
            if (wasOff && !healed) {
                past.factors.push_back({stayedFactor, say("the short stayed when it was off"), now.fact});
                past.cleared = true;
            }
        } else if (first && d.state == RailState::Healthy) {
            if (wasOff)
                healed = !past.cleared;
            else
                past.factors.push_back(
                    {goneFactor, say("the short was gone while it was still on"), now.fact});
        }
        if (isDown(d.state) && !first) first = &now;
        before = &now;
        was = d.state;
    }
    return past;
}

/// What all parts are judged by.
struct Common {
    std::vector<Dated> readings;
    const Dated* firstDown = nullptr;
    struct Heat {
        const std::pair<long, HeatFound>* found;
        Message what;
    };
    std::vector<Heat> heat; ///< one a side
    std::vector<const Part*> links;
    double area_mm2 = 1;
};

Common commonOf(const CaseState& state, const Stretch& stretch) {
    Common common;
    common.readings = judgedReadings(state, stretch);
    for (const Dated& d : common.readings)
        if (isDown(d.state)) {
            common.firstDown = &d;
            break;
        }
    // One finding a side: several looks at the same spot through the same registration share their errors.
    for (const Side side : {Side::Top, Side::Bottom}) {
        // Stills only where no injection was watched: what followed the power says more.
        const auto* best = clearestOn(side, state.heat);
        if (!best) best = clearestOn(side, state.stills);
        if (best && !best->second.spots.empty())
            common.heat.push_back({best, say("heat: {finding}", {{"finding", sentenceOf(best->second)}})});
    }
    for (const PartIndex link : stretch.links)
        common.links.push_back(&state.board.parts[link]);
    const BoardBox box = state.board.box();
    common.area_mm2 = std::max(1.0, box.width_mm() * box.height_mm());
    return common;
}

std::vector<Factor> factorsFor(const CaseState& state, const Part& part, const Common& common,
                               const Past& past) {
    std::vector<Factor> factors;
    if (const auto seen = state.seen.find(part.designator); seen != state.seen.end())
        factors.push_back({damageFactor(seen->second.damage),
                           say("seen: {damage}", {{"damage", labelOf(seen->second.damage)}}), 0});

    if (common.firstDown && common.firstDown->state == RailState::Partial)
        factors.push_back({partialFactor(part.partClass), say("the rail reads as a partial short"),
                           common.firstDown->reading->fact});
    for (const auto& [found, what] : common.heat)
        factors.push_back(
            {heatDensity_per_mm2(found->second, part, common.links, common.area_mm2) * common.area_mm2, what,
             found->first});

    if (const auto measured = state.measuredShorted.find(part.designator);
        measured != state.measuredShorted.end())
        factors.push_back(
            {measured->second ? 200.0 : 0.02,
             measured->second ? say("reads shorted off the board") : say("reads fine off the board"), 0});

    factors.insert(factors.end(), past.factors.begin(), past.factors.end());
    return factors;
}

/// What the suspects have on average of a factor: who does not have it counts as one. Those with a fact are
/// the same where their fact is; those without, where they stand at the same place.
class Averages {
  public:
    Averages(const std::vector<std::vector<Factor>>& factors, std::size_t suspects)
        : m_suspects(static_cast<double>(suspects)) {
        for (std::size_t i = 0; i < suspects; ++i) {
            std::map<Key, double> own; // of several the last
            for (std::size_t k = 0; k < factors[i].size(); ++k)
                own[keyOf(factors[i][k], k)] = factors[i][k].factor;
            for (const auto& [key, factor] : own)
                m_above[key] += factor - 1;
        }
    }
    double of(const Factor& factor, std::size_t place) const {
        return 1 + m_above.at(keyOf(factor, place)) / m_suspects;
    }

  private:
    using Key = std::pair<long, std::size_t>;
    static Key keyOf(const Factor& factor, std::size_t place) {
        return {factor.fact, factor.fact == 0 ? place : 0};
    }
    std::map<Key, double> m_above;
    double m_suspects;
};

/// The locator's odds start from all alike: times their number they are a likelihood. A slip of the probe is
/// never ruled out.
Factor alongFactor(const AlongTheCopper& along, PartIndex part) {
    const auto& candidates = along.finding.candidates;
    const auto found = std::find_if(candidates.begin(), candidates.end(),
                                    [part](const PlaceOdds& c) { return c.part == part; });
    constexpr double slip = 0.02;
    const double likelihood =
        found == candidates.end() ? 1 : found->odds * static_cast<double>(candidates.size());
    return {slip + (1 - slip) * likelihood, say("millivolts along the copper"), along.fact};
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
        newest.sinceLift = r.then->off == state.off();
        const bool resistance =
            r.taken.reading.mode == MeterMode::Ohms && r.taken.reading.state == ReadingState::Value;
        newest.ohms = resistance ? std::optional(r.taken.reading.value) : std::nullopt;
        break;
    }
    return newest;
}

std::vector<Suspect> rankSuspects(const CaseState& state, const Stretch& stretch,
                                  const std::optional<AlongTheCopper>& along) {
    const Common common = commonOf(state, stretch);
    const auto& readings = common.readings;

    // Parts that are off the board still answer for the short that was there.
    std::vector<PartIndex> parts = stretch.suspects;
    for (const std::string& designator : state.lifted)
        if (const PartIndex p = state.board.findPart(designator);
            p >= 0 && couldShort(state.board, state.board.parts[p], stretch.nets) &&
            std::find(parts.begin(), parts.end(), p) == parts.end())
            parts.push_back(p);

    std::vector<Suspect> suspects;
    std::vector<std::vector<Factor>> factors;
    std::vector<double> logs;
    double classSum = 0;
    for (const PartIndex p : parts)
        classSum += Knowledge::classWeight(state.board.parts[p].partClass);
    for (const PartIndex p : parts) {
        const Part& part = state.board.parts[p];
        const Past past = pastOf(part.designator, readings);
        auto own = factorsFor(state, part, common, past);
        const double weight = Knowledge::classWeight(part.partClass);
        if (along) own.push_back(alongFactor(*along, p));
        own.insert(own.begin(), {weight, say("a {class}", {{"class", labelOf(part.partClass)}}), 0});
        double log = std::log((1 - unlistedShare) / classSum);
        for (const Factor& f : own)
            log += std::log(std::max(f.factor, 1e-12));
        logs.push_back(log);
        factors.push_back(std::move(own));
        suspects.push_back({p, 0, past.cleared, {}});
    }
    // Something not on the list: no evidence speaks for or against its place.
    suspects.push_back({-1, 0, false, {}});
    const bool wentWithAPart = std::any_of(readings.begin(), readings.end(), [&](const Dated& d) {
        return d.state == RailState::Healthy && !d.reading->then->off.empty();
    });
    logs.push_back(std::log(parts.empty() ? 1.0 : unlistedShare * (wentWithAPart ? goneFactor : 1)));
    factors.emplace_back();

    const auto odds = normalised(logs);
    // Each weight is told against the average suspect: what everybody shares says nothing.
    const Averages averages(factors, parts.size());
    for (std::size_t i = 0; i < parts.size(); ++i)
        for (std::size_t k = 0; k < factors[i].size(); ++k) {
            const Factor& f = factors[i][k];
            suspects[i].evidence.push_back(
                {f.what, std::log(std::max(f.factor, 1e-12) / std::max(averages.of(f, k), 1e-12)), f.fact});
        }
    for (std::size_t i = 0; i < suspects.size(); ++i)
        suspects[i].odds = odds[i];
    std::stable_sort(suspects.begin(), suspects.end(), [](const Suspect& a, const Suspect& b) {
        if (a.cleared != b.cleared) return b.cleared;
        return a.odds > b.odds;
    });
    return suspects;
}

} // namespace ustor
