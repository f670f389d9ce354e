#include "diagnosis/evidence/supply_items.h"

#include "diagnosis/fact/words.h"
#include "diagnosis/hypothesis/presence.h"

#include <algorithm>
#include <cmath>

namespace ustor {
namespace {

/// How often so much current flows, given that something conducts there, or nothing does but chips that wake
/// up (common practice).
constexpr double whereItConducts = 0.9, whereNothingDoes = 0.05;
/// Chips that are not up yet take less than a rail through so many ohms.
constexpr double chips_ohms = 8;

/// A meter has read the rail so low already: of a core rail that may be its nature, of a short it is no
/// second witness.
bool meterExplains(const AsItStood<SupplyShows>& shown, int rail, const CaseState& state,
                   const BoardCircuit& circuit) {
    constexpr double most = 2;
    return std::any_of(state.readings.begin(), state.readings.end(), [&](const CaseState::TakenReading& r) {
        const Reading& reading = r.taken.reading;
        const bool inOhms = reading.mode == MeterMode::Ohms || reading.mode == MeterMode::Beep;
        return inOhms && reading.state == ReadingState::Value && r.taken.against.empty() && !r.bySupply &&
               circuit.railOf(r.net) == rail && *r.then == *shown.then &&
               reading.value * shown.body.amps < most * shown.body.volts;
    });
}

double shareOfMuch(std::span<const Fault> faults, int rail, const AsItStood<SupplyShows>& shown,
                   const CaseState& state, const BoardCircuit& circuit) {
    double none = 1 - whereNothingDoes;
    for (const Fault& fault : faults) {
        if (!fault.conductsUnderPower() || !isOn(state.board, *shown.then, fault)) continue;
        if (circuit.railOf(fault.a) != rail && circuit.railOf(fault.b) != rail) continue;
        none *=
            1 - whereItConducts * (fault.conducts() ? 1 : conductsAt(state.board, fault, shown.body.volts));
    }
    return 1 - none;
}

} // namespace

double conductsAt(const Board& board, const Fault& fault, double volts) {
    constexpr double least_v = 0.7, usual_v = 12;
    const auto& nominal = board.nets[static_cast<std::size_t>(fault.a)].nominal;
    const double works_v = std::max(1.5 * least_v, nominal ? nominal->value : usual_v);
    return std::clamp(std::log(volts / least_v) / std::log(works_v / least_v), 0.02, 0.98);
}

std::vector<EvidenceItem> supplyEvidence(const CaseState& state, const BoardCircuit& circuit) {
    std::vector<EvidenceItem> items;
    for (const AsItStood<SupplyShows>& shown : state.raised) {
        const int rail = circuit.railOf(netOfPlace(state.board, *state.netParts, shown.body.place));
        if (rail < 0 || meterExplains(shown, rail, state, circuit)) continue;
        const bool much = shown.body.volts < chips_ohms * shown.body.amps;
        items.push_back({shown.fact, sentenceOf(FactBody(shown.body)),
                         [&state, &circuit, shown, rail, much](std::span<const Fault> faults) {
                             const double share = shareOfMuch(faults, rail, shown, state, circuit);
                             return std::log(much ? share : 1 - share);
                         }});
    }
    return items;
}

} // namespace ustor
