#include "benchmarks.h"
#include "rail/copper_network.h"

#include <QElapsedTimer>
#include <QFile>
#include <cstdio>

namespace ustor {
namespace {

/// A rail of two slotted layers with vias, two pads far apart.
Board largeRail() {
    Board board;
    board.nets = {{"RAIL", false, {}, false}, {"GND", true, {}, false}};
    for (int layer = 0; layer < 2; ++layer) {
        CopperPiece piece{{{0, 0}, {150, 0}, {150, 100}, {0, 100}}, {}, 0};
        for (int i = 1; i < 15; ++i) {
            const double x = 10.0 * i, y = i % 2 ? 0.5 : 20;
            piece.holes.push_back({{x, y}, {x, y + 79}, {x + 0.6, y + 79}, {x + 0.6, y}});
        }
        board.copper.push_back({"layer", 0.035, {piece}});
    }
    for (int i = 0; i < 60; ++i)
        board.vias.push_back({{3 + 2.4 * i, 50.0 + i % 7}, 0, 0.3});
    for (const BoardPoint at : {BoardPoint{2, 2}, {148, 98}}) {
        Part part;
        part.designator = "C" + std::to_string(board.parts.size() + 1);
        part.pads = {{"1", at, 0, Side::Top, false, 0.6, 0.6, 0}};
        board.parts.push_back(part);
    }
    return board;
}

double residentMb() {
    QFile status("/proc/self/status");
    if (!status.open(QIODevice::ReadOnly)) return -1;
    for (const QByteArray& line : status.readAll().split('\n'))
        if (line.startsWith("VmHWM:")) return line.simplified().split(' ')[1].toDouble() / 1024;
    return -1;
}

} // namespace

void benchCopper() {
    const Board board = largeRail();
    CopperNetworkSettings settings;
    settings.mostCells = 1000000;
    const double before_mb = residentMb();
    QElapsedTimer clock;
    clock.start();
    const auto made = copperNetwork(board, stretchOf(board, 0), settings);
    if (!made) return std::printf("Copper: %s\n", made.error().text().c_str()), void();
    const double cut_s = static_cast<double>(clock.nsecsElapsed()) * 1e-9;
    clock.restart();
    const CopperNetwork& copper = made.value();
    const auto ohms = copper.network.between(copper.nodeOf({0, 0}), copper.nodeOf({1, 0}));
    const double solve_s = static_cast<double>(clock.nsecsElapsed()) * 1e-9;
    // The least that any solver does: every resistor looked at once.
    std::vector<double> sum(static_cast<std::size_t>(copper.network.nodes()), 0.0);
    clock.restart();
    for (const auto& edge : copper.network.edges()) {
        sum[static_cast<std::size_t>(edge.a)] += edge.siemens;
        sum[static_cast<std::size_t>(edge.b)] -= edge.siemens;
    }
    const double pass_s = static_cast<double>(clock.nsecsElapsed()) * 1e-9;
    std::printf(
        "Copper of %d cells: cut in %.2f s, solved in %.2f s (%.0f passes over its resistors), %.0f MB more; "
        "%.4f mOhm%s\n",
        copper.cells, cut_s, solve_s, solve_s / pass_s, residentMb() - before_mb,
        ohms ? 1e3 * ohms.value().value : -1, sum.front() > 1e300 ? "." : "");
}

} // namespace ustor
