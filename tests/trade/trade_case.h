#pragma once

#include "board/board.h"
#include "diagnosis/fact/entry.h"

#include <map>
#include <optional>
#include <string>
#include <vector>

namespace ustor::testing {

/// A board of the trade cases with the parts that play a role in them.
struct TradeBoard {
    std::string name;
    bool drawnHere = true;
    Board board;
    std::map<std::string, std::string> roles;
};

/// One line of a case: a fact as it is typed, or what has to follow from those before it.
struct TradeLine {
    int line = 0;
    bool expects = false;
    std::vector<std::string> words; ///< "$role" stands for what plays it
};

/// A situation of the trade, told fact by fact.
struct TradeCase {
    std::string title;
    std::vector<TradeLine> lines;
    std::vector<std::string> only; ///< boards; all that have the roles where it is empty

    /// With the names of this board; nothing where it lacks a role.
    std::optional<TradeCase> on(const TradeBoard& board) const;
};

std::vector<TradeCase> readTradeCases(const std::string& file);
/// Boards that cannot be had on this machine are left out and named in `missing`.
std::vector<TradeBoard> readTradeBoards(const std::string& file, std::vector<std::string>& missing);

} // namespace ustor::testing
