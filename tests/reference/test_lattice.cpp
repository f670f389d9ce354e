#include "base/random.h"
#include "rail/copper.h"
#include "rail/network.h"
#include "reference/test_reference.h"

#include <QTest>
#include <cmath>
#include <numbers>

using namespace ustor;

namespace {

constexpr int side = 161;
int node(int x, int y) {
    return y * side + x;
}

ResistorNetwork lattice() {
    ResistorNetwork net(side * side);
    for (int y = 0; y < side; ++y)
        for (int x = 0; x < side; ++x) {
            if (x + 1 < side) net.connect(node(x, y), node(x + 1, y), Ohms(1));
            if (y + 1 < side) net.connect(node(x, y), node(x, y + 1), Ohms(1));
        }
    return net;
}

} // namespace

// Infinite square lattice of resistors R: neighbours R/2, diagonal 2R/pi, knight's move R(4/pi - 1/2)
// (Atkinson and van Steenwijk, Am. J. Phys. 67, 486, 1999; Cserti, Am. J. Phys. 68, 896, 2000).
// Pass rule: the middle of a finite lattice differs by the images at its rim, of the order (r / side)^2 =
// 2e-4.
void TestLattice::infiniteSquareLattice() {
    const ResistorNetwork net = lattice();
    const int c = side / 2, middle = node(c, c);
    const double neighbour = net.between(middle, node(c + 1, c)).value().value;
    const double diagonal = net.between(middle, node(c + 1, c + 1)).value().value;
    const double knight = net.between(middle, node(c + 2, c + 1)).value().value;
    constexpr double rim = 5e-4;
    QVERIFY2(std::fabs(neighbour - 0.5) < rim, qPrintable(QString::number(neighbour, 'g', 8)));
    QVERIFY2(std::fabs(diagonal - 2 / std::numbers::pi) < rim, qPrintable(QString::number(diagonal, 'g', 8)));
    QVERIFY2(std::fabs(knight - (4 / std::numbers::pi - 0.5)) < rim,
             qPrintable(QString::number(knight, 'g', 8)));
}

// The same lattice seen from afar is a sheet of 1 Ohm a square: potential differences follow (I R / 2 pi) ln
// r. Pass rule: lattice corrections fall as 1 / 12 r^2 (0.3 % at r = 5), the insulated rim adds the order of
// r d / (side / 2)^2 with r up to 12 and d the 12 between the feeds: 2.2 %.
void TestLattice::infiniteSheet() {
    const ResistorNetwork net = lattice();
    const int c = side / 2;
    std::vector<double> amps(side * side, 0.0);
    amps[node(c - 6, c)] = 1;
    amps[node(c + 6, c)] = -1;
    const auto volts = net.solve(amps, node(0, 0)).value();
    const auto sheet = [&](int x, int y) {
        return sheetPotential_v(Amps(1), Ohms(1), std::hypot(x + 6, y)) -
               sheetPotential_v(Amps(1), Ohms(1), std::hypot(x - 6, y));
    };
    const auto grid = [&](int x, int y) { return volts[node(c + x, c + y)]; };
    for (const auto& [ax, ay, bx, by] :
         {std::array{-6, 6, 6, 6}, {-4, 8, 4, 8}, {-12, 0, 12, 0}, {-6, -5, 6, 5}}) {
        const double expected = sheet(ax, ay) - sheet(bx, by), solved = grid(ax, ay) - grid(bx, by);
        QVERIFY2(std::fabs(solved - expected) < 0.025 * std::fabs(expected),
                 qPrintable(QString("%1 against %2").arg(solved).arg(expected)));
    }
}

// Foster: over all edges of a connected network, the sum of R_eff / R is n - 1.
void TestLattice::fosterSum() {
    Random random(11);
    constexpr int n = 30;
    struct Edge {
        int a, b;
        double ohms;
    };
    std::vector<Edge> edges;
    for (int i = 1; i < n; ++i)
        edges.push_back({i, random.below(i), random.uniform(0.01, 100)});
    for (int i = 0; i < 50; ++i)
        if (const int a = random.below(n), b = random.below(n); a != b)
            edges.push_back({a, b, random.uniform(0.01, 100)});
    ResistorNetwork net(n);
    for (const Edge& e : edges)
        net.connect(e.a, e.b, Ohms(e.ohms));
    double sum = 0;
    for (const Edge& e : edges)
        sum += net.between(e.a, e.b).value().value / e.ohms;
    QVERIFY2(std::fabs(sum - (n - 1)) < 1e-8, qPrintable(QString::number(sum, 'g', 12)));
}
