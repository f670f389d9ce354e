#pragma once

#include "board/board.h"

#include <nlohmann/json_fwd.hpp>

namespace ustor {

/// A photo as a member of a board's or a sketch's file.
nlohmann::ordered_json photoToJson(const BoardPhoto& photo);
/// Throws what the JSON library throws, or `BadMember`.
BoardPhoto photoFromJson(const nlohmann::ordered_json& j);

} // namespace ustor
