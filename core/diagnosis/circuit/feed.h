#pragma once

#include "diagnosis/circuit/board_circuit.h"
#include "rail/power_path.h"

#include <map>
#include <set>
#include <vector>

namespace ustor {

/// Where on the way of the power a rail lies.
enum class FeedStage {
    Input,   ///< what the plug reaches without a switch
    Main,    ///< behind a switch
    Derived, ///< behind a converter or a linear regulator
    Unfed    ///< not on the way as far as the board tells
};

/// Which rail is fed by which, through which parts: the power path by the rails of the circuit.
class Feed {
  public:
    Feed(const Board& board, const BoardCircuit& circuit);

    struct Step {
        int from = -1, to = -1;       ///< rails; from the plug: -1
        std::vector<PartIndex> parts; ///< that carry the current, and what steers them
    };
    FeedStage stageOf(int rail) const {
        return rail < 0 ? FeedStage::Unfed : m_stages[static_cast<std::size_t>(rail)];
    }
    /// The first stage to which the part leads; Unfed where it leads nowhere that the board tells.
    FeedStage stageFedBy(PartIndex part) const {
        const auto found = m_fedBy.find(part);
        return found == m_fedBy.end() ? FeedStage::Unfed : found->second;
    }
    /// That link lies on the way of the power, so that `cutsOff` tells what hangs on it.
    bool knowsLink(PartIndex link) const { return m_cutOff.contains(link); }
    /// With that link open the net has no power from any plug.
    bool cutsOff(PartIndex link, NetIndex net) const {
        const auto found = m_cutOff.find(link);
        return found != m_cutOff.end() && found->second.contains(net);
    }
    /// A connector that brings no power: the board starts without it.
    bool isLoad(PartIndex part) const { return m_loads.contains(part); }
    /// A rail that leads to a plug and to no chip but the one that makes it: what is plugged in there may be
    /// dark while the board starts.
    bool isAside(int rail) const { return rail >= 0 && m_aside[static_cast<std::size_t>(rail)]; }
    /// With that link open nothing is without power but what is aside.
    bool cutsOnlyAside(PartIndex link) const { return m_cutsOnlyAside.contains(link); }
    /// The steps that lead to a rail, from the plug on, which is the first; each rail once. The rail's own
    /// feeder comes last.
    const std::vector<Step>& wayTo(int rail) const { return m_ways[static_cast<std::size_t>(rail)]; }

  private:
    void findWhatLinksCutOff(const Board& board, const NetParts& parts, const BoardCircuit& circuit,
                             const PowerPath& path);

    void findWhatIsAside(const Board& board, const BoardCircuit& circuit);

    std::vector<FeedStage> m_stages;
    std::vector<bool> m_aside; ///< by rail
    std::set<PartIndex> m_cutsOnlyAside;
    std::map<PartIndex, FeedStage> m_fedBy;
    std::set<PartIndex> m_loads;
    std::map<PartIndex, std::set<NetIndex>> m_cutOff; ///< of links on the way
    std::vector<std::vector<Step>> m_ways;
};

} // namespace ustor
