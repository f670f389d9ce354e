#include "diagnosis/known_good.h"

#include "base/csv.h"
#include "base/number_text.h"
#include "diagnosis/assess.h"
#include "diagnosis/fact/readings_csv.h"

#include <algorithm>

namespace ustor {

std::optional<Expected> typicalOf(const std::vector<Reading>& readings) {
    std::vector<double> values;
    for (const Reading& r : readings)
        if (r.state == ReadingState::Value) values.push_back(r.value);
    if (readings.empty()) return std::nullopt;
    Expected expected;
    expected.readings = static_cast<int>(readings.size());
    expected.overRange = values.size() * 2 < readings.size() || values.empty();
    if (!expected.overRange) {
        std::sort(values.begin(), values.end());
        const std::size_t middle = values.size() / 2;
        expected.typical = values.size() % 2 ? values[middle] : (values[middle - 1] + values[middle]) / 2;
    }
    return expected;
}

KnownGoodOnBoard::KnownGoodOnBoard(const KnownGoodSet& set, const Board& board) : m_set(set) {
    for (std::size_t i = 0; i < set.readings.size(); ++i) {
        m_atPlace[lowered(set.readings[i].place)].push_back(i);
        if (const NetIndex net = netOfPlace(board, set.readings[i].place); net >= 0)
            m_onNet[net].push_back(i);
    }
}

std::optional<Expected> KnownGoodOnBoard::at(const std::string& place, NetIndex net, MeterMode mode,
                                             bool reversed) const {
    std::string other;
    const auto alike = [&](const auto& index, const auto& key) {
        std::vector<Reading> readings;
        if (const auto found = index.find(key); found != index.end())
            for (const std::size_t i : found->second) {
                const KnownReading& known = m_set.readings[i];
                if (known.reading.mode != mode || known.reversed != reversed) continue;
                readings.push_back(known.reading);
                other = known.place;
            }
        return readings;
    };
    const auto here = alike(m_atPlace, lowered(place));
    const auto onNet = here.empty() ? alike(m_onNet, net) : here;
    auto expected = typicalOf(here.empty() ? onNet : here);
    if (expected) expected->place = here.empty() ? other : place;
    return expected;
}

Result<KnownGoodSet> readKnownGood(std::string_view text, std::string_view fileName,
                                   std::vector<Message>& warnings) {
    auto list = readReadings(text, fileName);
    if (!list) return list.error();
    warnings.insert(warnings.end(), list.value().warnings.begin(), list.value().warnings.end());
    KnownGoodSet set;
    for (std::size_t i = 0; i < list.value().readings.size(); ++i) {
        const ReadingTaken& taken = list.value().readings[i];
        if (!taken.against.empty()) {
            warnings.push_back(say("{file}: {place} against {against} is no reading against ground, left out",
                                   {{"file", fileName}, {"place", taken.place}, {"against", taken.against}}));
            continue;
        }
        set.readings.push_back({taken.place, taken.reading, taken.reversed, list.value().boards[i]});
    }
    return set;
}

std::string knownGoodToCsv(const KnownGoodSet& set) {
    std::string out = "place,mode,value,unit,polarity,board\n";
    for (const KnownReading& known : set.readings)
        out += readingCells(known.place, known.reading) + (known.reversed ? ",reversed," : ",,") +
               csvCell(known.donor) + "\n";
    return out;
}

KnownGoodSet knownGoodFrom(const Board& board, const std::vector<Fact>& facts, const std::string& donor) {
    KnownGoodSet set;
    set.model = board.name;
    const Assessment a = assess(board, facts, {});
    const bool repair = !a.down.nets.empty();
    // A board that was never down is a donor. A repair speaks once its short is gone and all is back on.
    long from = 0;
    if (repair) {
        if (a.culprit.empty() || !a.state.lifted.empty()) return set;
        for (const Fact* fact : activeFacts(facts))
            if (std::holds_alternative<Lifted>(fact->body) || std::holds_alternative<Refitted>(fact->body))
                from = fact->id;
    }
    for (const auto& taken : a.state.readings) {
        const bool good =
            taken.ruling.state == RailState::Healthy || taken.ruling.state == RailState::LowByNature;
        if (taken.fact > from && good && taken.taken.against.empty() && !taken.warm &&
            taken.taken.reading.mode != MeterMode::Volts)
            set.readings.push_back({taken.taken.place, taken.taken.reading, taken.taken.reversed, donor});
    }
    return set;
}

} // namespace ustor
