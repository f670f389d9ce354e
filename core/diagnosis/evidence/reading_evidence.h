#pragma once

#include "diagnosis/evidence/reading_likelihood.h"
#include "diagnosis/fact/case_state.h"
#include "diagnosis/hypothesis/fault.h"
#include "diagnosis/known_good.h"
#include "rail/siblings.h"

#include <map>
#include <memory>
#include <span>
#include <string>
#include <unordered_map>
#include <vector>

namespace ustor {

/// Readings that say the same thing: one place, one mode, the board as it stood. Said twice, they are no
/// second witness: they share their slip, and count as one.
struct ReadingGroup {
    ProbedNets probed;
    int rail = -1; ///< of the place
    ReadingDoubt doubt;
    std::shared_ptr<const PartsOff> then;
    std::vector<PartIndex> off; ///< then, in order
    std::string place;          ///< as it was noted
    std::vector<Reading> readings;
    std::vector<long> facts;
    /// By reading: its density where it is a slip; by itself where this is empty.
    std::vector<double> strays = {};
    double strayOf(std::size_t reading) const {
        return strays.empty() ? strayDensity(readings[reading]) : strays[reading];
    }
};

/// The readings without power that lie on rails, in the order of their first.
std::vector<ReadingGroup> readingGroups(const CaseState& state, const BoardCircuit& circuit);

/// How well faults explain the readings taken without power. What each rail shows by itself is not known: it
/// is summed over, once a rail, so that two readings of one rail share it; so is how much a short conducts.
class ReadingEvidence {
  public:
    /// Board and circuit must outlive it.
    ReadingEvidence(const Board& board, const NetParts& parts, const BoardCircuit& circuit)
        : m_board(board), m_circuit(circuit), m_siblings(board, parts) {}

    void setGroups(std::vector<ReadingGroup> groups);
    /// What boards that work read: what their rails show by themselves is what this one's should.
    void setKnownGood(const KnownGoodSet& known);
    const std::vector<ReadingGroup>& groups() const { return m_groups; }
    const BoardCircuit& circuit() const { return m_circuit; }

    /// Natural logarithm of the likelihood of the readings up to and with each group, in their order, none of
    /// the faults being `Other`. Shared by all hypotheses that the readings cannot tell apart.
    using Course = std::shared_ptr<const std::vector<double>>;
    Course course(std::span<const Fault> faults);
    /// The same where something that no hypothesis says is wrong beside these faults: it touches some of the
    /// places, nobody knows which, and anything may be read there.
    Course unknownCourse(std::span<const Fault> faults);
    /// A bound for whatever explains the readings of these rails, from all that was weighed so far.
    double bestOn(std::span<const int> rails) const;
    /// The rails with readings that the faults touch.
    std::vector<int> touched(std::span<const Fault> faults);

  private:
    struct Acting {
        const Fault* fault;
        double ohms;
    };
    /// By level: what good boards, and siblings on this one that no fault touches, say of the rail's own
    /// load. Of siblings only those before it in order speak, so that each says it once.
    std::vector<double> levelLogs(int rail, std::span<const Acting> acting);
    const std::vector<int>& siblingsBefore(int rail);
    std::vector<double> logsOn(const ReadingGroup& group,
                               const std::vector<PredictedReading>& predicted) const;
    std::vector<std::vector<Fault>> separate(std::span<const Fault> faults);
    bool touches(const Fault& fault, int rail) const;
    const std::vector<double>& railCourse(int rail, std::span<const Acting> acting);
    /// The load of the rail behind a punched switch; -1: none.
    struct Behind {
        int rail = -1;
        double ohms = 0;
    };
    const BoardCircuit::Piece& pieceOf(NetIndex net, const std::vector<PartIndex>& off);
    /// Siemens between the leads of a reading from pad to pad, and from each of them to ground without the
    /// load of the first.
    struct PadToPad {
        double direct_s = 0, place_s = 0, against_s = 0;
        PredictedReading shown(double load_s) const;
    };
    PadToPad padToPad(const ReadingGroup& group, std::span<const Acting> acting,
                      const std::vector<PartIndex>& off, Behind behind);
    double siemensOf(const BoardCircuit::Piece& piece, const ReadingGroup& group,
                     std::span<const Acting> acting, const std::vector<PartIndex>& off, Behind behind,
                     bool further);
    /// What a meter shows at a place by what lies between it and ground, filled as it is asked for.
    struct Curve : std::vector<std::optional<PredictedReading>> {
        static constexpr double perDecade = 10, leastDecade = -9;
        static constexpr int steps = 115;
    };
    Curve& curveOf(const ReadingGroup& group, const std::vector<PartIndex>& off);
    PredictedReading at(double siemens, Curve& curve, const ReadingGroup& group,
                        const std::vector<PartIndex>& off) const;
    /// By the level of the load on the group's own rail.
    std::vector<Conductor> conductorsFor(const ReadingGroup& group, std::span<const Acting> acting,
                                         const std::vector<PartIndex>& off) const;
    const std::vector<double>& logsOf(std::size_t group, std::span<const Acting> acting, Behind behind);
    int readFirst(int rail, std::span<const Acting> acting) const;
    std::vector<LoadLevel> levelsGiven(int rail, std::span<const Acting> acting);
    void putActing(std::string& key, const std::vector<std::size_t>& groups,
                   std::span<const Acting> acting) const;

    const Board& m_board;
    const BoardCircuit& m_circuit;
    Siblings m_siblings;
    std::vector<ReadingGroup> m_groups, m_good;
    std::map<int, std::vector<int>> m_siblingRails; ///< before it, by rail
    std::map<int, std::vector<std::size_t>> m_onRail;
    Course m_healthy;
    std::map<std::string, std::vector<double>> m_railCourses; ///< by rail and what acts on each of its groups
    std::map<std::string, Course> m_courses;                  ///< by what acts on which group
    std::unordered_map<std::string, std::vector<double>>
        m_logs; ///< of a group, by what acts on it and its load
    std::unordered_map<std::string, BoardCircuit::Piece> m_pieces; ///< stay while facts come
    std::unordered_map<std::string, Curve> m_curves;               ///< stay while facts come
    std::vector<double> m_best; ///< of each group, the best that was weighed so far
};

} // namespace ustor
