#include "benchmarks.h"
#include "worlds/player.h"
#include "worlds/schools.h"
#include "worlds/told_case.h"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <map>

namespace ustor {
namespace {

using testing::PlayResult;

struct Sum {
    int games = 0, repairable = 0, repaired = 0, leftInside = 0, endless = 0, lifted = 0, firstGuilty = 0;
    int needless = 0;
    double minutes = 0, bestByMeter = 0;
    void add(const PlayResult& r, double byMeter = 0) {
        bestByMeter += r.firstLiftGuilty ? byMeter : 0;
        ++games;
        repairable += r.repairable;
        repaired += r.repairable && r.mended && r.closedFixed;
        leftInside += r.leftInside();
        endless += !r.ended;
        lifted += r.firstLiftGuilty.has_value();
        firstGuilty += r.firstLiftGuilty.value_or(false);
        needless += r.needless;
        minutes += r.minutes;
    }
    void print(const char* name) const {
        const auto share = [](double part, int of) { return of > 0 ? 100.0 * part / of : 0.0; };
        std::printf("%-26s %4d games  repaired %5.1f %% of %d  left inside %4.1f %%  no end %4.1f %%  first "
                    "lift guilty %5.1f %% "
                    "of %d  needless lifts %.2f  minutes %.0f\n",
                    name, games, share(repaired, repairable), repairable, share(leftInside, games),
                    share(endless, games), share(firstGuilty, lifted), lifted,
                    games > 0 ? static_cast<double>(needless) / games : 0.0,
                    games > 0 ? minutes / games : 0.0);
        if (bestByMeter > 0)
            std::printf("   of these first lifts the best of all judges with meter and eyes alone: %.1f %%\n",
                        share(bestByMeter, lifted));
    }
};

/// A mean and what it may be off by: the normal interval of 95 %.
struct Mean {
    double sum = 0, squares = 0;
    int count = 0;
    void add(double value) {
        sum += value;
        squares += value * value;
        ++count;
    }
    void print(const char* name) const {
        if (count < 2) return;
        constexpr double z95 = 1.96;
        const double mean = sum / count, variance = std::max(0.0, squares / count - mean * mean);
        const double off = z95 * std::sqrt(variance / (count - 1));
        std::printf("   %s %+.2f +- %.2f%s", name, mean, off, std::fabs(mean) > off ? "" : " (may be none)");
    }
};

/// Against one habit on the same boards with the same faults: ours less theirs.
struct Against {
    Sum theirs;
    Mean repaired, minutes, needless;
    void add(const PlayResult& ours, const PlayResult& habit) {
        theirs.add(habit);
        const auto mended = [](const PlayResult& r) { return r.mended && r.closedFixed ? 1.0 : 0.0; };
        if (ours.repairable) repaired.add(mended(ours) - mended(habit));
        minutes.add(ours.minutes - habit.minutes);
        needless.add(ours.needless - habit.needless);
    }
    void print(const char* name) const {
        theirs.print(name);
        std::printf("  ours less theirs:");
        repaired.print("repaired");
        minutes.print("minutes");
        needless.print("needless lifts");
        std::printf("\n");
    }
};

} // namespace

void benchPlayers(int games, std::uint64_t firstSeed, bool meterOnly, bool told) {
    std::map<std::string, Sum> byKind;
    Sum all, conducting;
    std::map<testing::Habit, Against> schools;
    for (int i = 0; i < games; ++i) {
        const std::uint64_t seed = firstSeed + static_cast<std::uint64_t>(i);
        Random random(seed);
        testing::OtherBench bench(random);
        testing::PlaySettings settings;
        if (meterOnly) settings.knowledge.tools = {true, false, false};
        if (told) settings.tell = [](const std::string& line) { std::printf("   %s\n", line.c_str()); };
        const std::string kind = testing::kindOfFaults(bench);
        const double byMeter = bench.bestGuessByMeter();
        const bool conducts =
            std::all_of(bench.faults().begin(), bench.faults().end(), [](const testing::WorldFault& f) {
                return f.follows ||
                       (f.kind == testing::WorldFault::Kind::Short && f.part >= 0 && f.fromVolts <= 0);
            });
        const PlayResult r = testing::play(bench, settings);
        byKind[kind].add(r, byMeter);
        all.add(r, byMeter);
        if (conducts) conducting.add(r, byMeter);
        for (const auto habit :
             {testing::Habit::CapacitorsFirst, testing::Habit::ChipsFirst, testing::Habit::LiftTheWarmest}) {
            if (meterOnly && habit == testing::Habit::LiftTheWarmest) continue;
            Random again(seed);
            testing::OtherBench same(again);
            schools[habit].add(r, testing::playByHabit(same, habit));
        }
        const bool good = r.ended && !r.leftInside() && (r.closedFixed == r.repairable) && r.needless == 0;
        if (!good)
            std::printf("seed %llu %-20s %s%s%s needless %d, %d steps, %.0f min, end %s: %s\n",
                        static_cast<unsigned long long>(seed), kind.c_str(), r.ended ? "" : "NO END ",
                        r.leftInside() ? "LEFT INSIDE " : "", r.repairable && !r.mended ? "not repaired" : "",
                        r.needless, r.steps, r.minutes, r.end.c_str(), r.story.c_str());
        std::fflush(stdout);
    }
    for (const auto& [kind, sum] : byKind)
        sum.print(kind.c_str());
    conducting.print("parts that conduct");
    all.print("all");
    for (const auto& [habit, against] : schools)
        against.print(testing::nameOf(habit));
}

} // namespace ustor
