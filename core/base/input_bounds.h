#pragma once

#include <cstdint>

namespace ustor::bounds {

// What comes in from outside may hold at most this: beyond it is a fault of the file, the device or the hand
// that typed, and is told as one. Bounds of a single format stand with its reader.

/// Places on a board, from its origin, and sizes on it. The largest panels measure two metres.
constexpr double place_mm = 10'000;
constexpr double span_mm = 2'000;
constexpr double thinnest_mm = 0.05, thickest_mm = 20, usualThickness_mm = 1.6;
constexpr long copperLayers = 1000;
constexpr std::uintmax_t boardFile_bytes = 512ULL << 20;

/// Thermal pictures, of a recording, a stream or a camera's profile.
constexpr int narrowest_px = 8, widest_px = 4096;
constexpr bool isPictureSize(long width, long height) {
    return width >= narrowest_px && height >= narrowest_px && width <= widest_px && height <= widest_px;
}
constexpr double fastest_hz = 1000;
constexpr double coldestRoom_c = -80, hottestRoom_c = 1000, noisiest_mk = 1e6;
constexpr double coldestPixel_c = -100, hottestPixel_c = 2000;

/// Recordings: the longest time between two frames, and how far the supply's log may lie from the frames.
constexpr double frameGap_s = 120, supplyAside_s = 60;

/// Stills as tables of numbers.
constexpr std::int64_t still_bytes = 300'000'000;

/// Archives: an entry of more than `harmless_bytes` may grow so many times. Pictures and readings shrink to a
/// tenth, not to a thousandth.
constexpr std::uint64_t harmless_bytes = 16 << 20, growth = 200;

/// Readings: volts of an extra-low-voltage bench (IEC 61140: 120 V direct current).
constexpr double volts = 120, amps = 100, ohms = 1e9, watts = 1000, seconds = 86400;
constexpr double stroke_px = 1e4;

/// Lines and answers of devices and other processes, and what may wait unread.
constexpr std::int64_t line_bytes = 1 << 20, waiting_bytes = 2 << 20;
constexpr std::int64_t profile_bytes = 1 << 20, ledger_bytes = 1 << 16, greeting_bytes = 4096,
                       unheard_bytes = 1 << 16;

} // namespace ustor::bounds
