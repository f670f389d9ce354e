#pragma once

namespace ustor {

/// Frames that are summed up together: sums are many times larger than a frame, and are fetched once for all.
inline constexpr int framesAtOnce = 16;

/// sums[row] += weights[row][0] * frames[0] + ... for every pixel. The inner loop of all that is known of the
/// heat: bound by memory, so it is built for what the processor has. `frames`: framesAtOnce pictures,
/// `pixels` apart; `weights`: framesAtOnce each, 0 for frames that are not there; `sums`: `rows` pictures.
void addFrames(const float* frames, const float* const* weights, float* const* sums, int rows, long pixels,
               long apart);

/// Pictures whose places fall on the same lines of the cache push each other out: so many floats from one to
/// the next.
inline long frameApart(long pixels) {
    constexpr long line = 16, page = 1024, shift = 7 * line;
    return (pixels + page - 1) / page * page + shift;
}

} // namespace ustor
