#pragma once

#include <string>

namespace ustor {

// What eyes, ears and noses find.

/// What can be seen on a part; a small vocabulary so that it can be counted.
enum class Damage { None, Cracked, Bulged, Discoloured, Burnt, Hole, Corroded, Missing, Bent, Askew };
/// What the eye found on a part; without a part: on the board as a whole.
struct Seen {
    std::string part;
    Damage damage = Damage::None;
    std::string text;
    std::string photo = {}; ///< file inside the case; empty without one
};
/// What can be seen of the board itself, between its parts.
enum class BoardDamage { BurntLaminate, LiftedPad, Corrosion, BrokenTrace, SolderBridge, Dirt };
struct BoardSeen {
    BoardDamage damage = BoardDamage::BurntLaminate;
    std::string place; ///< pad, part or net that it is at
    std::string text;
};
/// What hides parts from the eye was taken away: "foam", "shields".
struct Uncovered {
    std::string what;
};
/// It sparked, smoked or popped under power.
enum class Burst { Spark, Smoke, Pop };
struct BurstSeen {
    Burst burst = Burst::Spark;
    std::string place;
};

} // namespace ustor
