#include "base/random.h"
#include "injection/plan.h"
#include "support/boards.h"
#include "unit/injection/test_injection.h"

#include <QTest>
#include <cmath>

using namespace ustor;

namespace {

InjectionLimits limitsOn(const Board& board, const char* net, const Leads& leads = {}) {
    return injectionLimits(board, stretchOf(board, board.findNet(net)), leads, {});
}

} // namespace

// Never above the rail's own working voltage (common practice).
void TestLimits::neverAboveTheRail() {
    const Board board = testing::smallBoard();
    QVERIFY(limitsOn(board, "+3V3").volts <= Volts(3.3));
    QVERIFY(limitsOn(board, "+1V0_CORE").volts <= Volts(1.0));
}

// If the rail is not known, stay at or under about 1.3 V (common practice).
void TestLimits::unknownRailsAreCareful() {
    Board board = testing::smallBoard();
    for (Net& net : board.nets)
        net.nominal.reset();
    for (const char* net : {"VIN_12V", "+3V3", "+1V0_CORE"})
        QVERIFY(limitsOn(board, net).volts <= carefulVolts);
}

// A shorted high-side switch passes what is injected straight to a 1 V core (common practice).
void TestLimits::processorsBehindASwitchAreSpared() {
    const Board board = testing::smallBoard();
    const auto limits = limitsOn(board, "VSYS_12V");
    QCOMPARE(limits.volts.value, 1.0);
    QVERIFY(limits.voltBounds.front().reason.text().find("U1") != std::string::npos);
    QVERIFY(limits.voltBounds.front().reason.text().find("Q1") != std::string::npos ||
            limits.voltBounds.front().reason.text().find("U3") != std::string::npos);
}

void TestLimits::longThinLeadsLimitTheCurrent() {
    const Board board = testing::smallBoard();
    const Leads thin{28, 2.0, Ohms(0.02)};
    const auto limits = limitsOn(board, "+3V3", thin);
    // 4 m of AWG 28 (213 mOhm/m) are some 0.85 Ohm: 3 W are reached below 2 A.
    QVERIFY(limits.amps < Amps(2));
    QVERIFY(limits.ampBounds.front().reason.text().find("leads") != std::string::npos);
}

void TestLimits::everyLimitHasAReason() {
    const Board board = testing::demoBoard("chart-plotter");
    for (const NetIndex net : powerNets(board)) {
        const auto limits = injectionLimits(board, stretchOf(board, net), {}, {});
        QVERIFY(!limits.voltBounds.empty() && !limits.ampBounds.empty());
        for (const auto& list : {limits.voltBounds, limits.ampBounds})
            for (const Bound& bound : list)
                QVERIFY(bound.value > 0 && bound.reason.text().size() > 10);
        QCOMPARE(limits.volts.value, limits.voltBounds.front().value);
    }
}

// 0.1 A and up, at or under 1 V (common practice); each rung at most twice the one before.
void TestLimits::laddersStartLow() {
    const Board board = testing::smallBoard();
    PlanRequest request;
    const auto plan = planInjection(board, stretchOf(board, board.findNet("+3V3")), request);
    QVERIFY(plan.steps.size() >= 3);
    QCOMPARE(plan.steps.front().amps.value, 0.1);
    for (std::size_t i = 0; i < plan.steps.size(); ++i) {
        QVERIFY(plan.steps[i].volts <= Volts(1.0));
        if (i) QVERIFY(plan.steps[i].amps.value <= 2.001 * plan.steps[i - 1].amps.value);
    }
    // With the fault's resistance known, rungs that could show nothing are left out: 1 mOhm needs more than
    // 0.1 A.
    request.faultResistance = Ohms(0.001);
    const auto known = planInjection(board, stretchOf(board, board.findNet("+3V3")), request);
    QVERIFY(known.steps.front().amps > Amps(0.3));
    request.faultResistance = Ohms(0.2);
    QCOMPARE(planInjection(board, stretchOf(board, board.findNet("+3V3")), request).steps.front().amps.value,
             0.1);
}

void TestLimits::fullAtOnceIsOneStep() {
    const Board board = testing::smallBoard();
    PlanRequest request;
    request.school = School::FullAtOnce;
    const auto plan = planInjection(board, stretchOf(board, board.findNet("+3V3")), request);
    QCOMPARE(plan.steps.size(), std::size_t(1));
    QCOMPARE(plan.steps.front().amps.value, plan.limits.amps.value);
}

// Raise the voltage only when nothing shows, and never above the rail's own (common practice).
void TestLimits::theClimbKeepsItsPower() {
    const Board board = testing::smallBoard();
    PlanRequest request;
    request.school = School::Climb;
    const auto plan = planInjection(board, stretchOf(board, board.findNet("+3V3")), request);
    QCOMPARE(plan.steps.front().volts.value, 1.0);
    QVERIFY(plan.steps.size() >= 3);
    for (std::size_t i = 0; i < plan.steps.size(); ++i) {
        const auto& step = plan.steps[i];
        QVERIFY(step.volts.value * step.amps.value <= climbWatts.value * 1.0001);
        if (i)
            QVERIFY(step.volts > plan.steps[i - 1].volts &&
                    step.volts.value <= 1.5001 * plan.steps[i - 1].volts.value);
    }
    QVERIFY(plan.steps.back().volts > Volts(3.0));
    for (const InjectionStep& step : plan.steps)
        QVERIFY(step.volts < step.overVoltage && step.overVoltage.value <= 1.1001 * step.volts.value &&
                step.overVoltage <= Volts(3.3));
    // A core is not climbed on.
    QCOMPARE(planInjection(board, stretchOf(board, board.findNet("+1V0_CORE")), request).steps.size(),
             std::size_t(1));
}

