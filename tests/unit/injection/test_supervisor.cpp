#include "injection/supervisor.h"
#include "unit/injection/test_injection.h"

#include <QTest>

using namespace ustor;

namespace {

InjectionPlan twoSteps() {
    InjectionPlan plan;
    plan.limits.volts = Volts(1.3);
    plan.limits.amps = Amps(2);
    for (const double amps : {0.1, 0.2}) {
        InjectionStep step;
        step.volts = Volts(1);
        step.overVoltage = Volts(1.1);
        step.amps = Amps(amps);
        step.pulses = 2;
        plan.steps.push_back(step);
    }
    return plan;
}

/// A supply that obeys: what was commanded, as telemetry.
struct Obeying {
    bool output = false;
    double amps = 0;
    int switchedOn = 0;
    std::vector<Amps> limits;
    bool limitsBeforeOn = true;
    void take(const std::vector<SupplyCommand>& commands) {
        for (const auto& c : commands) {
            if (const auto* set = std::get_if<SetLimits>(&c)) {
                if (output) limitsBeforeOn = false;
                limits.push_back(set->amps);
                amps = set->amps.value;
            } else if (std::holds_alternative<SwitchOn>(c)) {
                if (limits.empty()) limitsBeforeOn = false;
                output = true;
                ++switchedOn;
            } else {
                output = false;
            }
        }
    }
};

/// Runs with obedient telemetry and frames until a time; `disturb` may step in at each tick.
template <class F> void runUntil(Supervisor& supervisor, Obeying& supply, double until_s, F disturb) {
    supply.take(supervisor.start(0));
    for (double t = 0.04; t <= until_s && supervisor.running(); t += 0.04) {
        if (disturb(t)) continue;
        supply.take(supervisor.telemetry(t, supply.output, Volts(supply.output ? 0.3 : 0),
                                         Amps(supply.output ? supply.amps : 0)));
        supply.take(supervisor.frame(t, 0.5, 26));
    }
}

} // namespace

void TestSupervisor::limitsComeBeforeTheOutput() {
    Supervisor supervisor(twoSteps(), {});
    Obeying supply;
    runUntil(supervisor, supply, 30, [](double) { return false; });
    QVERIFY(supply.limitsBeforeOn);
    QCOMPARE(supply.limits.size(), std::size_t(2));
}

void TestSupervisor::pulsesThenFinishes() {
    Supervisor supervisor(twoSteps(), {});
    Obeying supply;
    runUntil(supervisor, supply, 30, [](double) { return false; });
    QVERIFY(!supervisor.running());
    QCOMPARE(supervisor.cause(), StopCause::Finished);
    QCOMPARE(supply.switchedOn, 4);
    QVERIFY(!supply.output);
}

void TestSupervisor::eachCauseEndsWithTheOutputOff_data() {
    QTest::addColumn<int>("cause");
    for (const auto cause :
         {StopCause::Person, StopCause::LinkLost, StopCause::Silence, StopCause::CameraLost,
          StopCause::TooWarm, StopCause::CurrentJumped, StopCause::OverLimit, StopCause::Certain,
          StopCause::OutputRefused, StopCause::TooHot, StopCause::LimitsChanged, StopCause::SettingRefused})
        QTest::newRow(std::string(wordOf(cause)).c_str()) << static_cast<int>(cause);
}

void TestSupervisor::eachCauseEndsWithTheOutputOff() {
    QFETCH(int, cause);
    const auto wanted = static_cast<StopCause>(cause);
    Supervisor supervisor(twoSteps(), {});
    Obeying supply;
    double ended_s = 0;
    runUntil(supervisor, supply, 30, [&](double t) {
        if (t < 1.7 || !supervisor.running()) return false; // in the middle of the first pulse
        ended_s = t;
        switch (wanted) {
        case StopCause::Silence:
            supply.take(supervisor.tick(t));
            return true;
        case StopCause::CameraLost:
            supply.take(
                supervisor.telemetry(t, supply.output, Volts(0.3), Amps(supply.output ? supply.amps : 0)));
            return true;
        case StopCause::TooWarm:
            supply.take(supervisor.frame(t, 41, 66));
            return true;
        case StopCause::TooHot: // a board that was warm from the start
            supply.take(supervisor.frame(t, 10, 81));
            return true;
        case StopCause::CurrentJumped:
            supply.take(supervisor.telemetry(t, supply.output, Volts(1), Amps(0.01)));
            return true;
        case StopCause::OutputRefused: // the supply's own protection switched it off
            supply.take(supervisor.frame(t, 0.5, 26));
            supply.take(supervisor.telemetry(t, false, Volts(0), Amps(0)));
            return true;
        case StopCause::OverLimit:
            supply.take(supervisor.telemetry(t, supply.output, Volts(1.4), Amps(0.1)));
            return true;
        default:
            supply.take(supervisor.stop(wanted));
            return true;
        }
    });
    QVERIFY(!supervisor.running());
    QCOMPARE(supervisor.cause(), wanted);
    QVERIFY(!supply.output);
    QVERIFY(!sentenceOf(wanted).empty());
    // Silence is met within its second, the camera's within its two.
    QVERIFY(ended_s < 1.7 + (wanted == StopCause::CameraLost ? 2.2 : 1.2));
}

void TestSupervisor::lateTelemetryIsNoSilence() {
    Supervisor supervisor(twoSteps(), {});
    supervisor.start(100);
    // Lines that waited in a pipe come with old stamps; fresh ones follow.
    supervisor.telemetry(95, false, Volts(0), Amps(0));
    supervisor.tick(100.5);
    QVERIFY(supervisor.running());
}

void TestSupervisor::cameraThatNeverSendsIsLost() {
    Supervisor supervisor(twoSteps(), {});
    supervisor.start(0);
    for (double t = 0.04; t < 2.2 && supervisor.running(); t += 0.04)
        supervisor.telemetry(t, t > 1.5, Volts(0), Amps(0));
    QCOMPARE(supervisor.cause(), StopCause::CameraLost);
}

// Pictures that come tell that the camera is there, however late this machine looks at them; but where none
// is looked at for long, nobody sees what becomes too warm.
void TestSupervisor::picturesThatNobodyLooksAt() {
    Supervisor::Rules rules;
    rules.unseen_s = 4;
    Supervisor supervisor(twoSteps(), rules);
    Obeying supply;
    supply.take(supervisor.start(0));
    double t = 0.04;
    for (; t < 30 && supervisor.running(); t += 0.04) {
        supply.take(supervisor.telemetry(t, supply.output, Volts(supply.output ? 0.3 : 0),
                                         Amps(supply.output ? supply.amps : 0)));
        supervisor.pictureCame(t);
    }
    QCOMPARE(supervisor.cause(), StopCause::PicturesUnseen);
    QVERIFY(t > rules.unseen_s && t < rules.unseen_s + 0.2);
    QVERIFY(!supply.output);
}

void TestSupervisor::outputThatNobodyWants() {
    Supervisor supervisor(twoSteps(), {});
    const auto commands = supervisor.telemetry(1, true, Volts(1), Amps(1));
    QCOMPARE(commands.size(), std::size_t(1));
    QVERIFY(std::holds_alternative<SwitchOff>(commands.front()));
}

void TestSupervisor::progressRises() {
    Supervisor supervisor(twoSteps(), {});
    Obeying supply;
    double last = 0;
    runUntil(supervisor, supply, 30, [&](double) {
        if (supervisor.progress() < last) last = 2; // would fail below
        last = std::max(last, supervisor.progress());
        return false;
    });
    QVERIFY(last > 0.9 && last <= 1);
}
