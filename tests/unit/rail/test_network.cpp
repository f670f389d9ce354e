#include "base/random.h"
#include "rail/network.h"
#include "unit/rail/test_rail.h"

#include <QTest>
#include <cmath>

using namespace ustor;

void TestNetwork::seriesAndParallel() {
    ResistorNetwork net(3);
    net.connect(0, 1, Ohms(3));
    net.connect(1, 2, Ohms(6));
    net.connect(0, 2, Ohms(18));
    QVERIFY(std::fabs(net.between(0, 2).value().value - 6.0) < 1e-9); // 9 beside 18
    QCOMPARE(net.between(1, 1).value().value, 0.0);
}

void TestNetwork::islandsAreToldApart() {
    ResistorNetwork net(4);
    net.connect(0, 1, Ohms(1));
    net.connect(2, 3, Ohms(1));
    QVERIFY(!net.between(0, 2).ok());
    QVERIFY(net.between(2, 3).ok());
    const auto volts = net.solve({1, 0, 0, 0}, 1);
    QVERIFY(volts.ok());
    QCOMPARE(volts.value()[2], 0.0);
}

// Reciprocity of linear networks: what a drives at b, b drives at a.
void TestNetwork::reciprocity() {
    Random random(5);
    ResistorNetwork net(40);
    for (int i = 1; i < 40; ++i)
        net.connect(i, random.below(i), Ohms(random.uniform(0.1, 10)));
    for (int i = 0; i < 60; ++i)
        net.connect(random.below(40), random.below(40), Ohms(random.uniform(0.1, 10)));
    std::vector<double> a(40, 0.0), b(40, 0.0);
    a[7] = b[21] = 1;
    QVERIFY(std::fabs(net.solve(a, 0).value()[21] - net.solve(b, 0).value()[7]) < 1e-10);
}

// Rayleigh's monotonicity: another resistor never raises an effective resistance.
void TestNetwork::moreCopperNeverRaisesResistance() {
    Random random(9);
    ResistorNetwork net(20);
    for (int i = 1; i < 20; ++i)
        net.connect(i, random.below(i), Ohms(random.uniform(0.1, 10)));
    double before = net.between(0, 19).value().value;
    for (int i = 0; i < 30; ++i) {
        net.connect(random.below(20), random.below(20), Ohms(random.uniform(0.1, 10)));
        const double after = net.between(0, 19).value().value;
        QVERIFY(after <= before * (1 + 1e-12));
        before = after;
    }
}

// A sheet too large to be factored, against the strip's closed form
// R = R_square L / w.
void TestNetwork::largeSheetsAreSolvedAsWell() {
    constexpr int columns = 800, rows = 240;
    const auto sheet = [] {
        ResistorNetwork net(columns * rows + 2);
        for (int y = 0; y < rows; ++y)
            for (int x = 0; x < columns; ++x) {
                const int here = y * columns + x;
                if (x + 1 < columns) net.connect(here, here + 1, Ohms(0.5e-3));
                if (y + 1 < rows) net.connect(here, here + columns, Ohms(0.5e-3));
            }
        for (int y = 0; y < rows; ++y) {
            net.connect(columns * rows, y * columns, Ohms(1e-7));
            net.connect(columns * rows + 1, y * columns + columns - 1, Ohms(1e-7));
        }
        return net.between(columns * rows, columns * rows + 1).value().value;
    };
    const double strip = 0.5e-3 * (columns - 1) / rows;
    QVERIFY(std::fabs(sheet() / strip - 1) < 1e-4);
}
