#pragma once

#include "diagnosis/circuit/feed.h"
#include "diagnosis/hypothesis/fault.h"

#include <map>
#include <vector>

namespace ustor {

/// What goes with a fault: the controller of a switch that is punched through has often seen the full input
/// voltage; a fuse before a short opens (common practice).
class Companions {
  public:
    Companions(const Board& board, const BoardCircuit& circuit, const Feed& feed);

    struct Victim {
        Fault fault;
        double share = 0; ///< of such causes that take it with them
    };
    std::vector<Victim> of(const Fault& cause) const;

    /// A fuse right before the short, or with switches between: the plug's current goes through it. A
    /// converter between them limits what it takes: there seldom.
    static constexpr double deadController = 0.3, openFuse = 0.12, openFuseOfConverter = 0.01;

  private:
    const Board& m_board;
    const BoardCircuit& m_circuit;
    const Feed& m_feed;
    std::map<PartIndex, std::vector<PartIndex>> m_controllers; ///< of a switch
    std::vector<PartIndex> m_fuses;
};

} // namespace ustor
