#pragma once

#include "base/result.h"
#include "diagnosis/fact/fact.h"

#include <string>
#include <string_view>
#include <vector>

namespace ustor {

/// A kind of fact as it is typed, in the window and on the command line: a word, places, a value.
struct EntryKind {
    std::string_view word;
    Message label; ///< in lists
    int leastPlaces = 0, mostPlaces = 0;
    std::string example;    ///< of the value
    bool needsValue = true; ///< nothing but a place is not enough
};

/// All that can be typed; what is typed most stands first.
const std::vector<EntryKind>& entryKinds();
/// Null for a word that is none.
const EntryKind* entryKind(std::string_view word);

/// What somebody typed. `places` are pads, parts or nets.
struct Entry {
    std::string word;
    std::vector<std::string> places;
    std::string value;
};

/// Words as places and a value: as many of the first as the kind takes and the board has, the rest is the
/// value. A number is a value, though a net may be called so, unless a place has to stand there.
Entry entryOf(const Board& board, const std::string& kind, const std::vector<std::string>& words);

/// The fact that an entry stands for; what is wrong with it and what to type else. Whether its places and
/// numbers are possible is `whyNotTaken`'s matter.
Result<FactBody> factFromEntry(const Board& board, const Entry& entry);

} // namespace ustor
