#pragma once

#include "diagnosis/evidence/between_leads.h"
#include "diagnosis/hypothesis/board_model.h"
#include "diagnosis/known_good.h"

#include <map>
#include <memory>
#include <set>
#include <span>
#include <string>
#include <unordered_map>
#include <vector>

namespace ustor {

/// How well faults explain the readings taken without power. What each rail shows by itself is not known: it
/// is summed over, once a rail, so that two readings of one rail share it; so is how much a short conducts.
/// What was worked out stays while facts come: a new reading costs what its rail takes.
class ReadingEvidence {
  public:
    /// The model must outlive it.
    explicit ReadingEvidence(BoardModel& model)
        : m_board(model.board), m_circuit(model.circuit), m_siblings(model.siblings),
          m_between(model.board, model.circuit) {}

    void setGroups(std::vector<ReadingGroup> groups);
    /// What boards that work read: what their rails show by themselves is what this one's should.
    void setKnownGood(const KnownGoodSet& known);
    const std::vector<ReadingGroup>& groups() const { return m_groups; }
    const BoardCircuit& circuit() const { return m_circuit; }

    /// What some faults make of the readings on the rails that they touch; the others read as on a sound
    /// board.
    struct Course {
        std::vector<int> groups;   ///< of those rails, in order
        std::vector<double> steps; ///< logarithm of the likelihood of each, given those before it
        double gain = 0;           ///< their sum, less what it comes to on a sound board
    };
    using SharedCourse = std::shared_ptr<const Course>;
    /// Faults that share no rail each have a course of their own. Shared by all that the readings cannot tell
    /// apart. None of the faults is `Other`.
    std::vector<SharedCourse> courses(std::span<const Fault> faults);
    /// The same where something that no hypothesis says is wrong beside these faults: it touches some of the
    /// places, nobody knows which, and anything may be read there.
    SharedCourse unknownCourse(std::span<const Fault> faults);
    /// As `Course::steps`, of each group on a sound board.
    const std::vector<double>& soundSteps() const { return m_soundSteps; }
    /// The rails with readings that the faults touch, in order.
    std::vector<int> touched(std::span<const Fault> faults);

  private:
    struct RailGroups {
        std::vector<int> groups;
        std::vector<int> with; ///< the rail, and those that the other lead was on
        std::string version;   ///< equal ones hold the same readings
    };
    /// Faults while a course is worked out, and at which of its groups each is on the board.
    struct Given {
        std::span<const Acting> acting = {};
        const std::vector<int>* groups = nullptr;
        const std::vector<std::vector<bool>>* on = nullptr; ///< by fault and place in `groups`
        bool isOn(std::size_t fault, int group) const;
    };
    void forget();
    std::string contentOf(const ReadingGroup& group) const;
    void lookUpLoads();
    void soundBoard();
    /// By level: what good boards, and siblings on this one that no fault touches, say of the rail's own
    /// load. Of siblings only those before it in order speak, so that each says it once.
    std::vector<double> levelLogs(int rail, const std::vector<int>& soundSiblings);
    std::vector<int> soundSiblings(int rail, std::span<const Fault> faults);
    const std::vector<double>& goodLogs(int rail);
    const std::vector<int>& siblingsBefore(int rail);
    bool touches(const Fault& fault, int rail) const;
    std::vector<double> logsOn(const ReadingGroup& group,
                               const std::vector<PredictedReading>& predicted) const;
    const std::vector<double>& logsOf(int group, const Given& given, LoadBehind behind);
    int readFirst(int rail, const Given& given) const;
    std::vector<LoadLevel> levelsGiven(int rail, const Given& given);
    void putActing(std::string& key, int rail, const Given& given) const;
    const std::vector<double>& railLogs(int rail, const Given& given, const std::vector<int>& soundSiblings);
    std::vector<std::vector<Fault>> separate(std::span<const Fault> faults);
    PartClass kindOf(const Fault& fault) const;
    std::vector<char> actsOn(int rail, std::span<const Acting> acting) const;
    /// Those of some faults that act on one rail; each member are the places of faults that are one there.
    struct ActingOnRail {
        std::vector<std::vector<std::size_t>> members;
        std::vector<std::vector<bool>> on; ///< of each
        std::vector<Acting> at(std::span<const Acting> acting) const;
    };
    ActingOnRail actingOn(int rail, std::span<const Acting> acting,
                          const std::vector<std::vector<bool>>& on) const;
    SharedCourse courseOf(const std::vector<Fault>& faults);
    Course weighed(const std::vector<Fault>& faults, const std::vector<int>& rails, std::vector<int> groups,
                   const std::vector<std::vector<bool>>& on);

    const Board& m_board;
    const BoardCircuit& m_circuit;
    Siblings& m_siblings;
    BetweenLeads m_between;
    std::vector<ReadingGroup> m_groups, m_good;
    std::vector<int> m_contents;               ///< of each group: equal ones say the same
    std::map<int, RailGroups> m_onRail;        ///< rails with readings
    std::map<int, std::vector<int>> m_askedBy; ///< rails with readings that what happens to a rail changes
    std::vector<double> m_readLoads;           ///< by rail: ohms that it read last against ground; 0: none
    std::vector<double> m_soundSteps;          ///< by group

    // What stays while facts come.
    std::map<int, std::vector<int>> m_siblingRails; ///< before it, by rail
    std::map<int, std::vector<double>> m_goodLogs;
    std::set<std::shared_ptr<const PartsOff>> m_stands; ///< kept, so that none takes the place of another
    std::unordered_map<std::string, int> m_contentIds;
    /// What one content comes to by load, for each setting of what lies between the leads.
    struct LogsOfContent {
        std::unordered_map<double, std::vector<double>> bySiemens;
        std::unordered_map<std::string, std::vector<double>> bySetting;
    };
    std::vector<LogsOfContent> m_logs;
    std::unordered_map<std::string, std::vector<double>> m_railLogs; ///< by rail and what acts on its groups
    std::unordered_map<std::string, SharedCourse> m_courses;
};

} // namespace ustor
