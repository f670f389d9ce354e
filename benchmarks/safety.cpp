#include "benchmarks.h"
#include "busy_loops.h"
#include "support/energised.h"

#include <QProcess>
#include <QStringList>
#include <algorithm>
#include <cstdio>
#include <memory>
#include <vector>

namespace ustor {
namespace {

using testing::Energised;

constexpr int limit_ms = 1000;

/// Single faults, and pairs of them, after which somebody is left with a way to the supply. A pulled cable
/// and a supply that hears nothing are mended before the clock starts: before that nobody can reach it.
std::vector<QStringList> combinations() {
    std::vector<QStringList> all;
    const auto breaksLink = [](const QString& f) { return f == "cable pulled" || f == "supply deaf"; };
    const auto process = [](const QString& f) { return f.section(' ', 0, 0); };
    const QStringList faults = Energised::faults();
    for (const QString& fault : faults)
        if (!fault.startsWith("second")) all.push_back({fault}); // alone it harms nobody
    for (qsizetype i = 0; i < faults.size(); ++i)
        for (qsizetype k = i + 1; k < faults.size(); ++k) {
            if (process(faults[i]) == process(faults[k])) continue;
            if (breaksLink(faults[i]) && breaksLink(faults[k])) continue;
            all.push_back({faults[i], faults[k]});
        }
    return all;
}

struct Row {
    QString name;
    int runs = 0, inTime = 0, slowest_ms = 0;
    QStringList troubles;
};

void run(const QStringList& faults, Row& row) {
    Energised energised;
    ++row.runs;
    if (const QString trouble = energised.start(); !trouble.isEmpty()) {
        row.troubles << trouble;
        return;
    }
    for (const QString& fault : faults)
        energised.happen(fault);
    if (faults.contains("cable pulled") || faults.contains("supply deaf")) {
        constexpr int apart_ms = 1500;
        (void)energised.offAfter_ms(apart_ms);
        energised.mend();
    }
    const auto off_ms = energised.offAfter_ms();
    if (!off_ms) {
        row.troubles << "stayed on";
        return;
    }
    row.slowest_ms = std::max(row.slowest_ms, *off_ms);
    if (!energised.staysOff())
        row.troubles << "came on again";
    else if (*off_ms < limit_ms)
        ++row.inTime;
    else
        row.troubles << QString("%1 ms").arg(*off_ms);
}

} // namespace

void benchSafety(int runs) {
    constexpr int busy = 2;
    const auto all = combinations();
    std::vector<Row> rows(all.size());
    for (std::size_t i = 0; i < all.size(); ++i)
        rows[i].name = all[i].join(", ");
    {
        const BusyLoops loops(busy);
        for (int i = 0; i < runs; ++i)
            run(all[i % all.size()], rows[i % all.size()]);
    }
    std::printf("off within %d ms, %d busy loops beside it\n", limit_ms, busy);
    std::printf("%-36s %9s %12s\n", "what happens", "in time", "slowest, ms");
    Row sum{"all", 0, 0, 0, {}};
    for (const Row& row : rows) {
        if (row.runs == 0) continue;
        std::printf("%-36s %4d of %d %12d %s\n", qPrintable(row.name), row.inTime, row.runs, row.slowest_ms,
                    qPrintable(row.troubles.join("; ")));
        sum.runs += row.runs;
        sum.inTime += row.inTime;
        sum.slowest_ms = std::max(sum.slowest_ms, row.slowest_ms);
    }
    std::printf("%-36s %4d of %d %12d\n", qPrintable(sum.name), sum.inTime, sum.runs, sum.slowest_ms);
}

} // namespace ustor
