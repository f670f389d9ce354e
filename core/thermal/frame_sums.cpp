#include "thermal/frame_sums.h"

#include <algorithm>

// The clones are chosen when the program starts; other compilers and machines build the plain one.
#if defined(__x86_64__) && defined(__GNUC__) && !defined(__clang__)
#define USTOR_FOR_EACH_PROCESSOR                                                                             \
    __attribute__((target_clones("arch=skylake-avx512", "arch=haswell", "default")))
#else
#define USTOR_FOR_EACH_PROCESSOR
#endif

namespace ustor {
namespace {

/// One piece of a picture, small enough that its frames stay in the first cache.
constexpr long piece = 256;

/// Pixels whose sums stay in registers while all frames are gone over.
constexpr int together = 64;

} // namespace

USTOR_FOR_EACH_PROCESSOR
void addFrames(const float* frames, const float* const* weights, float* const* sums, int rows, long pixels,
               long apart) {
    for (long from = 0; from < pixels; from += piece) {
        const long end = std::min(from + piece, pixels);
        for (int row = 0; row < rows; ++row) {
            const float* const w = weights[row];
            float* const sum = sums[row];
            long p = from;
            for (; p + together <= end; p += together) {
                float all[together];
                for (int i = 0; i < together; ++i)
                    all[i] = sum[p + i];
#pragma GCC unroll 16 // all of them: the sums then never leave the registers
                for (int f = 0; f < framesAtOnce; ++f) {
                    const float* const in = frames + f * apart + p;
                    const float weight = w[f];
                    for (int i = 0; i < together; ++i)
                        all[i] += weight * in[i];
                }
                for (int i = 0; i < together; ++i)
                    sum[p + i] = all[i];
            }
            for (; p < end; ++p)
                for (int f = 0; f < framesAtOnce; ++f)
                    sum[p] += w[f] * frames[f * apart + p];
        }
    }
}

} // namespace ustor
