#include "benchmarks.h"
#include "worlds/player.h"

#include <cstdio>
#include <map>

namespace ustor {
namespace {

using testing::PlayResult;

struct Sum {
    int games = 0, repairable = 0, repaired = 0, leftInside = 0, endless = 0, lifted = 0, firstGuilty = 0;
    int needless = 0;
    double minutes = 0;
    void add(const PlayResult& r) {
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
        const auto share = [](int part, int of) { return of > 0 ? 100.0 * part / of : 0.0; };
        std::printf("%-26s %4d games  repaired %5.1f %% of %d  left inside %4.1f %%  no end %4.1f %%  first "
                    "lift guilty %5.1f %% "
                    "of %d  needless lifts %.2f  minutes %.0f\n",
                    name, games, share(repaired, repairable), repairable, share(leftInside, games),
                    share(endless, games), share(firstGuilty, lifted), lifted,
                    games > 0 ? static_cast<double>(needless) / games : 0.0,
                    games > 0 ? minutes / games : 0.0);
    }
};

/// The first fault's kind, for the table.
const char* kindOf(const testing::OtherBench& bench) {
    using Kind = testing::WorldFault::Kind;
    int causes = 0;
    for (const auto& fault : bench.faults())
        causes += !fault.follows;
    if (causes > 1) return "two faults";
    const auto& fault = bench.faults().front();
    const auto& parts = bench.board().parts;
    switch (fault.kind) {
    case Kind::Open:
        return "open part";
    case Kind::Dead:
        return "dead controller";
    case Kind::Firmware:
        return "nothing electrical";
    case Kind::Short:
        break;
    }
    if (fault.part < 0) return "laminate";
    if (fault.fromVolts > 0) return "capacitor, at voltage";
    switch (parts[fault.part].partClass) {
    case PartClass::CeramicCapacitor:
    case PartClass::PolarCapacitor:
        return "capacitor";
    case PartClass::Mosfet:
        return "switch";
    case PartClass::ClampDiode:
        return "clamp diode";
    case PartClass::Regulator:
        return "controller shorted";
    default:
        return bench.repairable() ? "chip" : "processor";
    }
}

} // namespace

void benchPlayers(int games, std::uint64_t firstSeed, bool meterOnly, bool told) {
    std::map<std::string, Sum> byKind;
    Sum all;
    for (int i = 0; i < games; ++i) {
        const std::uint64_t seed = firstSeed + static_cast<std::uint64_t>(i);
        Random random(seed);
        testing::OtherBench bench(random);
        testing::PlaySettings settings;
        if (meterOnly) settings.knowledge.tools = {true, false, false};
        if (told) settings.tell = [](const std::string& line) { std::printf("   %s\n", line.c_str()); };
        const std::string kind = kindOf(bench);
        const PlayResult r = testing::play(bench, settings);
        byKind[kind].add(r);
        all.add(r);
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
    all.print("all");
}

} // namespace ustor
