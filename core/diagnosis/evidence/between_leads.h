#pragma once

#include "diagnosis/evidence/reading_groups.h"
#include "diagnosis/hypothesis/fault.h"

#include <map>
#include <optional>
#include <span>
#include <string>
#include <unordered_map>
#include <vector>

namespace ustor {

/// A fault that is on the board, and how much it conducts.
struct Acting {
    const Fault* fault;
    double ohms;
};
/// The load of the rail behind a punched switch; -1: none.
struct LoadBehind {
    int rail = -1;
    double ohms = 0;
};

/// What lies between the leads of a reading under some faults, and what the meter shows then. What was worked
/// out for a place stays; board and circuit must outlive it.
class BetweenLeads {
  public:
    BetweenLeads(const Board& board, const BoardCircuit& circuit) : m_board(board), m_circuit(circuit) {}

    /// Siemens between the leads of a reading from pad to pad, and from each of them to ground without the
    /// load of the first.
    struct PadToPad {
        double direct_s = 0, place_s = 0, against_s = 0;
        PredictedReading shown(double load_s) const;
    };
    /// All that the faults change for one reading. Equal keys show alike.
    struct Setting {
        std::vector<PartIndex> off; ///< with the open ones
        double siemens = 0;         ///< to ground, of a reading against ground
        std::vector<Conductor> conductors;
        PadToPad between;
        LoadBehind behind;
        std::string key;
    };
    /// `readLoads`: by rail, what it read by itself; 0: not read.
    Setting settingOf(const ReadingGroup& group, std::span<const Acting> acting, LoadBehind behind,
                      const std::vector<double>& readLoads);
    /// The setting's `siemens` alone, of a reading against ground with none of the faults an open part.
    double siemensToGround(const ReadingGroup& group, std::span<const Acting> acting, LoadBehind behind,
                           const std::vector<double>& readLoads);
    /// Before what a board stood like may be gone.
    void forgetStands() { m_pieceThen.clear(); }
    /// By the level of the load on the group's own rail.
    std::vector<PredictedReading> shown(const ReadingGroup& group, const Setting& setting);

  private:
    /// What a meter shows at a place by what lies between it and ground, filled as it is asked for.
    struct Curve : std::vector<std::optional<PredictedReading>> {
        static constexpr double perDecade = 10, leastDecade = -9;
        static constexpr int steps = 115;
    };
    const BoardCircuit::Piece& pieceOf(NetIndex net, const std::vector<PartIndex>& off);
    double loadOf(int rail, std::span<const Acting> acting, LoadBehind behind,
                  const std::vector<double>& readLoads) const;
    double siemensOf(const BoardCircuit::Piece& piece, const std::vector<PartIndex>& off,
                     std::span<const Acting> acting, LoadBehind behind, const std::vector<double>& readLoads,
                     bool further);
    PadToPad padToPad(const ReadingGroup& group, std::span<const Acting> acting, const Setting& setting,
                      const std::vector<double>& readLoads);
    std::vector<Conductor> conductorsFor(const ReadingGroup& group, std::span<const Acting> acting,
                                         const std::vector<PartIndex>& off) const;
    Curve& curveOf(const ReadingGroup& group, const std::vector<PartIndex>& off);
    PredictedReading at(double siemens, Curve& curve, const ReadingGroup& group,
                        const std::vector<PartIndex>& off) const;

    const Board& m_board;
    const BoardCircuit& m_circuit;
    std::unordered_map<std::string, BoardCircuit::Piece> m_pieces;
    /// By how the board stood, and net: the same pieces, found without a word.
    std::map<std::pair<const PartsOff*, NetIndex>, const BoardCircuit::Piece*> m_pieceThen;
    std::unordered_map<std::string, Curve> m_curves;
};

/// Bytes of a number into a key.
template <class T> void put(std::string& key, T value) {
    key.append(reinterpret_cast<const char*>(&value), sizeof value);
}

} // namespace ustor
