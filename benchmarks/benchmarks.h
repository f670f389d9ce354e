#pragma once

#include <cstdint>
#include <string>

namespace ustor {

/// Automatic walks over simulated faults on both demo boards, beside what the hottest pixel would have
/// chosen.
void benchWalks(int runs, std::uint64_t firstSeed, double speed);

/// The demo through the window at the wall's own speed: frames taken, and how long the event loop was away.
/// Needs a WatchedApplication.
void benchLiveLoad();
/// The same with a large fast camera: what the whole program takes of a core. Beside so many other programs
/// that take all they can get, frames may be left out, and nothing may end.
void benchLargeLive(int busyLoops);

/// The response model's update against the least that any per-pixel method has to do.
void benchEstimator();
void benchLargeStream();
void benchLongRecording();
/// A large recording located by the command line: its memory.
void benchLargeLocate();

/// Heat located in recordings made by rule, kind by kind; `only` names one kind, which is then told in full.
void benchScenes(int scenes, std::uint64_t firstSeed, const std::string& only);

/// A generated board of 10,000 parts: opening against the XML parser alone, frames of pan and zoom.
void benchLargeBoard();

/// What a fact costs in a case that has grown, on a small board and a large one; a casebook of 10,000 cases.
void benchGrowth();
/// What it takes to judge one more reading, on boards and cases of several sizes.
void benchJudge();

/// A rail of a million copper cells: time and memory.
void benchCopper();

/// Whole hunts on random boards of a world that is not the judge's, its first move followed to the letter;
/// what went wrong is named, and all of it with `told`.
void benchPlayers(int games, std::uint64_t firstSeed, bool meterOnly, bool told);

/// How sure the judge may be believed to be: so many boards of a world that is not its own, told the same
/// way; the page is written to `file`, or printed where that is empty.
void benchHowSure(int cases, std::uint64_t firstSeed, const std::string& file);

/// Energised runs in which processes die and hang, cables are pulled and knobs turned, one or two at a time,
/// beside two busy loops: how soon the output is off.
void benchSafety(int runs);

} // namespace ustor
