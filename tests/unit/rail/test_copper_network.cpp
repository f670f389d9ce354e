#include "rail/copper.h"
#include "rail/copper_network.h"
#include "rail/millivolts.h"
#include "unit/rail/test_rail.h"

#include <QTest>
#include <cmath>
#include <numbers>

using namespace ustor;

namespace {

std::vector<BoardPoint> rectangle(double x, double y, double width, double height) {
    return {{x, y}, {x + width, y}, {x + width, y + height}, {x, y + height}};
}

/// A board with one rail and ground; the rail's copper is what a test adds.
struct Sheet {
    Board board;
    explicit Sheet(int layers = 1) {
        board.nets = {{"RAIL", false, {}, false}, {"GND", true, {}, false}};
        for (int i = 0; i < layers; ++i)
            board.copper.push_back({"layer " + std::to_string(i), 0.035, {}});
    }
    void copper(std::size_t layer, std::vector<BoardPoint> outline,
                std::vector<std::vector<BoardPoint>> holes = {}) {
        board.copper[layer].pieces.push_back({std::move(outline), std::move(holes), 0});
    }
    /// A part with a small pad on the rail and one on ground.
    PadRef part(const std::string& designator, BoardPoint at, Side side = Side::Top,
                PartClass partClass = PartClass::CeramicCapacitor) {
        Part part;
        part.designator = designator;
        part.partClass = partClass;
        part.centre = at;
        Pad rail{"1", at, 0, side, false, 0.4, 0.4, 0}, ground = rail;
        ground.pin = "2";
        ground.net = 1;
        part.pads = {rail, ground};
        board.parts.push_back(part);
        return {static_cast<PartIndex>(board.parts.size()) - 1, 0};
    }
    CopperNetwork network(int mostCells = 120000) const {
        CopperNetworkSettings settings;
        settings.mostCells = mostCells;
        settings.temperature = Celsius(20);
        auto made = copperNetwork(board, stretchOf(board, 0), settings);
        return made ? std::move(made.value()) : CopperNetwork{};
    }
};

/// Volts between two pads while one ampere flows from one pad to another.
double between(const CopperNetwork& net, PadRef from, PadRef to, PadRef a, PadRef b) {
    std::vector<double> amps(static_cast<std::size_t>(net.network.nodes()), 0.0);
    amps[static_cast<std::size_t>(net.nodeOf(from))] = 1;
    amps[static_cast<std::size_t>(net.nodeOf(to))] = -1;
    const auto volts = net.network.solve(amps, net.nodeOf(to)).value();
    return volts[static_cast<std::size_t>(net.nodeOf(a))] - volts[static_cast<std::size_t>(net.nodeOf(b))];
}

} // namespace

// Along a strip the current is even: R = R_square L / w. Ends are far, where it spreads (Saint-Venant).
void TestCopperNetwork::strip() {
    Sheet sheet;
    sheet.copper(0, rectangle(0, 0, 60, 4));
    const PadRef from = sheet.part("C1", {0.5, 2}), to = sheet.part("C2", {59.5, 2}),
                 a = sheet.part("C3", {20, 2}), b = sheet.part("C4", {40, 2});
    const double ohms = between(sheet.network(), from, to, a, b);
    QVERIFY(std::fabs(ohms / (sheetResistance(35e-6).value * 20 / 4) - 1) < 0.005);
}

