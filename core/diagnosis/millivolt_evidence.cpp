#include "diagnosis/millivolt_evidence.h"

#include <algorithm>

namespace ustor {

std::optional<MillivoltSeries> newestSeries(const CaseState& state, const Stretch& stretch) {
    const Board& board = state.board;
    MillivoltSeries series;
    const MillivoltTaken* newest = nullptr;
    for (auto at = state.millivolts.rbegin(); !newest && at != state.millivolts.rend(); ++at) {
        const auto plus = board.findPad(at->second.plus);
        if (plus && stretch.holds(board.pad(*plus).net) && at->second.amps > 0) newest = &at->second;
    }
    if (!newest) return std::nullopt;
    series.setup.inject = *board.findPad(newest->plus);
    series.setup.minus = board.findPad(newest->minus);
    series.setup.current = Amps(newest->amps);
    double digit = 0;
    for (const auto& [fact, taken] : state.millivolts) {
        if (taken.plus != newest->plus || taken.minus != newest->minus || taken.amps != newest->amps)
            continue;
        const auto at = board.findPad(taken.place);
        const auto black = taken.black.empty() ? std::nullopt : board.findPad(taken.black);
        if (!at || (!taken.black.empty() && !black)) continue;
        series.readings.push_back({*at, taken.volts, black});
        series.newestFact = fact;
        digit = std::max(digit, taken.resolution);
    }
    if (digit > 0) series.setup.resolution = Volts(digit);
    return series;
}

struct MillivoltMemory::Kept {
    Board board; ///< a copy: the locator outlives the assessment that asked
    Stretch stretch;
    MillivoltSetup setup;
    MillivoltModel model;
    std::optional<MillivoltLocator> locator;

    bool fits(const Stretch& other, const MillivoltSetup& asked) const {
        return stretch.nets == other.nets && stretch.links == other.links &&
               stretch.suspects == other.suspects && setup.inject == asked.inject &&
               setup.minus == asked.minus && setup.current == asked.current &&
               setup.resolution == asked.resolution;
    }
};

MillivoltMemory::MillivoltMemory() = default;
MillivoltMemory::~MillivoltMemory() = default;

Result<MillivoltFinding> MillivoltMemory::locate(const Board& board, const Stretch& stretch,
                                                 const MillivoltSeries& series) {
    if (!m_kept || !m_kept->fits(stretch, series.setup)) {
        auto model = millivoltModel(board, stretch);
        if (!model) return model.error();
        auto fresh = std::make_unique<Kept>();
        fresh->board = board;
        fresh->stretch = stretch;
        fresh->setup = series.setup;
        fresh->model = std::move(model.value());
        auto locator = MillivoltLocator::create(fresh->board, stretch, fresh->model, series.setup);
        if (!locator) return locator.error();
        fresh->locator = std::move(locator.value());
        m_kept = std::move(fresh);
    }
    return m_kept->locator->locate(series.readings);
}

} // namespace ustor
