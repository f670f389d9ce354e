#include "diagnosis/fact/power_course.h"

#include "base/csv.h"
#include "base/quantity_text.h"

#include <algorithm>
#include <array>
#include <optional>

namespace ustor {
namespace {

/// How often the current falls from above `high` to below `low`.
int falls(const std::vector<PowerTrace::Moment>& moments, double low, double high) {
    int count = 0;
    bool up = false;
    for (const auto& m : moments) {
        if (up && m.amps < low) ++count;
        if (m.amps < low) up = false;
        if (m.amps > high) up = true;
    }
    return count;
}

} // namespace

SourceShows shownBy(const PowerTrace& trace) {
    SourceShows shows;
    shows.text = trace.text;
    if (trace.moments.empty()) return shows;
    const auto byAmps = [](const auto& a, const auto& b) { return a.amps < b.amps; };
    const auto byVolts = [](const auto& a, const auto& b) { return a.volts < b.volts; };
    const auto peak = *std::max_element(trace.moments.begin(), trace.moments.end(), byAmps);
    const double most_v = std::max_element(trace.moments.begin(), trace.moments.end(), byVolts)->volts;
    const auto& last = trace.moments.back();
    shows.volts = last.volts;
    shows.amps = last.amps;
    constexpr double taken_a = 0.03, low = 0.4, high = 0.7, died = 0.2, held = 0.85, running_a = 0.3,
                     gone = 0.2;
    if (peak.amps < taken_a) return shows;
    if (falls(trace.moments, low * peak.amps, high * peak.amps) >= 2) {
        shows.volts = most_v;
        shows.amps = peak.amps;
        shows.reaction = Reaction::Pulses;
    } else if (last.amps < died * peak.amps) {
        shows.reaction = last.volts < gone * most_v ? Reaction::ShutsOff : Reaction::StartsAndDies;
    } else if (trace.moments.size() > 2 && last.volts >= held * most_v && last.amps >= running_a &&
               last.amps > 2 * trace.moments.front().amps) {
        shows.reaction = Reaction::Starts;
    }
    return shows;
}

Result<PowerTrace> readPowerTrace(std::string_view text, std::string_view fileName) {
    PowerTrace trace;
    const auto rows = csvRows(text, csvSeparator(text));
    for (std::size_t i = 0; i < rows.size(); ++i) {
        const auto& cells = rows[i].cells;
        std::array<std::optional<double>, 3> numbers;
        for (std::size_t c = 0; c < std::min(cells.size(), numbers.size()); ++c)
            numbers[c] = quantityFromText(cells[c]);
        if (numbers[0] && numbers[1] && numbers[2])
            trace.moments.push_back({*numbers[0], *numbers[1], *numbers[2]});
        else if (i > 0)
            return Error{say("seconds, volts and amps are needed in each row"),
                         std::string(fileName) + ":" + std::to_string(rows[i].line),
                         say("nothing was noted")};
    }
    if (trace.moments.empty())
        return Error{say("no row with seconds, volts and amps"), std::string(fileName),
                     say("nothing was noted")};
    return trace;
}

} // namespace ustor
