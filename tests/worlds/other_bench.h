#pragma once

#include "diagnosis/fact/fact.h"
#include "worlds/power_board.h"

#include <map>
#include <optional>
#include <set>

namespace ustor::testing {

/// What is wrong with a board of this world.
struct WorldFault {
    enum class Kind { Short, Open, Dead, Firmware };
    Kind kind = Kind::Short;
    PartIndex part = -1; ///< -1: the laminate, or nothing that a hand can lift
    NetIndex a = -1, b = -1;
    double ohms = 0;
    double fromVolts = 0; ///< conducts only above
    bool follows = false; ///< a victim of the others
};

/// How this world differs from common practice (all of it invented for this purpose).
struct WorldStatistics {
    double capacitor = 0.5, polar = 2, mosfet = 3, clamp = 2, chip = 1.2, regulator = 2, processor = 1.5;
    double laminate = 0.05, open = 0.09, dead = 0.06, firmware = 0.07, two = 0.1, atVoltage = 0.03;
    double companion = 0.35, fuseBlown = 0.12;
    double slip = 0.03, shows = 0.28, innocentShows = 0.015, stray = 0.05;
};

/// One board on one bench, with faults that nobody was told.
class OtherBench {
  public:
    OtherBench(Random& random, const WorldStatistics& statistics = {});

    const Board& board() const { return m_made.board; }
    const PowerBoard& truth() const { return m_made; }
    const std::vector<WorldFault>& faults() const { return m_faults; }
    /// By name, for the record.
    std::string story() const;
    /// A part of the board that is to blame, not only a victim.
    bool guilty(PartIndex part) const;
    /// Nothing is wrong with it any more.
    bool mended() const;
    /// A person with these tools could mend it: no processor, no laminate, no firmware.
    bool repairable() const;

    /// How often the best of all judges names a guilty part first with meter and eyes: one that is told what
    /// the fault joins, its ohms to the last digit and the statistics of this world. Among parts that join
    /// the same nets, or nets that a coil or a fuse of less than a meter's digit joins, ohms tell no more
    /// (common practice: they are lifted one by one).
    double bestGuessByMeter() const;

    Reading measure(NetIndex place, NetIndex against, MeterMode mode);
    /// What the source shows when power is put on, and what the board does.
    SourceShows plugIn();
    Reading volts(NetIndex place);
    /// The camera over one side while a limited current goes in.
    HeatFound look(NetIndex into, Side side, double volts, double amps);
    /// The camera over one side while the board tries to start on its own source.
    HeatFound watch(Side side);
    /// Parts that show something.
    std::vector<Seen> seen() const;
    /// Off the board, by itself.
    PartMeasured measurePart(PartIndex part);
    void lift(PartIndex part);
    void refit(PartIndex part, bool fresh);

  private:
    struct Solved {
        std::vector<double> volts; ///< by net
        double at(NetIndex net) const { return net < 0 ? 0 : volts[static_cast<std::size_t>(net)]; }
    };
    struct PossibleShort {
        double weight;
        WorldFault fault;         ///< without ohms
        double median_ohm, sigma; ///< of their logarithm
    };
    std::vector<PossibleShort> possibleShorts(const WorldStatistics& s) const;
    struct Drive {
        NetIndex in = -1, out = -1;
        double amps = 0, most_v = 0;
    };
    /// By net: a number that nets share which read the same.
    std::vector<int> alikeToAMeter() const;
    void draw(const WorldStatistics& s);
    bool everyCauseShows();
    WorldFault drawOne(const WorldStatistics& s);
    std::vector<WorldElement> standing(double atVolts) const;
    Solved solve(const std::vector<WorldElement>& elements, const Drive& drive, bool diodes) const;
    double resistance(NetIndex place, NetIndex against, double atVolts) const;
    bool on(PartIndex part) const { return !m_off.contains(part); }
    bool works(const PowerBoard::Feed& feed) const;
    NetIndex real(NetIndex net) const {
        return net < 0 || m_made.board.nets[static_cast<std::size_t>(net)].ground ? -1 : net;
    }
    void powerUp();
    double logNormal(double median, double sigma);
    bool chance(double p) { return m_random.uniform() < p; }

    Random& m_random;
    WorldStatistics m_statistics;
    PowerBoard m_made;
    std::vector<WorldFault> m_faults;
    std::set<PartIndex> m_off;
    std::map<PartIndex, Damage> m_damage;
    std::map<NetIndex, double> m_up; ///< volts of the last power-up
    SourceShows m_shows;
    NetIndex m_tries = -1; ///< that a converter tries to feed, again and again
    double m_habit;        ///< of this board: how it behaves where several ways are possible
};

} // namespace ustor::testing
