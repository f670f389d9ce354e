#pragma once

#include "base/result.h"
#include "diagnosis/fact/fact.h"

#include <map>
#include <optional>
#include <string>
#include <string_view>
#include <vector>

namespace ustor {

/// One reading of a board that works.
struct KnownReading {
    std::string place;
    Reading reading;
    bool reversed = false;
    std::string donor; ///< which board it came from; may be empty
    bool operator==(const KnownReading&) const = default;
};

/// What good boards of one model read, place by place; several donors may stand side by side.
struct KnownGoodSet {
    std::string model;
    std::vector<KnownReading> readings;
    bool empty() const { return readings.empty(); }
};

/// What the donors say about one place.
struct Expected {
    double typical = 0; ///< median, in the unit of the mode; meaningless when over range
    bool overRange = false;
    int readings = 0;
    std::string place; ///< where it was read: the place itself, or another on the same net
};

/// A set laid on a board: which net each of its places stands for.
class KnownGoodOnBoard {
  public:
    KnownGoodOnBoard(const KnownGoodSet& set, const Board& board);
    /// The place itself if a donor was read there, else any place of the same net.
    std::optional<Expected> at(const std::string& place, NetIndex net, MeterMode mode, bool reversed) const;

  private:
    const KnownGoodSet& m_set;
    std::map<std::string, std::vector<std::size_t>> m_atPlace; ///< in small letters
    std::map<NetIndex, std::vector<std::size_t>> m_onNet;
};

/// Median of readings; nothing without one. Over range when most are.
std::optional<Expected> typicalOf(const std::vector<Reading>& readings);

/// Known-good readings as CSV `place,mode,value,unit,polarity,board`: an empty value is over range, polarity
/// is empty or `reversed`. Rows that cannot be read are left out with a warning that names the line.
Result<KnownGoodSet> readKnownGood(std::string_view text, std::string_view fileName,
                                   std::vector<Message>& warnings);
std::string knownGoodToCsv(const KnownGoodSet& set);

/// The readings of a case that may stand as known good: of a donor board all that count; of a repair those
/// taken after it was proven, with nothing off the board.
KnownGoodSet knownGoodFrom(const Board& board, const std::vector<Fact>& facts, const std::string& donor);

} // namespace ustor
