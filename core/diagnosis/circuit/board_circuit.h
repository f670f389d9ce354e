#pragma once

#include "base/measurement.h"
#include "board/board.h"
#include "diagnosis/circuit/junction_network.h"
#include "diagnosis/circuit/rail_load.h"
#include "rail/net_parts.h"

#include <set>
#include <span>
#include <string>
#include <vector>

namespace ustor {

/// What leads direct current between two nets of the board without power: a link, or a junction from `a`
/// (anode) to `b` (cathode). Ground stands as the net it is.
struct Branch {
    NetIndex a = -1, b = -1;
    PartIndex part = -1;
    double ohms = 0; ///< 0: a junction
    Junction junction;
};

/// A fault as the circuit sees it: so many ohms between two nets; `b` is -1 for ground.
struct Conductor {
    NetIndex a = -1, b = -1;
    double ohms = 0;
    bool operator==(const Conductor&) const = default;
};

/// Where the meter's leads are, by net; -1 for ground. In diode test red is on ground and black on the pad
/// unless the leads are reversed; in ohms and beep red is on the pad.
struct ProbedNets {
    NetIndex place = -1, against = -1;
    MeterMode mode = MeterMode::Ohms;
    bool reversed = false;
};

/// What is different from the board as it was built.
struct BoardChange {
    std::span<const PartIndex> off;    ///< lifted, unplugged or open parts, in order of their index
    std::span<const Conductor> faults; ///< beside what the board has by itself
    std::span<const std::pair<int, double>> loads; ///< ohms of rails that are not at their usual level
    /// Links count as none at all: their milliohms are nothing beside the contact of a probe to ground.
    bool linksAreNothing = false;
};

struct PredictedReading {
    bool overRange = false;
    double value = 0;         ///< as the meter shows it, without its leads
    double junctionShare = 0; ///< how much of the current flows in junctions: their drop is known less well
};

/// The power nets of a board as a network for direct current, without power: links, body diodes of switches,
/// both switches of converters, and what hangs on each rail by itself. It holds until a class or a voltage
/// changes. Board and parts must outlive it.
class BoardCircuit {
  public:
    BoardCircuit(const Board& board, const NetParts& parts);

    /// Nets that hang together through links: one rail, one load.
    struct Rail {
        std::vector<NetIndex> nets;
        int consumers = 0;             ///< chips on it
        int consumerPads = 0;          ///< nets of it that a chip is on, once a chip
        std::vector<LoadLevel> levels; ///< what it may show by itself
        double usualOhms = 0;
        bool gate = false; ///< of a switch: it carries no power
    };
    const std::vector<Rail>& rails() const { return m_rails; }
    /// The rail has the voltage of the plug, or a switch hands it on: whatever its name, it is no core's.
    void setFedByPlug(int rail);
    /// The rail of a net; -1 where the net is ground or carries no power.
    int railOf(NetIndex net) const { return net < 0 ? -1 : m_railOf[static_cast<std::size_t>(net)]; }
    const std::vector<Branch>& branches() const { return m_branches; }
    /// Between the switches of a converter and its inductor.
    bool isSwitchNode(NetIndex net) const { return m_switchNodes.contains(net); }
    /// What of a rail hangs together while some of its links are off.
    struct Piece {
        std::vector<NetIndex> nets; ///< in order
        double loadFactor = 0; ///< its share of the rail's load has so many times the ohms; 0: it has none
        bool holds(NetIndex net) const;
    };
    Piece pieceOf(NetIndex net, std::span<const PartIndex> off) const;

    /// What a meter shows on the board with these changes; nothing where the network does not settle. Two
    /// switches away from the leads the board counts as open.
    std::optional<PredictedReading> predict(const ProbedNets& probed, const BoardChange& change) const;
    /// The same for each level of what the rail of the place shows by itself, in their order. Where the
    /// network does not settle it counts as open.
    std::vector<PredictedReading> predictLevels(const ProbedNets& probed, const BoardChange& change) const;

    /// The network that is solved, and the nodes of the leads.
    struct Local {
        JunctionNetwork network{1};
        int red = 0, black = 0;
        /// Resistors that are the load of the place's rail, and their ohms by those of the whole load.
        std::vector<std::pair<std::size_t, double>> ownLoad;
    };
    Local localNetwork(const ProbedNets& probed, const BoardChange& change) const;

  private:
    void addLinks();
    void addSwitches();
    void addRails();
    void add(Branch branch);
    bool ground(NetIndex net) const { return net < 0 || m_board.nets[static_cast<std::size_t>(net)].ground; }

    const Board& m_board;
    const NetParts& m_parts;
    std::vector<Branch> m_branches;
    std::vector<NetIndex> m_outputs;    ///< of converters
    std::set<NetIndex> m_inputs;        ///< of converters
    std::set<NetIndex> m_switchNodes;   ///< of converters
    std::vector<std::vector<int>> m_on; ///< branches of each net
    std::vector<Rail> m_rails;
    std::vector<RailSigns> m_signs;         ///< of each rail
    std::vector<int> m_railOf, m_consumers; ///< by net
};

/// How the two modes test (common practice): the diode test drives 1 mA and shows volts up to 2.5; ohms are
/// measured with the largest current that stays below 0.3 V, so that junctions hardly conduct.
struct MeterTest {
    static constexpr double diode_a = 1e-3, diodeMost_v = 2.5;
    static constexpr double ohmsLargest_a = 1e-3, ohmsSmallest_a = 1e-8, ohmsMost_v = 0.3;
};

} // namespace ustor
