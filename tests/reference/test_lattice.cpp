#include "base/random.h"
#include "rail/copper.h"
#include "rail/network.h"
#include "reference/test_reference.h"

#include <QTest>
#include <cmath>
#include <numbers>

using namespace ustor;

namespace {

/// A square lattice of one ohm, with its middle as the origin.
class Lattice {
  public:
    explicit Lattice(int side) : m_side(side), m_net(side * side) {
        for (int y = 0; y < side; ++y)
            for (int x = 0; x < side; ++x) {
                if (x + 1 < side) m_net.connect(y * side + x, y * side + x + 1, Ohms(1));
                if (y + 1 < side) m_net.connect(y * side + x, (y + 1) * side + x, Ohms(1));
            }
    }
    int node(int x, int y) const { return (m_side / 2 + y) * m_side + m_side / 2 + x; }
    double ohms(int x, int y) const { return m_net.between(node(0, 0), node(x, y)).value().value; }
    /// Potentials for one ampere from one node to another.
    std::vector<double> volts(int from, int to) const {
        std::vector<double> amps(static_cast<std::size_t>(m_side * m_side), 0.0);
        amps[static_cast<std::size_t>(from)] = 1;
        amps[static_cast<std::size_t>(to)] = -1;
        return m_net.solve(amps, 0).value();
    }

  private:
    int m_side;
    ResistorNetwork m_net;
};

} // namespace

// Infinite square lattice of resistors R: neighbours R/2, diagonal 2R/pi, knight's move R(4/pi - 1/2)
// (Atkinson and van Steenwijk, Am. J. Phys. 67, 486, 1999; Cserti, Am. J. Phys. 68, 896, 2000).
// Pass rule: the middle of a finite lattice differs by the images at its rim, of the order (r / side)^2 =
// 2e-4.
void TestLattice::infiniteSquareLattice() {
    const Lattice lattice(161);
    const double neighbour = lattice.ohms(1, 0), diagonal = lattice.ohms(1, 1), knight = lattice.ohms(2, 1);
    constexpr double rim = 5e-4;
    QVERIFY2(std::fabs(neighbour - 0.5) < rim, qPrintable(QString::number(neighbour, 'g', 8)));
    QVERIFY2(std::fabs(diagonal - 2 / std::numbers::pi) < rim, qPrintable(QString::number(diagonal, 'g', 8)));
    QVERIFY2(std::fabs(knight - (4 / std::numbers::pi - 0.5)) < rim,
             qPrintable(QString::number(knight, 'g', 8)));
}

// The same lattice seen from afar is a sheet of 1 ohm a square: potential differences follow (I R / 2 pi) ln
// r. The insulated rim's images add a term in 1 / side^2: two sizes together take it out (Richardson). What
// is left is the lattice itself, 1 / 12 r^2 of a logarithm's slope, below 0.4 % for r of five and more, and
// the next term of the rim, the fourth power of 12 / 81: 0.05 %.
void TestLattice::infiniteSheet() {
    const Lattice small(81), large(161);
    const auto potentials = [](const Lattice& lattice) {
        return lattice.volts(lattice.node(-6, 0), lattice.node(6, 0));
    };
    const auto smallVolts = potentials(small), largeVolts = potentials(large);
    const auto sheet = [&](int x, int y) {
        return sheetPotential_v(Amps(1), Ohms(1), std::hypot(x + 6, y)) -
               sheetPotential_v(Amps(1), Ohms(1), std::hypot(x - 6, y));
    };
    for (const auto& [ax, ay, bx, by] :
         {std::array{-6, 6, 6, 6}, {-4, 8, 4, 8}, {-12, 0, 12, 0}, {-6, -5, 6, 5}}) {
        const auto between = [&, ax = ax, ay = ay, bx = bx, by = by](const Lattice& lattice,
                                                                     const std::vector<double>& volts) {
            return volts[static_cast<std::size_t>(lattice.node(ax, ay))] -
                   volts[static_cast<std::size_t>(lattice.node(bx, by))];
        };
        const double expected = sheet(ax, ay) - sheet(bx, by);
        const double coarse = between(small, smallVolts), fine = between(large, largeVolts);
        const double limit = fine + (fine - coarse) / 3;
        QVERIFY2(std::fabs(limit - expected) < 0.0045 * std::fabs(expected),
                 qPrintable(QString("%1 against %2").arg(limit).arg(expected)));
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