void TestLimits::smallLinksLimitTheCurrent() {
    Board board = testing::smallBoard();
    QVERIFY(limitsOn(board, "VSYS_12V").amps > Amps(3));
    testing::addChip(board, "FB1", PartClass::Ferrite, {24, 36}, "VSYS_12V", "VSYS_AUX", 1.0, 0.5);
    const auto limits = limitsOn(board, "VSYS_12V");
    QCOMPARE(limits.amps.value, 2.0);
    QVERIFY(limits.ampBounds.front().reason.text().find("FB1") != std::string::npos);
}

// Over random voltages in the data, no plan sets more than any bound allows, and the trip is never above the
// limit.
void TestLimits::noPlanExceedsItsLimits() {
    Random random(51);
    for (int i = 0; i < 2000; ++i) {
        Board board = testing::smallBoard();
        for (Net& net : board.nets) {
            if (random.uniform() < 0.3)
                net.nominal.reset();
            else if (!net.ground)
                net.nominal = Volts(random.uniform(0.6, 24));
        }
        PlanRequest request;
        if (random.uniform() < 0.7) request.faultResistance = Ohms(std::exp(random.uniform(-7, 5)));
        request.supply = {Volts(random.uniform(1, 60)), Amps(random.uniform(0.05, 30))};
        request.leads.gauge = 12 + random.below(20);
        request.school = static_cast<School>(random.below(3));
        const auto nets = powerNets(board);
        const Stretch stretch =
            stretchOf(board, nets[static_cast<std::size_t>(random.below(static_cast<int>(nets.size())))]);
        const auto plan = planInjection(board, stretch, request);
        QVERIFY(!plan.steps.empty());
        double tightest = 1e9;
        for (const auto& bound : plan.limits.voltBounds)
            tightest = std::min(tightest, bound.value);
        if (stretch.nominal)
            QVERIFY(plan.limits.volts <= *stretch.nominal);
        else
            QVERIFY(plan.limits.volts <= carefulVolts);
        for (const auto& step : plan.steps) {
            QVERIFY(step.overVoltage.value <= tightest + 1e-12);
            QVERIFY(step.volts < step.overVoltage);
            QVERIFY(step.amps <= plan.limits.amps);
        }
    }
}

// By hand: 0.1 A into 50 mOhm are 0.5 mW; AWG 18 has 20.9 mOhm/m (wire tables), so two metres and 10 mOhm of
// clips are 52 mOhm. One volt drives no more than U / R. 3 W in such leads make them hand-warm, some 20 K
// (common practice). Half the power takes four times as long.
void TestLimits::whatToExpectOfAStep() {
    const Board board = testing::smallBoard();
    const Stretch stretch = stretchOf(board, board.findNet("+3V3"));
    const Leads leads;
    const CameraAbility camera{60, 25};
    const auto small = outlookOf(board, stretch, leads, camera, Ohms(0.05), Volts(1), Amps(0.1));
    QVERIFY(std::fabs(small.inFault.value - 0.5e-3) < 1e-9);
    QVERIFY(std::fabs(small.inLeads.value - 0.52e-3) < 0.02e-3);
    QVERIFY(std::fabs(small.faultRise_k - 0.03) < 1e-6);
    const auto most = outlookOf(board, stretch, leads, camera, Ohms(9.948), Volts(1), Amps(5));
    QVERIFY(std::fabs(most.flows.value - 0.1) < 1e-3);
    const auto hot = outlookOf(board, stretch, leads, camera, Ohms(0.001), Volts(1), Amps(7.6));
    QVERIFY(std::fabs(hot.inLeads.value - 3) < 0.1);
    QVERIFY2(hot.leadRise_k > 12 && hot.leadRise_k < 28, qPrintable(QString::number(hot.leadRise_k)));
    const auto half = outlookOf(board, stretch, leads, camera, Ohms(0.025), Volts(1), Amps(0.1));
    QVERIFY(std::fabs(half.untilSeen.value / small.untilSeen.value - 4) < 1e-6);
    QVERIFY(std::fabs(wattsToSee(camera, small.untilSeen.value).value / small.inFault.value - 1) < 1e-6);
    QVERIFY(sentenceOf(small).text().find("this camera tells after") != std::string::npos);
    QVERIFY(sentenceOf(outlookOf(board, stretch, leads, camera, Ohms(0.05), Volts(1), Amps(0.005)))
                .text()
                .find("too little") != std::string::npos);
    QCOMPARE(small.links.size(), stretch.links.size());
}
