#include "base/random.h"
#include "rail/copper_network.h"
#include "reference/spice_engine.h"
#include "reference/test_reference.h"
#include "standin/circuit.h"
#include "support/boards.h"

#include <QTest>
#include <cmath>

using namespace ustor;

using testing::spice, testing::spiceIsMissing;

// An independent solver for the same DC network: a SPICE engine from the distribution's packages. Pass rule:
// its printed digits (six) and its gmin of 1e-12 S, 1e-5 of the largest voltage.
void TestSpice::sameNetworkSameVoltages() {
    if (spiceIsMissing()) QSKIP("no SPICE engine (package ngspice) on this machine");
    constexpr int nodes = 60;
    Random random(31);
    ResistorNetwork net(nodes);
    QString text = "a random network\n";
    int count = 0;
    const auto connect = [&](int a, int b) {
        if (a == b) return;
        const double ohms = std::exp(random.uniform(std::log(1e-3), std::log(1e3)));
        net.connect(a, b, Ohms(ohms));
        const auto name = [](int n) { return n == 0 ? QString("0") : "n" + QString::number(n); };
        text += QString("R%1 %2 %3 %4\n").arg(++count).arg(name(a), name(b)).arg(ohms, 0, 'g', 12);
    };
    for (int i = 1; i < nodes; ++i)
        connect(i, random.below(i));
    for (int i = 0; i < 100; ++i)
        connect(random.below(nodes), random.below(nodes));
    text += "I1 0 n17 2\nI2 n40 0 0.5\n.control\nset numdgt=9\nop\n";
    for (int i = 1; i < nodes; ++i)
        text += QString("print v(n%1)\n").arg(i);
    text += ".endc\n.end\n";
    const auto reference = spice(text);
    QCOMPARE(reference.size(), nodes - 1);
    std::vector<double> amps(nodes, 0.0);
    amps[17] = 2;
    amps[40] = -0.5;
    const auto volts = net.solve(amps, 0);
    QVERIFY(volts.ok());
    double most = 0;
    for (const double v : volts.value())
        most = std::max(most, std::fabs(v));
    for (int i = 1; i < nodes; ++i) {
        const double expected = reference["n" + QString::number(i)];
        QVERIFY2(std::fabs(volts.value()[static_cast<std::size_t>(i)] - expected) < 1e-5 * most,
                 qPrintable(QString("node %1: %2 against %3")
                                .arg(i)
                                .arg(volts.value()[static_cast<std::size_t>(i)])
                                .arg(expected)));
    }
}

// Copper with a slot, on two layers joined by vias, as cells: the same cells as a netlist for the SPICE
// engine.
void TestSpice::copperSameVoltages() {
    if (spiceIsMissing()) QSKIP("no SPICE engine (package ngspice) on this machine");
    Board board;
    board.nets = {{"RAIL", false, {}, false}, {"GND", true, {}, false}};
    board.copper = {{"top", 0.035, {}}, {"bottom", 0.0175, {}}};
    board.copper[0].pieces = {
        {{{0, 0}, {20, 0}, {20, 12}, {0, 12}}, {{{8, 2}, {8, 11.5}, {9, 11.5}, {9, 2}}}, 0}};
    board.copper[1].pieces = {{{{4, 4}, {16, 4}, {16, 8}, {4, 8}}, {}, 0}};
    board.vias = {{{5, 6}, 0, 0.3}, {{15, 6}, 0, 0.3}};
    for (const BoardPoint at : {BoardPoint{1, 1}, {19, 11}, {6, 10}, {12, 3}, {18, 2}}) {
        Part part;
        part.designator = "C" + std::to_string(board.parts.size() + 1);
        part.partClass = PartClass::CeramicCapacitor;
        part.pads = {{"1", at, 0, Side::Top, false, 0.4, 0.4, 0},
                     {"2", at, 1, Side::Top, false, 0.4, 0.4, 0}};
        board.parts.push_back(part);
    }
    CopperNetworkSettings settings;
    settings.mostCells = 1800;
    const auto copper = copperNetwork(board, stretchOf(board, 0), settings);
    QVERIFY(copper.ok() && copper.value().cells > 1500);
    const int feed = copper.value().nodeOf({0, 0}), drain = copper.value().nodeOf({1, 0});
    const auto name = [&](int n) { return n == drain ? QString("0") : "n" + QString::number(n); };
    QString text = "copper as cells\n";
    int count = 0;
    for (const auto& edge : copper.value().network.edges())
        text += QString("R%1 %2 %3 %4\n")
                    .arg(++count)
                    .arg(name(edge.a), name(edge.b))
                    .arg(1 / edge.siemens, 0, 'g', 12);
    text += QString("I1 0 %1 2\n.control\nset numdgt=9\nop\n").arg(name(feed));
    for (PartIndex p = 0; p < 5; ++p)
        if (const int node = copper.value().nodeOf({p, 0}); node != drain)
            text += QString("print v(%1)\n").arg(name(node));
    const auto reference = spice(text + ".endc\n.end\n");
    QCOMPARE(reference.size(), 4);
    std::vector<double> amps(static_cast<std::size_t>(copper.value().network.nodes()), 0.0);
    amps[static_cast<std::size_t>(feed)] = 2;
    amps[static_cast<std::size_t>(drain)] = -2;
    const auto volts = copper.value().network.solve(amps, drain).value();
    for (PartIndex p = 0; p < 5; ++p) {
        const int node = copper.value().nodeOf({p, 0});
        if (node == drain) continue;
        const double expected = reference[name(node)], found = volts[static_cast<std::size_t>(node)];
        QVERIFY2(std::fabs(found / expected - 1) < 1e-4,
                 qPrintable(QString("%1 not %2").arg(found).arg(expected)));
    }
}

// The simulated board's own solver against the core's, on a rail small enough to write down by hand: lead,
// fuse, fault.
void TestSpice::simulatedBoardAgrees() {
    Board board;
    testing::addNet(board, "GND");
    testing::addChip(board, "F1", PartClass::Fuse, {5, 5}, "IN_5V", "OUT_5V", 3, 1.5);
    testing::addChip(board, "C1", PartClass::CeramicCapacitor, {15, 5}, "OUT_5V", "GND", 1, 0.5);
    testing::addChip(board, "C2", PartClass::CeramicCapacitor, {30, 5}, "OUT_5V", "GND", 1, 0.5);
    const standin::Circuit circuit(board, *standin::faultAt(board, "C2", 0.25), 1);
    const auto response = circuit.drive(*board.findPad("F1.1"), *board.findPad("C2.2"));
    // Fuse of 12 mOhm within its 0.7 to 1.4 spread, 23 mm of rail copper at 0.15 mOhm/mm, the fault of 250
    // mOhm.
    QVERIFY(response.connected);
    QVERIFY2(response.ohms > 0.25 + 0.0084 + 0.003 && response.ohms < 0.25 + 0.0168 + 0.005,
             qPrintable(QString::number(response.ohms)));
    double watts = 0;
    for (const auto& heat : circuit.heatOf(response))
        watts += heat.wattsPerAmp2;
    QVERIFY(std::fabs(watts - response.ohms) < 1e-6); // all the power is somewhere: P = I^2 R
}