// A rectangular plate fed at two points: potentials by images in its four insulated edges, each -(I R / 2 pi)
// ln r.
void TestCopperNetwork::plateByImages() {
    constexpr double width = 40, height = 30;
    const BoardPoint in{8, 7}, out{31, 22};
    const auto potential = [&](BoardPoint p) {
        double sum = 0;
        constexpr int images = 40;
        const auto from = [&](BoardPoint source, int m, int n, int sx, int sy) {
            return std::log(
                distance_mm(p, {2 * m * width + sx * source.x_mm, 2 * n * height + sy * source.y_mm}));
        };
        for (int m = -images; m <= images; ++m)
            for (int n = -images; n <= images; ++n)
                for (const int sx : {-1, 1})
                    for (const int sy : {-1, 1})
                        sum -= from(in, m, n, sx, sy) - from(out, m, n, sx, sy);
        return sum * sheetResistance(35e-6).value / (2 * std::numbers::pi);
    };
    Sheet sheet;
    sheet.copper(0, rectangle(0, 0, width, height));
    const PadRef from = sheet.part("C1", in), to = sheet.part("C2", out);
    std::vector<std::pair<PadRef, BoardPoint>> probes;
    for (const BoardPoint p : {BoardPoint{15, 10}, {3, 25}, {20, 15}, {36, 4}, {27, 19}})
        probes.emplace_back(sheet.part("C" + std::to_string(3 + probes.size()), p), p);
    const CopperNetwork network = sheet.network();
    QVERIFY(network.fromCopper);
    const double whole = potential(probes[0].second) - potential(probes[4].second);
    for (std::size_t i = 1; i < probes.size(); ++i) {
        const double wanted = potential(probes[0].second) - potential(probes[i].second);
        const double found = between(network, from, to, probes[0].first, probes[i].first);
        QVERIFY2(std::fabs(found - wanted) < 0.01 * std::fabs(whole),
                 qPrintable(QString("%1 not %2").arg(found).arg(wanted)));
    }
}

// Through a via from one layer to the other: R = rho h / (pi (d t + t^2)) on top of both strips.
void TestCopperNetwork::viaJoinsLayers() {
    const auto ohms = [](bool via) {
        Sheet sheet(2);
        sheet.copper(0, rectangle(0, 0, 20, 2));
        sheet.copper(1, rectangle(18, 0, 20, 2));
        if (via) sheet.board.vias.push_back({{19, 1}, 0, 0.3});
        const PadRef a = sheet.part("C1", {1, 1}), b = sheet.part("C2", {37, 1}, Side::Bottom);
        const CopperNetwork net = sheet.network();
        const auto r = net.network.between(net.nodeOf(a), net.nodeOf(b));
        return r ? r.value().value : -1;
    };
    QCOMPARE(ohms(false), -1.0); // no way without it
    const double barrel = viaResistance(1.6e-3, 0.3e-3, 20e-6).value,
                 strips = sheetResistance(35e-6).value * 36 / 2;
    // The current narrows to the pads and the via: some squares more, (1 / pi) ln of widths, at each of four
    // places.
    const double found = ohms(true), narrow = found - barrel - strips;
    QVERIFY2(narrow > 0 && narrow < 5 * sheetResistance(35e-6).value,
             qPrintable(QString::number(found / barrel)));
}

void TestCopperNetwork::withoutCopperItIsSaid() {
    Sheet sheet;
    sheet.part("C1", {0, 0});
    sheet.part("C2", {10, 0});
    sheet.part("C3", {20, 0});
    const CopperNetwork network = sheet.network();
    QVERIFY(!network.fromCopper);
    QVERIFY(!network.notes.empty());
    // Farther is more, all the same.
    const auto r = [&](int a, int b) {
        return network.network.between(network.nodeOf({a, 0}), network.nodeOf({b, 0})).value();
    };
    QVERIFY(r(0, 2) > r(0, 1));
}

void TestCopperNetwork::aCoarseMeterSaysSo() {
    Sheet sheet;
    sheet.copper(0, rectangle(0, 0, 30, 30));
    const PadRef inject = sheet.part("J1", {1, 1}, Side::Top, PartClass::Connector);
    for (int i = 0; i < 4; ++i)
        sheet.part("C" + std::to_string(i), {10 + 4.0 * i, 15});
    MillivoltSetup setup;
    setup.inject = inject;
    setup.current = Amps(0.1);
    setup.resolution = Volts(0.01);
    const Stretch stretch = stretchOf(sheet.board, 0);
    const MillivoltModel model = millivoltModel(sheet.board, stretch).value();
    const auto coarse =
        MillivoltLocator::create(sheet.board, stretch, model, setup).value().locate({{inject, 0.05}});
    QVERIFY(coarse.ok());
    QVERIFY(!coarse.value().tells);
    QVERIFY(!coarse.value().notes.empty());
    setup.current = Amps(5);
    setup.resolution = Volts(1e-6);
    const auto fine =
        MillivoltLocator::create(sheet.board, stretch, model, setup).value().locate({{inject, 0.05}});
    QVERIFY(fine.ok() && fine.value().tells);
}
