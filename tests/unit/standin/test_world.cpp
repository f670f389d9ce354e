#include "standin/circuit.h"
#include "standin/world.h"
#include "support/boards.h"
#include "unit/standin/test_standin.h"

#include <QTest>
#include <cmath>

using namespace ustor;
using standin::World;

namespace {

World worldWith(const char* part, double ohms, std::uint64_t seed = 1) {
    const Board board = testing::demoBoard("chart-plotter");
    standin::Setup setup;
    setup.seed = seed;
    setup.fault = *standin::faultAt(board, part, ohms);
    return World(board, setup);
}

double ohmsAt(World& world, const char* red) {
    if (!world.touchProbes(red, "GND")) return -1;
    const auto reading = world.measure(MeterMode::Ohms);
    return reading->state == ReadingState::OverRange ? 1e9 : reading->value;
}

} // namespace

void TestWorld::currentAndVoltageLimitsBehave() {
    World world = worldWith("C76", 0.2);
    QVERIFY(world.attachLeads("L1.2", "J1.2"));
    world.supply.volts = 1;
    world.supply.amps = 0.5;
    world.setOutput(true);
    QVERIFY(world.currentLimited());
    QCOMPARE(world.terminalAmps(), 0.5);
    const double loop = world.terminalVolts() / world.terminalAmps();
    QVERIFY2(loop > 0.26 && loop < 0.45,
             qPrintable(QString::number(loop))); // fault, leads of 60 mOhm, ferrite, copper
    world.supply.amps = 5;
    world.supply.volts = 0.1;
    world.settle();
    QVERIFY(!world.currentLimited());
    QVERIFY(std::fabs(world.terminalAmps() - 0.1 / loop) < 1e-6);
    world.detachLeads();
    QVERIFY(world.terminalAmps() < 1e-6);
    QCOMPARE(world.terminalVolts(), 0.1);
    QVERIFY(!world.attachLeads("NOWHERE", "GND"));
}

void TestWorld::overVoltageTrips() {
    World world = worldWith("C76", 0.2);
    world.supply.volts = 2;
    world.supply.overVolts = 1.5;
    world.setOutput(true);
    QVERIFY(world.supply.tripped);
    QVERIFY(!world.supply.output);
    world.setOutput(true);
    QVERIFY(!world.supply.output); // until it is cleared
}

void TestWorld::meterReadsWhatTheProbesTouch() {
    World world = worldWith("C76", 0.2);
    QVERIFY(!world.measure(MeterMode::Ohms)); // probes in the air
    QVERIFY(std::fabs(ohmsAt(world, "C76.1") - 0.25) < 0.05);
    QVERIFY(ohmsAt(world, "+3V3") > 200);
    QVERIFY(ohmsAt(world, "+1V1_CORE") < 6); // core rails lie (common practice)
    QVERIFY(world.touchProbes("C76.1", "GND"));
    QVERIFY(world.measure(MeterMode::Diode)->value < 0.005);
    QVERIFY(world.touchProbes("+3V3", "GND"));
    const double diode = world.measure(MeterMode::Diode)->value;
    QVERIFY(diode > 0.25 && diode < 0.65); // healthy: 0.3 to 0.6 V (common practice)
    QVERIFY(!world.touchProbes("C999.1", "GND"));
}

void TestWorld::liftingTakesTheShortAway() {
    World world = worldWith("C76", 0.2);
    QVERIFY(world.lift("C77"));
    QVERIFY(ohmsAt(world, "L1.2") < 1);
    QVERIFY(world.lift("C76"));
    QVERIFY(ohmsAt(world, "L1.2") > 200);
    QVERIFY(world.refit("C76", false));
    QVERIFY(ohmsAt(world, "L1.2") < 1); // the old part is still bad
    QVERIFY(world.refit("C76", true));
    QVERIFY(ohmsAt(world, "L1.2") > 200);
    QVERIFY(!world.lift("C999"));
}

// Lift one link and measure both pads: the short stays with one side (common practice).
void TestWorld::liftingALinkSplitsTheRail() {
    World world = worldWith("C76", 0.2);
    QVERIFY(world.lift("FB2"));
    QVERIFY(ohmsAt(world, "FB2.1") > 200);
    QVERIFY(ohmsAt(world, "FB2.2") < 1);
}

