#include "diagnosis/hypothesis/presence.h"

#include <algorithm>

namespace ustor {

bool standAlike(const Board& board, const PartsOff& one, const PartsOff& other,
                std::span<const Fault> faults) {
    return std::all_of(faults.begin(), faults.end(), [&](const Fault& fault) {
        return isOn(board, one, fault) == isOn(board, other, fault);
    });
}

bool isOn(const Board& board, const PartsOff& stand, const Fault& fault) {
    const auto countOf = [](const std::map<std::string, int>& counts, const std::string& of) {
        const auto found = counts.find(of);
        return found == counts.end() ? 0 : found->second;
    };
    if (fault.kind == FaultKind::Unlisted && fault.a >= 0)
        return countOf(stand.cleaned, board.nets[fault.a].name) == fault.generation;
    if (fault.part < 0) return true;
    const std::string& name = board.parts[static_cast<std::size_t>(fault.part)].designator;
    if (stand.off.contains(name)) return false;
    const auto count = [&](const std::map<std::string, int>& counts) { return countOf(counts, name); };
    if (fault.kind == FaultKind::Open && count(stand.mended) > 0) return false;
    return fault.mounting > 0 ? count(stand.mounting) == fault.mounting
                              : count(stand.generation) == fault.generation;
}

} // namespace ustor
