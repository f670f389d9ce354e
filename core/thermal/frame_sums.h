#pragma once

namespace ustor {

/// Frames that are summed up together: sums are many times larger than a frame, and are fetched once for all.
inline constexpr int framesAtOnce = 32;

/// sums[row] += weights[row][0] * frames[0] + ... + weights[row][count - 1] * frames[count - 1], and squares
/// += frames[0]^2 + ..., for every pixel. The inner loop of all that is known of the heat: a matrix product
/// whose long side is the picture, so it is blocked for registers and first cache and built for what the
/// processor has. `frames`: `count` pictures, at most framesAtOnce; `sums`: `rows` pictures.
void addFrames(const float* const* frames, int count, const float* const* weights, float* const* sums,
               int rows, float* squares, long pixels);

} // namespace ustor
