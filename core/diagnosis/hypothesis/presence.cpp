#include "diagnosis/hypothesis/presence.h"

namespace ustor {

bool isOn(const Board& board, const PartsOff& stand, const Fault& fault) {
    if (fault.part < 0) return true;
    const std::string& name = board.parts[static_cast<std::size_t>(fault.part)].designator;
    if (stand.off.contains(name)) return false;
    const auto count = [&name](const std::map<std::string, int>& counts) {
        const auto found = counts.find(name);
        return found == counts.end() ? 0 : found->second;
    };
    return fault.mounting > 0 ? count(stand.mounting) == fault.mounting
                              : count(stand.generation) == fault.generation;
}

PartsOff standOf(const CaseState& state) {
    return {state.off(), state.generation, state.mounting};
}

} // namespace ustor
