#include "many_facts.h"

#include "base/random.h"

namespace ustor {

std::vector<FactBody> manyFacts(const Board& board, int count) {
    Random random(11);
    std::vector<FactBody> facts{Complaint{"no reaction at all"}};
    const auto anyPart = [&]() -> const Part& {
        return board
            .parts[static_cast<std::size_t>(random.uniform() * static_cast<double>(board.parts.size()))];
    };
    while (static_cast<int>(facts.size()) < count) {
        const Part& part = anyPart();
        if (part.pads.empty()) continue;
        const double kind = random.uniform();
        if (kind < 0.75) {
            Reading reading;
            reading.mode = kind < 0.35 ? MeterMode::Ohms : MeterMode::Diode;
            reading.value = reading.mode == MeterMode::Ohms ? 300 + 2000 * random.uniform() : 0.45;
            facts.emplace_back(ReadingTaken{part.designator + "." + part.pads.front().pin, "", reading});
        } else if (kind < 0.9) {
            facts.emplace_back(Seen{part.designator, Damage::None, "", ""});
        } else if (kind < 0.98) {
            facts.emplace_back(Noted{"a word for the next who sees it"});
        } else {
            facts.emplace_back(Lifted{part.designator});
            facts.emplace_back(Refitted{part.designator, false, ""});
        }
    }
    return facts;
}

} // namespace ustor
