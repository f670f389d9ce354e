#include "support/facts.h"

namespace ustor::testing {

std::vector<Fact> factsOf(const std::vector<FactBody>& bodies) {
    constexpr double apart_s = 60;
    std::vector<Fact> facts;
    for (const FactBody& body : bodies)
        facts.push_back(
            {static_cast<long>(facts.size()) + 1, apart_s * static_cast<double>(facts.size()), body});
    return facts;
}

ReadingTaken ohms(const char* place, double ohm) {
    return {place, "", {MeterMode::Ohms, ReadingState::Value, ohm, 0.01}};
}

ReadingTaken diode(const char* place, double volt) {
    return {place, "", {MeterMode::Diode, ReadingState::Value, volt, 0.001}};
}

ReadingTaken volts(const char* place, double volt) {
    constexpr double resolution_v = 0.01;
    return {place, "", {MeterMode::Volts, ReadingState::Value, volt, resolution_v}};
}

} // namespace ustor::testing
