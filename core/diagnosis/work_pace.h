#pragma once

#include "base/result.h"
#include "diagnosis/fact/fact.h"

#include <array>
#include <string>
#include <string_view>
#include <vector>

namespace ustor {

/// Kinds of work that a shop does at a pace of its own.
enum class WorkKind { Read, LookAtHeat, LiftSmall, LiftSwitch, LiftChip };
constexpr std::array workKinds{WorkKind::Read, WorkKind::LookAtHeat, WorkKind::LiftSmall,
                               WorkKind::LiftSwitch, WorkKind::LiftChip};
std::string_view wordOf(WorkKind kind);
WorkKind liftingOf(PartClass partClass);

/// What a shop's own trails tell of its pace: by kind of work how often it was timed, and how long it took
/// against common practice (geometric mean: work times are skewed, as the log-normal).
class WorkPace {
  public:
    struct Timed {
        long times = 0;
        double logSum = 0; ///< natural logarithms of minutes taken by usual minutes
        bool operator==(const Timed&) const = default;
    };

    const Timed& timed(WorkKind kind) const { return m_timed[static_cast<std::size_t>(kind)]; }
    void add(WorkKind kind, const Timed& timed);
    void add(const WorkPace& other);
    bool empty() const;
    bool operator==(const WorkPace&) const = default;

    /// What usual minutes have to be taken times. Pulled towards one as if common practice had been timed
    /// `trustInCommon` times as well: the mean of a normal prior over the logarithm.
    double factor(WorkKind kind) const { return m_factor[static_cast<std::size_t>(kind)]; }
    static constexpr double trustInCommon = 4;

  private:
    std::array<Timed, workKinds.size()> m_timed{};
    std::array<double, workKinds.size()> m_factor{1, 1, 1, 1, 1};
};

/// The pace of one case: each piece of work took from the fact before it until its own. Left out are breaks,
/// as in `WorkTime`; what follows the fact before it so closely that it was noted afterwards; what was struck
/// out.
WorkPace paceOf(const Board& board, const std::vector<Fact>& facts);

/// What one case tells, as it is kept.
struct CasePace {
    std::string caseName;
    WorkPace pace;
};

/// Rows of `case,work,times,against_usual`: the last the geometric mean. Rows that cannot be read are left
/// out with a warning that names the line.
Result<std::vector<CasePace>> readPace(std::string_view text, std::string_view fileName,
                                       std::vector<Message>& warnings);
std::string paceToCsv(const std::vector<CasePace>& cases);

} // namespace ustor
