#pragma once

#include "support/heat_scenes.h"

namespace ustor::testing {

/// Recordings of a second kind, with nothing in common with `makeScene`: an even board by Fourier modes
/// (`SpectralPlate`), and people around it who sway, breathe and walk: their reflections in metal and, a
/// tenth of them, in the mask go up and down as fast as pulses do. Of the kinds: Plain, Manual, Far, Wide
/// and Nothing.
Scene makeSwayingScene(SceneKind kind, std::uint64_t seed);

} // namespace ustor::testing
