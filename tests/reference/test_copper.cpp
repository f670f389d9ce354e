#include "rail/copper.h"
#include "reference/test_reference.h"

#include <QTest>
#include <cmath>

using namespace ustor;

namespace {
bool near(double value, double expected, double relative) {
    return std::fabs(value - expected) <= relative * std::fabs(expected);
}
} // namespace

// IEC 60028: annealed copper at 20 C has 1/58 uOhm m = 1.7241e-8 Ohm m; alpha = 0.00393 1/K.
void TestCopper::resistivityOfAnnealedCopper() {
    QVERIFY(near(copperResistivity_ohm_m(), 1.7241e-8, 1e-4));
    QVERIFY(near(copperResistivity_ohm_m(Celsius(70)), 1.7241e-8 * (1 + 0.00393 * 50), 1e-4));
}

// From the same resistivity: 35 um is 0.4926 mOhm a square, 17.5 um 0.985.
void TestCopper::sheets() {
    QVERIFY(near(sheetResistance(35e-6).value, 0.4926e-3, 2e-4));
    QVERIFY(near(sheetResistance(17.5e-6).value, 0.985e-3, 3e-4));
}

// ASTM B258: AWG 18 is 1.024 mm, 20.95 mOhm/m; AWG 36 is 0.127 mm by definition; 0000 is 11.684 mm.
void TestCopper::leads() {
    QVERIFY(near(awgDiameter(18).value, 1.024, 5e-4));
    QVERIFY(near(awgDiameter(36).value, 0.127, 1e-12));
    QVERIFY(near(awgDiameter(-3).value, 11.684, 1e-4));
    QVERIFY(near(wireResistance(18, 1.0).value, 20.95e-3, 1e-3));
}

// R = rho h / (pi (d t + t^2)): 1.6 mm through a 0.3 mm hole with 25 um is some 1.08 mOhm.
void TestCopper::vias() {
    const double area_m2 =
        3.14159265358979 / 4 * (std::pow(0.35e-3, 2) - std::pow(0.3e-3, 2)); // the ring itself
    QVERIFY(near(viaResistance(1.6e-3, 0.3e-3, 25e-6).value, 1.7241e-8 * 1.6e-3 / area_m2, 1e-4));
}

// IPC-2221A, 6.2 (from memory): doubling the cross-section raises the current by 2^0.725; inner layers carry
// half.
void TestCopper::traceHeating() {
    const double narrow = currentForRise(1e-3, 35e-6, 20, true).value,
                 wide = currentForRise(2e-3, 35e-6, 20, true).value;
    QVERIFY(near(wide / narrow, std::pow(2, 0.725), 1e-9));
    QVERIFY(near(currentForRise(1e-3, 35e-6, 20, false).value, narrow / 2, 1e-9));
    // 1 mm of 35 um for 20 K: A = 54.25 mil^2, I = 0.048 20^0.44 54.25^0.725 = 3.25 A.
    QVERIFY(near(narrow, 3.25, 0.01));
}
