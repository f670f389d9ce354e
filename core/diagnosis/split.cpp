#include "diagnosis/split.h"

#include "diagnosis/odds.h"
#include "rail/handy_place.h"

#include <algorithm>
#include <cmath>
#include <map>

namespace ustor {
namespace {

/// Minutes to lift one end of a link and to put it back (common practice).
double minutesOf(PartClass partClass) {
    switch (partClass) {
    case PartClass::Inductor:
        return 6;
    case PartClass::SenseResistor:
        return 3;
    default:
        return 2;
    }
}

bool isDown(RailState state) {
    return state == RailState::Short || state == RailState::Partial;
}

/// Links side by side join the same nets and must go together.
std::map<std::vector<NetIndex>, std::vector<PartIndex>> linksByNets(const Board& board,
                                                                    const Stretch& stretch) {
    std::map<std::vector<NetIndex>, std::vector<PartIndex>> groups;
    for (const PartIndex link : stretch.links) {
        std::set<NetIndex> ends;
        for (const Pad& pad : board.parts[link].pads)
            if (stretch.holds(pad.net)) ends.insert(pad.net);
        if (ends.size() == 2) groups[{ends.begin(), ends.end()}].push_back(link);
    }
    return groups;
}

Message count(std::size_t n) {
    return sayCount("1 part", "{n} parts", static_cast<long>(n));
}

} // namespace

std::vector<UnplugChoice> unplugChoices(const CaseState& state, const Stretch& stretch,
                                        const std::vector<Suspect>& suspects) {
    std::vector<UnplugChoice> choices;
    for (const Suspect& s : suspects) {
        if (s.part < 0 || s.cleared || s.off) continue;
        if (state.board.parts[s.part].partClass == PartClass::Connector && !stretch.nets.empty())
            choices.push_back({s.part, s.odds});
    }
    std::stable_sort(choices.begin(), choices.end(),
                     [](const UnplugChoice& a, const UnplugChoice& b) { return a.odds > b.odds; });
    return choices;
}

std::vector<SplitChoice> splitChoices(const CaseState& state, const Stretch& stretch, const LinkState& links,
                                      const std::vector<Suspect>& suspects) {
    const Board& board = state.board;
    std::vector<SplitChoice> choices;
    for (const auto& [ends, group] : linksByNets(board, stretch)) {
        LinkState lifted = links;
        SplitChoice split;
        split.links = group;
        for (const PartIndex link : group) {
            lifted.lifted.insert(board.parts[link].designator);
            split.minutes += minutesOf(board.parts[link].partClass);
        }
        split.near = stretchOf(board, *state.netParts, ends[0], lifted);
        if (split.near.holds(ends[1])) continue; // another way round remains
        split.far = stretchOf(board, *state.netParts, ends[1], lifted);
        if (split.far.holds(state.chosenRail)) std::swap(split.near, split.far);
        for (const Suspect& s : suspects) {
            if (s.part < 0 || s.cleared || s.off) continue;
            const auto& a = split.near.suspects;
            const auto& b = split.far.suspects;
            const bool inNear = std::binary_search(a.begin(), a.end(), s.part),
                       inFar = std::binary_search(b.begin(), b.end(), s.part);
            const double share = inNear && inFar ? 0.5 : 1;
            if (inNear) split.oddsNear += share * s.odds;
            if (inFar) split.oddsFar += share * s.odds;
        }
        const double sum = split.oddsNear + split.oddsFar;
        constexpr double least = 0.01;
        if (split.oddsNear < least || split.oddsFar < least) continue;
        split.gainBits = sum * entropyBits({split.oddsNear / sum, split.oddsFar / sum});
        split.placeNear = handyPlace(board, split.near);
        split.placeFar = handyPlace(board, split.far);
        choices.push_back(std::move(split));
    }
    std::stable_sort(choices.begin(), choices.end(),
                     [](const SplitChoice& a, const SplitChoice& b) { return a.worth() > b.worth(); });
    return choices;
}

Message outcomesOf(const Board& board, const SplitChoice& split) {
    const auto side = [&](const std::string& place, const Stretch& stays, const Stretch& freed) {
        return say(
            "short at {place}: it is among {parts} on {net}, {freed}",
            {{"place", place},
             {"parts", count(stays.suspects.size())},
             {"net", nameOf(board, stays)},
             {"freed", sayCount("1 part on the other side is free", "{n} parts on the other side are free",
                                static_cast<long>(freed.suspects.size()))}});
    };
    return joined({side(split.placeNear, split.near, split.far), side(split.placeFar, split.far, split.near)},
                  "; ");
}

std::size_t RailPieces::suspected() const {
    for (std::size_t i = 0; i < pieces.size(); ++i)
        if (isDown(states[i])) return i;
    for (std::size_t i = 0; i < pieces.size(); ++i)
        if (states[i] == RailState::Unknown) return i;
    return 0;
}

RailPieces railPieces(const CaseState& state, const Stretch& whole, const LinkState& links) {
    RailPieces rail;
    std::set<NetIndex> covered;
    for (const NetIndex net : whole.nets) {
        if (covered.contains(net)) continue;
        rail.pieces.push_back(stretchOf(state.board, *state.netParts, net, links));
        covered.insert(rail.pieces.back().nets.begin(), rail.pieces.back().nets.end());
    }
    std::vector<std::string> cuts; // links of this rail that are off: what is open by itself has long been so
    for (const std::string& name : links.lifted)
        if (const PartIndex p = state.board.findPart(name);
            p >= 0 && state.lifted.contains(name) && !whole.nets.empty())
            for (const NetIndex net : whole.nets)
                if (state.board.touches(p, net)) {
                    cuts.push_back(name);
                    break;
                }
    for (const Stretch& piece : rail.pieces) {
        RailState newest = RailState::Unknown;
        for (auto at = state.readings.rbegin(); newest == RailState::Unknown && at != state.readings.rend();
             ++at) {
            const auto& r = *at;
            const bool counts =
                piece.holds(r.net) && r.taken.against.empty() && r.ruling.state != RailState::Unknown &&
                std::all_of(cuts.begin(), cuts.end(),
                            [&](const std::string& cut) { return r.then->off.contains(cut); });
            if (counts) newest = r.ruling.state;
        }
        rail.states.push_back(newest);
    }
    return rail;
}

} // namespace ustor
