#include "diagnosis/hypothesis/companions.h"

#include "rail/converters.h"

#include <algorithm>

namespace ustor {

Companions::Companions(const Board& board, const BoardCircuit& circuit, const Feed& feed)
    : m_board(board), m_circuit(circuit), m_feed(feed) {
    for (const Converter& converter : convertersOf(board)) {
        if (converter.controller < 0) continue;
        for (const auto* side : {&converter.highSide, &converter.lowSide})
            for (const PartIndex p : *side)
                if (p != converter.controller) m_controllers[p].push_back(converter.controller);
    }
    for (PartIndex p = 0; p < static_cast<PartIndex>(board.parts.size()); ++p)
        if (board.parts[p].partClass == PartClass::Fuse) m_fuses.push_back(p);
}

std::vector<Companions::Victim> Companions::of(const Fault& cause) const {
    std::vector<Victim> victims;
    if (!cause.conducts()) return victims;
    if (const auto known = m_controllers.find(cause.part); known != m_controllers.end())
        for (const PartIndex controller : known->second)
            victims.push_back({{FaultKind::Dead, controller}, deadController});
    for (const PartIndex fuse : m_fuses) {
        const auto& pads = m_board.parts[static_cast<std::size_t>(fuse)].pads;
        const int a = m_circuit.railOf(cause.a), b = m_circuit.railOf(cause.b);
        const auto touches = [&](int rail) {
            return std::any_of(pads.begin(), pads.end(),
                               [&](const Pad& pad) { return m_circuit.railOf(pad.net) == rail; });
        };
        const bool beside = (a >= 0 && touches(a)) || (b >= 0 && touches(b));
        const bool derived = a >= 0 && m_feed.stageOf(a) == FeedStage::Derived;
        const bool before = a >= 0 && std::any_of(m_feed.wayTo(a).begin(), m_feed.wayTo(a).end(),
                                                  [&](const Feed::Step& step) {
                                                      return step.from >= 0 && touches(step.from);
                                                  });
        // One behind the short carries none of its current, nor does one in another branch.
        if (m_feed.knowsLink(fuse) && !m_feed.cutsOff(fuse, cause.a) && !m_feed.cutsOff(fuse, cause.b))
            continue;
        if (beside || before)
            victims.push_back({{FaultKind::Open, fuse}, derived && !beside ? openFuseOfConverter : openFuse});
    }
    return victims;
}

} // namespace ustor
