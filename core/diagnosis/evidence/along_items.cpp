#include "diagnosis/evidence/along_items.h"

#include <algorithm>
#include <cmath>
#include <map>

namespace ustor {

EvidenceItem alongEvidence(const AlongTheCopper& along) {
    const auto& candidates = along.finding.candidates;
    std::map<PartIndex, double> likelihood;
    for (const PlaceOdds& c : candidates)
        likelihood[c.part] += c.odds * static_cast<double>(candidates.size());
    return {along.fact, say("millivolts along the copper"), [likelihood](std::span<const Fault> faults) {
                constexpr double slip = 0.02;
                double best = 0;
                bool any = false;
                for (const Fault& fault : faults)
                    if (const auto found = likelihood.find(fault.part);
                        fault.part >= 0 && fault.conducts() && found != likelihood.end()) {
                        best = std::max(best, found->second);
                        any = true;
                    }
                return std::log(slip + (1 - slip) * (any ? best : 1));
            }};
}

} // namespace ustor
