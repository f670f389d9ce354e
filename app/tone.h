#pragma once

#include "diagnosis/rail_rules.h"

#include <QByteArray>

namespace ustor {

/// Pitch of the tone that tells a judgement: high for a short, middle for low, low for healthy.
double toneHz(RailState state);
/// A fifth of a second of it as a WAVE file (16-bit mono).
QByteArray toneWave(double hz);
/// Plays it through whatever player the desktop has (pw-play, paplay, aplay); silent where there is none.
void playTone(double hz);

} // namespace ustor
