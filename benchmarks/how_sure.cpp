#include "benchmarks.h"
#include "worlds/calibration.h"
#include "worlds/told_case.h"

#include <atomic>
#include <cstdio>
#include <fstream>
#include <map>
#include <mutex>
#include <sstream>
#include <thread>
#include <vector>

namespace ustor {
namespace {

using testing::Calibration;
using testing::ToldCase;

struct Kind {
    int cases = 0, withCulprit = 0, first = 0, amongTwo = 0;
    double bestByMeter = 0; ///< sum over those with a culprit
    void add(const ToldCase& told) {
        ++cases;
        withCulprit += told.hasCulprit;
        first += told.said[ToldCase::Looked].so;
        amongTwo += told.amongTwo;
        if (told.hasCulprit) bestByMeter += told.bestByMeter;
    }
};

struct Sums {
    std::array<Calibration, ToldCase::whens> byMoment;
    std::map<std::string, Kind> byKind;
    Kind all;
    void add(const ToldCase& told) {
        for (std::size_t k = 0; k < ToldCase::whens; ++k)
            byMoment[k].add(told.said[k].odds, told.said[k].so);
        byKind[told.kind].add(told);
        all.add(told);
    }
};

/// On all processors; what comes out does not depend on how many there are.
Sums tellAll(int cases, std::uint64_t firstSeed, bool meterOnly) {
    std::vector<ToldCase> told(static_cast<std::size_t>(cases));
    std::atomic<int> next = 0;
    const auto work = [&] {
        for (int i = next++; i < cases; i = next++) {
            Random random(firstSeed + static_cast<std::uint64_t>(i));
            constexpr double times = 3;
            const auto statistics = testing::shiftedStatistics(random, times);
            testing::OtherBench bench(random, statistics);
            told[static_cast<std::size_t>(i)] = testing::tellCase(bench, random, meterOnly);
        }
    };
    std::vector<std::thread> workers;
    for (unsigned k = 0; k < std::max(1U, std::thread::hardware_concurrency()); ++k)
        workers.emplace_back(work);
    for (std::thread& worker : workers)
        worker.join();
    Sums sums;
    for (const ToldCase& each : told)
        sums.add(each);
    return sums;
}

std::string percent(double share) {
    char text[32];
    std::snprintf(text, sizeof text, "%.0f %%", 100 * share);
    return text;
}
std::string three(double value) {
    char text[32];
    std::snprintf(text, sizeof text, "%.3f", value);
    return text;
}

void kinds(std::ostream& page, const Sums& sums, bool meterOnly) {
    page << "| What was wrong | Cases | Likeliest part is a cause | Among the first two |"
         << (meterOnly ? " Best of all judges |" : "") << "\n|---|---|---|---|"
         << (meterOnly ? "---|\n" : "\n");
    const auto row = [&](const std::string& name, const Kind& kind) {
        const auto share = [&](double so) {
            // A blown fuse beside the laminate makes no kind of its own.
            return 10 * kind.withCulprit > kind.cases ? percent(so / kind.withCulprit) : "no part is";
        };
        page << "| " << name << " | " << kind.cases << " | " << share(kind.first) << " | "
             << share(kind.amongTwo) << " |";
        page << (meterOnly ? " " + share(kind.bestByMeter) + " |\n" : "\n");
    };
    for (const auto& [name, kind] : sums.byKind)
        row(name, kind);
    Kind blamed = sums.all;
    blamed.cases = blamed.withCulprit;
    row("all with a part to blame", blamed);
}

void odds(std::ostream& page, const Sums& sums) {
    page << "| Stated | every rail read | looked at with a camera | likeliest part lifted "
            "|\n|---|---|---|---|\n";
    for (std::size_t bin = 0; bin < Calibration::bins; ++bin) {
        page << "| " << 10 * bin << " to " << 10 * (bin + 1) << " % |";
        for (const Calibration& moment : sums.byMoment) {
            const Calibration::Bin its = moment.table()[bin];
            page << (its.count > 0 ? " " + percent(its.happened) + " of " + std::to_string(its.count) : " ")
                 << " |";
        }
        page << "\n";
    }
    const auto line = [&](const char* name, const auto& value) {
        page << "| " << name << " |";
        for (const Calibration& moment : sums.byMoment)
            page << " " << three(value(moment)) << " |";
        page << "\n";
    };
    line("expected calibration error", [](const Calibration& c) { return c.error(); });
    line("Brier score", [](const Calibration& c) { return c.brier().score; });
    line("its reliability", [](const Calibration& c) { return c.brier().reliability; });
    line("its resolution", [](const Calibration& c) { return c.brier().resolution; });
    line("its uncertainty", [](const Calibration& c) { return c.brier().uncertainty; });
}

} // namespace

void benchHowSure(int cases, std::uint64_t firstSeed, const std::string& file) {
    const Sums all = tellAll(cases, firstSeed, false), meter = tellAll(cases / 4, firstSeed, true);
    std::ostringstream page;
    page
        << "# How sure is \"sure\"\n"
           "Made by `./run bench --how-sure N --page docs/how-sure.md`; this time over "
        << cases << " simulated boards from seed " << firstSeed
        << ".\n\nThe boards, their faults, meters, sources and the camera are those of `tests/worlds/`, a "
           "world "
           "that is not the judge's: other boards, other physics, a slip in three readings of a hundred, two "
           "faults on one board in ten, and shares of parts and kinds of fault that are drawn anew for each "
           "board, "
           "up to three times more or less. Each hunt goes the same way: plugged in and every rail read once "
           "in "
           "ohms; the rail that is down looked at from both sides; the likeliest part lifted and the rail "
           "read "
           "again. What is stated is how sure Ustor is that the likeliest part is a cause.\n\n"
           "## By what was wrong, once it had been looked at\n";
    kinds(page, all, false);
    page << "\n## What was stated, and how often it was so\n";
    odds(page, all);
    page
        << "\n## With a meter alone (" << cases / 4 << " boards)\n"
        << "Parts that join the same nets read the same: the best of all judges is told which nets the fault "
           "joins, its ohms to the last digit, every part that shows something and the statistics of each "
           "board, and is right first so often.\n\n";
    kinds(page, meter, true);
    if (file.empty()) {
        std::printf("%s", page.str().c_str());
        return;
    }
    std::ofstream out(file);
    out << page.str();
    std::printf(out.good() ? "written: %s\n" : "could not be written: %s\n", file.c_str());
}

} // namespace ustor
