#pragma once

#include "diagnosis/circuit/feed.h"
#include "diagnosis/evidence/item.h"
#include "diagnosis/fact/case_state.h"

#include <string>
#include <unordered_map>
#include <vector>

namespace ustor {

/// How a rail stands with the power on.
enum class Level { Absent, Low, Present };
struct LevelShares {
    double absent, low, present;
    double of(Level level) const {
        return level == Level::Absent ? absent : level == Level::Low ? low : present;
    }
};

/// Volts read with the power on: which rails come up, which stay away, which are folded back. A rail is there
/// when nothing on its way is open, dead or shorted, and it is not itself (common practice). A derived one
/// may be waiting to be enabled: how likely that is follows from the others that no fault explains, for what
/// enables one enables most. Rails that wait together are no fault each; the only one that is missing is. A
/// rail is one as long as no link in it is open: on its two sides an open one shows.
class PowerLevels {
  public:
    /// State, circuit and feed must outlive it.
    PowerLevels(const CaseState& state, const BoardCircuit& circuit, const Feed& feed);

    /// What another reading on this net of a rail would show, given those that were taken.
    LevelShares next(NetIndex net, std::span<const Fault> faults, const PartsOff& then) const;
    /// Each reading as evidence, given those before it. The items share this object's findings.
    static std::vector<EvidenceItem> evidence(const std::shared_ptr<const PowerLevels>& levels);

  private:
    struct Taken {
        NetIndex net = -1;
        int rail = -1;
        long fact = 0;
        Level level = Level::Present;
        std::shared_ptr<const PartsOff> then;
        Message what;
        int before = -1; ///< the reading of this rail before it
    };
    /// What a fault does to a net of a rail.
    enum class Does { Nothing, CutsOff, Shorts, Anything };
    Does done(const Fault& fault, NetIndex net, const PartsOff& then) const;
    const std::vector<Does>& doneToEach(const Fault& fault) const;
    /// Of the readings before the n-th.
    LevelShares waiting(std::size_t before, std::span<const Fault> faults) const;
    LevelShares sharesFor(int rail, Does worst, std::size_t before, std::span<const Fault> faults) const;
    double logOf(std::size_t i, std::span<const Fault> faults) const;

    const CaseState& m_state;
    const BoardCircuit& m_circuit;
    const Feed& m_feed;
    std::vector<Taken> m_taken;                                        ///< in order of their facts
    mutable std::unordered_map<std::string, std::vector<Does>> m_done; ///< by fault, to each reading
};

} // namespace ustor
