#include "thermal/frame_sums.h"

#include <cstring>

namespace ustor {
namespace {

/// The frames of a strip of pixels, and where its sums are.
struct Strip {
    const float* const* frames;
    int count;
    const float* const* weights;
    float* const* sums;
    int rows;
    float* squares;
    long pixels;
};

template <typename Vector> [[gnu::always_inline]] inline void load(const float* from, Vector& to) {
    std::memcpy(&to, from, sizeof to);
}

/// Some rows of some vectors: the sums stay in registers while all frames are gone over.
template <typename Vector, int rows, int vectors>
[[gnu::always_inline]] inline void addTile(const float* packed, const Strip& strip, int row, long pixel) {
    constexpr int lanes = sizeof(Vector) / sizeof(float);
    Vector sums[rows][vectors];
    for (int r = 0; r < rows; ++r)
        for (int v = 0; v < vectors; ++v)
            load(strip.sums[row + r] + pixel + v * lanes, sums[r][v]);
    for (int f = 0; f < strip.count; ++f) {
        Vector in[vectors];
        for (int v = 0; v < vectors; ++v)
            load(packed + (f * vectors + v) * lanes, in[v]);
        for (int r = 0; r < rows; ++r) {
            const float weight = strip.weights[row + r][f];
            for (int v = 0; v < vectors; ++v)
                sums[r][v] += in[v] * weight;
        }
    }
    for (int r = 0; r < rows; ++r)
        for (int v = 0; v < vectors; ++v)
            std::memcpy(strip.sums[row + r] + pixel + v * lanes, &sums[r][v], sizeof(Vector));
}

template <typename Vector, int tileRows, int vectors>
[[gnu::always_inline]] inline void addAll(const Strip& strip) {
    constexpr int lanes = sizeof(Vector) / sizeof(float), width = vectors * lanes;
    // Side by side, for pictures whose places fall on the same lines of the cache push each other out.
    alignas(64) float packed[framesAtOnce * width];
    long p = 0;
    for (; p + width <= strip.pixels; p += width) {
        Vector squares[vectors];
        for (int v = 0; v < vectors; ++v)
            load(strip.squares + p + v * lanes, squares[v]);
        for (int f = 0; f < strip.count; ++f)
            for (int v = 0; v < vectors; ++v) {
                Vector in;
                load(strip.frames[f] + p + v * lanes, in);
                squares[v] += in * in;
                std::memcpy(packed + (f * vectors + v) * lanes, &in, sizeof in);
            }
        std::memcpy(strip.squares + p, squares, sizeof squares);
        int row = 0;
        for (; row + tileRows <= strip.rows; row += tileRows)
            addTile<Vector, tileRows, vectors>(packed, strip, row, p);
        for (; row + 2 <= strip.rows; row += 2)
            addTile<Vector, 2, vectors>(packed, strip, row, p);
        for (; row < strip.rows; ++row)
            addTile<Vector, 1, vectors>(packed, strip, row, p);
    }
    for (; p < strip.pixels; ++p)
        for (int f = 0; f < strip.count; ++f) {
            const float in = strip.frames[f][p];
            strip.squares[p] += in * in;
            for (int row = 0; row < strip.rows; ++row)
                strip.sums[row][p] += strip.weights[row][f] * in;
        }
}

using Four = float __attribute__((vector_size(16)));

void addPlain(const Strip& strip) {
    addAll<Four, 4, 2>(strip);
}

#if defined(__x86_64__) && defined(__GNUC__) && !defined(__clang__)
using Eight = float __attribute__((vector_size(32)));
using Sixteen = float __attribute__((vector_size(64)));

[[gnu::target("avx2,fma")]] void addWide(const Strip& strip) {
    addAll<Eight, 4, 2>(strip);
}
[[gnu::target("avx512f,avx512vl,avx512dq,avx512bw,fma,prefer-vector-width=512")]] void
addWidest(const Strip& strip) {
    addAll<Sixteen, 5, 4>(strip);
}

using Way = void (*)(const Strip&);
Way bestWay() {
    __builtin_cpu_init();
    if (__builtin_cpu_supports("avx512f") && __builtin_cpu_supports("avx512vl") &&
        __builtin_cpu_supports("avx512dq") && __builtin_cpu_supports("avx512bw"))
        return addWidest;
    return __builtin_cpu_supports("avx2") && __builtin_cpu_supports("fma") ? addWide : addPlain;
}
#else
using Way = void (*)(const Strip&);
Way bestWay() {
    return addPlain;
}
#endif

} // namespace

void addFrames(const float* const* frames, int count, const float* const* weights, float* const* sums,
               int rows, float* squares, long pixels) {
    static const Way way = bestWay();
    way({frames, count, weights, sums, rows, squares, pixels});
}

} // namespace ustor
