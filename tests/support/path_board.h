#pragma once

#include "board/board.h"
#include "support/heat_scenes.h"
#include "thermal/registration.h"

namespace ustor::testing {

/// A board with a bead into the rail (net 0) at each place of the scene that the current passes; the
/// picture's upper left corner is its origin.
Board boardWithBeads(const Scene& scene);

/// The camera of a scene looks straight down.
Registration straightOver(const Scene& scene);

} // namespace ustor::testing
