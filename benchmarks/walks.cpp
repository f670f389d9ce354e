#include "benchmarks.h"
#include "board/board_files.h"
#include "session/practice/auto_walk.h"
#include "session/practice/demo_case.h"
#include "session/practice/standin_process.h"

#include <QTemporaryDir>
#include <cstdio>

namespace ustor {
namespace {

struct Tally {
    int runs = 0, first = 0, three = 0, naive = 0, unfinished = 0, repeated = 0;
};

/// One repair on a fresh simulated bench; `trouble` says why it did not finish.
WalkResult oneWalk(const Board& board, const QStringList& files, std::uint64_t seed, double speed) {
    WalkResult walk;
    StandInProcess standIn;
    const QTemporaryDir folder;
    auto made = CaseFolder::create(folder.filePath("case").toStdString(), "bench", board);
    const auto started =
        standIn.start(programBeside("ustor-standin"), files + QStringList{"--seed", QString::number(seed),
                                                                          "--speed", QString::number(speed)});
    Hands hands;
    if (!made || !started || !hands.open(standIn.address().control)) {
        walk.trouble = say("the simulated bench did not start");
        return walk;
    }
    CaseSession session(std::move(made.value()), {});
    BenchLink bench(programBeside("ustor-guard"));
    bench.open(standIn.address());
    WalkSettings settings;
    settings.seed = seed;
    return autoWalk(session, bench, hands, settings);
}

/// A machine that stands still for half a second (other work, a busy host) ends an injection, as it must:
/// such a walk says nothing about the finder and is made anew, and counted.
WalkResult finishedWalk(const Board& board, const QStringList& files, std::uint64_t seed, double speed,
                        Tally& tally) {
    constexpr int tries = 3;
    WalkResult walk;
    for (int i = 0; i < tries && !walk.finished; ++i) {
        if (i > 0) {
            std::printf("  seed %-4llu again: %s\n", static_cast<unsigned long long>(seed),
                        walk.trouble.text().c_str());
            ++tally.repeated;
        }
        walk = oneWalk(board, files, seed, speed);
    }
    return walk;
}

void note(const WalkResult& walk, std::uint64_t seed, Tally& tally) {
    ++tally.runs;
    tally.first += walk.finished && walk.rank == 1;
    tally.three += walk.finished && walk.rank >= 1 && walk.rank <= 3;
    tally.naive += walk.finished && walk.hottestPixel == walk.hidden;
    tally.unfinished += !walk.finished;
    std::printf("  seed %-4llu hidden %-5s %7.3f ohm  rank %d at %3.0f %%  hottest pixel %-5s %s\n",
                static_cast<unsigned long long>(seed), walk.hidden.c_str(), walk.hiddenOhms, walk.rank,
                100 * walk.odds, walk.hottestPixel.c_str(), walk.trouble.text().c_str());
    std::fflush(stdout);
}

} // namespace

void benchWalks(int runs, std::uint64_t seed, double speed) {
    const auto folder = demoFolder();
    if (!folder) return;
    std::printf(
        "Right part before anything is lifted, %d faults on each of two boards, fresh seeds from %llu:\n",
        runs, static_cast<unsigned long long>(seed));
    Tally tally;
    for (const char* stem : {"chart-plotter", "greenhouse-controller"}) {
        const std::string base = (folder.value() / "boards" / stem).string();
        const auto board = readBoardFiles({base + ".356", base + ".centroid.csv"});
        if (!board) continue;
        std::printf(" %s\n", stem);
        const QStringList files{QString::fromStdString(base + ".356"),
                                QString::fromStdString(base + ".centroid.csv")};
        for (std::uint64_t s = seed; s < seed + static_cast<std::uint64_t>(runs); ++s)
            note(finishedWalk(board.value(), files, s, speed, tally), s, tally);
    }
    std::printf(
        " of %d: first %d (wanted 80 %%), among the first three %d (wanted 95 %%), unfinished %d (made "
        "anew after a standstill: %d); hottest pixel of the last picture right %d times\n\n",
        tally.runs, tally.first, tally.three, tally.unfinished, tally.repeated, tally.naive);
}

} // namespace ustor
