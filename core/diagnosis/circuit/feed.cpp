#include "diagnosis/circuit/feed.h"

#include <algorithm>
#include <deque>

namespace ustor {

Feed::Feed(const Board& board, const BoardCircuit& circuit)
    : m_stages(circuit.rails().size(), FeedStage::Unfed), m_ways(circuit.rails().size()) {
    const PowerPath path = powerPath(board);
    std::deque<int> open;
    const auto reach = [&](int rail, FeedStage stage) {
        FeedStage& own = m_stages[static_cast<std::size_t>(rail)];
        if (own != FeedStage::Unfed) return false;
        own = stage;
        open.push_back(rail);
        return true;
    };
    for (const PathPlace& place : path.places)
        if (const int rail = circuit.railOf(place.net); place.source && rail >= 0)
            reach(rail, FeedStage::Input);
    while (!open.empty()) {
        const int here = open.front();
        open.pop_front();
        for (const PathStep& step : path.steps) {
            const int from = circuit.railOf(path.places[static_cast<std::size_t>(step.from)].net),
                      to = circuit.railOf(path.places[static_cast<std::size_t>(step.to)].net);
            if (from != here || to < 0 || to == here) continue;
            const bool converts = step.kind == StepKind::Converter || step.kind == StepKind::Linear;
            const FeedStage own = m_stages[static_cast<std::size_t>(here)];
            const FeedStage next = converts                        ? FeedStage::Derived
                                   : step.kind == StepKind::Switch ? std::max(own, FeedStage::Main)
                                                                   : own;
            if (!reach(to, next)) continue;
            auto& way = m_ways[static_cast<std::size_t>(to)];
            way = m_ways[static_cast<std::size_t>(here)];
            way.push_back({here, to, step.parts});
            for (const PartIndex part : step.parts) {
                const auto [known, fresh] = m_fedBy.emplace(part, next);
                if (!fresh) known->second = std::min(known->second, next);
            }
        }
    }
}

} // namespace ustor
