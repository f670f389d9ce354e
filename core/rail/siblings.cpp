#include "rail/siblings.h"

#include "rail/stretch.h"

#include <algorithm>
#include <map>

namespace ustor {
namespace {

/// What a net looks like from its parts; big chips count by kind alone, since each bank sits on other pins.
using Signature = std::vector<std::string>;

Signature signatureOf(const Board& board, const std::vector<PadRef>& pads) {
    Signature signature;
    for (const PadRef ref : pads) {
        const Part& part = board.parts[ref.part];
        constexpr std::size_t few = 8;
        std::string line = std::string(wordOf(part.partClass)) + "/" + part.value;
        if (part.pads.size() <= few) line += "/" + part.pads[ref.pad].pin;
        signature.push_back(std::move(line));
    }
    std::sort(signature.begin(), signature.end());
    return signature;
}

} // namespace

std::vector<NetIndex> siblingNets(const Board& board, NetIndex net) {
    if (net < 0 || board.nets[net].ground) return {};
    std::vector<std::vector<PadRef>> pads(board.nets.size());
    for (PartIndex p = 0; p < static_cast<PartIndex>(board.parts.size()); ++p)
        for (int i = 0; i < static_cast<int>(board.parts[p].pads.size()); ++i)
            if (const NetIndex n = board.parts[p].pads[i].net; n >= 0) pads[n].push_back({p, i});
    constexpr std::size_t fewest = 3;
    if (pads[net].size() < fewest) return {};
    const Signature own = signatureOf(board, pads[net]);
    const Stretch stretch = stretchOf(board, net);
    std::vector<NetIndex> siblings;
    for (NetIndex other = 0; other < static_cast<NetIndex>(board.nets.size()); ++other)
        if (other != net && !board.nets[other].ground && !stretch.holds(other) &&
            pads[other].size() == pads[net].size() && board.nets[other].nominal == board.nets[net].nominal &&
            signatureOf(board, pads[other]) == own)
            siblings.push_back(other);
    return siblings;
}

} // namespace ustor
