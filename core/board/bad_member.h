#pragma once

#include "base/message.h"

namespace ustor {

/// Thrown while a JSON file of ours is read, and caught by its reader: a member says what it cannot say.
struct BadMember {
    Message what;
};

} // namespace ustor
