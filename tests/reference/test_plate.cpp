#include "reference/test_reference.h"
#include "standin/board_heat.h"
#include "standin/world.h"
#include "support/boards.h"
#include "thermal/plate.h"

#include <QTest>
#include <cmath>
#include <numbers>

using namespace ustor;

// Abramowitz and Stegun, Handbook of Mathematical Functions: E1(1) = 0.2193839344 (table 5.1), E1(0.1)
// = 1.8229239584; K0(1) = 0.4210244382, K0(0.1) = 2.4270690247 (table 9.8).
void TestPlate::exponentialIntegralAndBessel() {
    Plate plate;
    plate.conductivity_w_mk = 1 / (4 * std::numbers::pi);
    plate.heatCapacity_j_m3k = plate.conductivity_w_mk; // diffusivity 1
    plate.thickness_m = 1;
    // With q / (4 pi k d) = 1 and r^2 / 4 t = u, the rise is E1(u) itself.
    QVERIFY(std::fabs(lineSourceRise_k(plate, 1, 2, 1) - 0.2193839344) < 1e-9);
    QVERIFY(std::fabs(lineSourceRise_k(plate, 1, 2 * std::sqrt(0.1), 1) - 1.8229239584) < 1e-9);
    QCOMPARE(lineSourceRise_k(plate, 1, 1, 0), 0.0);
    plate.conductivity_w_mk = 1 / (2 * std::numbers::pi);
    plate.lossPerFace_w_m2k = plate.conductivity_w_mk / 2; // Lambda = 1
    QVERIFY(std::fabs(plate.lossLength_m() - 1) < 1e-12);
    QVERIFY(std::fabs(steadyRise_k(plate, 1, 1) - 0.4210244382) < 1e-9);
    QVERIFY(std::fabs(steadyRise_k(plate, 1, 0.1) - 2.4270690247) < 1e-9);
}

// Both closed forms fall off alike near the source: the difference between two radii is q / (2 pi k d) ln(r2
// / r1).
void TestPlate::steadyStateIsTheLimitOfLoss() {
    Plate plate;
    plate.lossPerFace_w_m2k = 8;
    const double expected =
        1 / (2 * std::numbers::pi * plate.conductivity_w_mk * plate.thickness_m) * std::log(2.0);
    const double steady = steadyRise_k(plate, 1, 1e-4) - steadyRise_k(plate, 1, 2e-4);
    const double late = lineSourceRise_k(plate, 1, 1e-4, 1000) - lineSourceRise_k(plate, 1, 2e-4, 1000);
    QVERIFY(std::fabs(steady - expected) < 1e-3 * expected);
    QVERIFY(std::fabs(late - expected) < 1e-3 * expected);
}

// Diffusion length 2 sqrt(alpha t): 6 to 10 mm after one second on a dense board (k = 20 to 60 W/mK, rho c =
// 2e6).
void TestPlate::diffusionLength() {
    Plate plate;
    for (const double k : {20.0, 50.0}) {
        plate.conductivity_w_mk = k;
        const double length_mm = 2e3 * std::sqrt(plate.diffusivity_m2_s() * 1.0);
        QVERIFY(length_mm > 6 && length_mm <= 10.1);
    }
}

// Energy: the heat stored and the heat lost equal the electric energy that was put in. Pass rule: single
// precision over some ten thousand steps, 1 in 1000.
void TestPlate::simulatedBoardKeepsItsEnergy() {
    const Board board = testing::demoBoard("chart-plotter");
    standin::Setup setup;
    setup.fault = *standin::faultAt(board, "C76", 0.2);
    standin::World world(board, setup);
    QVERIFY(world.attachLeads("L1.2", "J1.2"));
    world.supply.volts = 1;
    world.supply.amps = 1;
    world.setOutput(true);
    for (int i = 0; i < 200; ++i)
        world.advance(0.1);
    const double in = world.deliveredToBoardJoules(), accounted = world.storedJoules() + world.lostJoules();
    QVERIFY(in > 1);
    QVERIFY2(std::fabs(accounted - in) < 1e-3 * in,
             qPrintable(QString("%1 J in, %2 J found").arg(in).arg(accounted)));
    // And what the terminals deliver is what board and leads turn into heat.
    const double terminal = world.terminalVolts() * world.terminalAmps() * 20, leads = setup.leadOhms * 20;
    QVERIFY2(std::fabs(terminal - leads - in) < 0.01 * terminal,
             qPrintable(QString("%1 J at the terminals").arg(terminal)));
}