void TestWorld::theFaultWarmsAndThePathToo() {
    World world = worldWith("C76", 0.2);
    QVERIFY(world.attachLeads("L1.2", "J1.2"));
    world.supply.volts = 1;
    world.supply.amps = 2;
    world.setOutput(true);
    const cv::Mat before = world.picture();
    world.advance(3);
    const Board board = testing::demoBoard("chart-plotter");
    const auto warmth = [&](const cv::Mat& picture, const char* part) {
        const PixelPoint p = world.pixelOf(board.parts[board.findPart(part)].centre);
        return cv::mean(
            picture(cv::Rect(static_cast<int>(p.x_px) - 1, static_cast<int>(p.y_px) - 1, 3, 3)))[0];
    };
    // Against parts far away, so that a shutter correction in between does not matter.
    const cv::Mat after = world.picture();
    const auto rise = [&](const char* part) {
        return (warmth(after, part) - warmth(after, "U5") - warmth(before, part) + warmth(before, "U5")) /
               100;
    };
    QVERIFY2(rise("C76") > 2, qPrintable(QString::number(rise("C76"))));
    QVERIFY2(rise("FB2") > 0.3, qPrintable(QString::number(rise("FB2")))); // in the path: warm, and fine
    QVERIFY(std::fabs(rise("U7")) < 0.3);
}

// Tellegen: what the leads put in for one ampere, the loop's resistance, turns into heat somewhere. Copper
// has its share all along its length, in no single point.
void TestWorld::allPowerBecomesHeatWhereItArises() {
    const Board board = testing::demoBoard("greenhouse-controller");
    const standin::Circuit circuit(board, *standin::faultAt(board, "C48", 0.025), 3);
    const auto response = circuit.drive(*board.findPad("L2.2"), *board.findPad("J1.2"));
    QVERIFY(response.connected);
    double sum = 0, copper = 0, mostInAPiece = 0, fault = 0;
    for (const auto& h : circuit.heatOf(response)) {
        sum += h.wattsPerAmp2;
        if (h.part == board.findPart("C48")) fault += h.wattsPerAmp2;
        if (h.part >= 0) continue;
        copper += h.wattsPerAmp2;
        mostInAPiece = std::max(mostInAPiece, h.wattsPerAmp2);
    }
    QVERIFY(std::fabs(sum - response.ohms) < 1e-4 * response.ohms);
    QVERIFY(std::fabs(fault - 0.025) < 1e-4);
    QVERIFY(copper > 0.003); // some tens of millimetres of rail
    QVERIFY2(mostInAPiece < 0.1 * copper, qPrintable(QString("%1 of %2").arg(mostInAPiece).arg(copper)));
}

void TestWorld::farSideIsLateAndWide() {
    // The same power in one cell of the bottom face: the top above it follows late.
    const Board board = testing::demoBoard("chart-plotter");
    standin::BoardHeat heat(board.box(), 1.6, 4, 1);
    const int cell = heat.cellAt({48, 34});
    double top_half = -1;
    const auto steps = static_cast<int>(5 / heat.step_s());
    std::vector<double> top, bottom;
    for (int i = 0; i < steps; ++i) {
        heat.addHeat(standin::BoardHeat::Bottom, cell, 0.1 * heat.step_s());
        heat.step();
        top.push_back(
            static_cast<double>(heat.rise_k(standin::BoardHeat::Top)[static_cast<std::size_t>(cell)]));
        bottom.push_back(
            static_cast<double>(heat.rise_k(standin::BoardHeat::Bottom)[static_cast<std::size_t>(cell)]));
    }
    const auto halfTime = [&](const std::vector<double>& course) {
        for (std::size_t i = 0; i < course.size(); ++i)
            if (course[i] > course.back() / 2) return static_cast<double>(i) * heat.step_s();
        return 0.0;
    };
    top_half = halfTime(top);
    QVERIFY2(top_half > 3 * halfTime(bottom),
             qPrintable(QString("%1 s, %2 s").arg(top_half).arg(halfTime(bottom))));
    QVERIFY(top_half > 0.3); // d^2 / (pi^2 alpha_z) is some 0.3 to 1 s and more
    QVERIFY(top.back() < 0.5 * bottom.back());
}

void TestWorld::sameSeedSamePicture() {
    World a = worldWith("C76", 0.2, 5), b = worldWith("C76", 0.2, 5), c = worldWith("C76", 0.2, 6);
    QCOMPARE(cv::norm(a.picture(), b.picture(), cv::NORM_L1), 0.0);
    QVERIFY(cv::norm(a.picture(), c.picture(), cv::NORM_L1) > 0);
    const Board board = testing::demoBoard("greenhouse-controller");
    QCOMPARE(standin::drawFault(board, 7)->part, standin::drawFault(board, 7)->part);
    std::set<std::string> drawn;
    for (std::uint64_t seed = 0; seed < 40; ++seed)
        drawn.insert(standin::drawFault(board, seed)->part);
    QVERIFY(drawn.size() > 15);
    QVERIFY(!standin::faultAt(board, "R1", 0.1)); // a resistor shorts no rail to ground
}
