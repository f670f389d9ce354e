#include "injection/newest_pulse.h"
#include "unit/injection/test_injection.h"

#include <QTest>
#include <cmath>
#include <vector>

using namespace ustor;

namespace {

/// A supply read 25 times a second: on for `on_s`, off for a second; its amps creep up to what they become.
std::vector<SupplySample> pulse(double from_s, double on_s, double volts, double amps) {
    std::vector<SupplySample> samples;
    constexpr double every_s = 0.04, rises_s = 0.04, pause_s = 1;
    for (double t = 0; t < on_s + pause_s; t += every_s) {
        const bool on = t < on_s;
        samples.push_back(
            {from_s + t, on, 1, 1, on ? volts : 0, on ? amps * (1 - std::exp(-t / rises_s)) : 0});
    }
    return samples;
}

void addAll(NewestPulse& shown, const std::vector<SupplySample>& samples) {
    for (const SupplySample& sample : samples)
        shown.add(sample);
}

} // namespace

// What a person reads off the display: once it stands, of the newest pulse.
void TestNewestPulse::whatStandsIsRead() {
    NewestPulse shown;
    QVERIFY(!shown.shown());
    addAll(shown, pulse(0, 2, 0.5, 0.8));
    QVERIFY(shown.shown());
    QVERIFY(std::fabs(shown.shown()->volts - 0.5) < 1e-9);
    QVERIFY(std::fabs(shown.shown()->amps - 0.8) < 0.001); // the rise is not in the mean
    addAll(shown, pulse(3, 2, 0.5, 0.4));
    QVERIFY(std::fabs(shown.shown()->amps - 0.4) < 0.001);
}

// A pulse that was cut off at once never stood: the one before is what is known.
void TestNewestPulse::tooShortLeavesTheOneBefore() {
    NewestPulse shown;
    addAll(shown, pulse(0, 0.2, 0.5, 0.8));
    QVERIFY(!shown.shown());
    addAll(shown, pulse(2, 1, 0.5, 0.8));
    addAll(shown, pulse(4, 0.3, 0.5, 0.1));
    QVERIFY(shown.shown());
    QVERIFY(std::fabs(shown.shown()->amps - 0.8) < 0.001);
}
