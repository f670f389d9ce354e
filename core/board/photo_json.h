#pragma once

#include "board/board.h"

#include <nlohmann/json_fwd.hpp>

namespace ustor {

/// A photo as a member of a board's or a sketch's file.
nlohmann::ordered_json photoToJson(const BoardPhoto& photo);
/// Throws what the JSON library throws, or `std::invalid_argument` with words for people.
BoardPhoto photoFromJson(const nlohmann::ordered_json& j);

} // namespace ustor
