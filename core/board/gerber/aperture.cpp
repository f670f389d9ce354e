#include "board/gerber/aperture.h"
#include "base/input_bounds.h"

#include "base/number_text.h"

#include <algorithm>
#include <cmath>

namespace ustor::gerber {
namespace {

Path reversed(Path path) {
    std::reverse(path.begin(), path.end());
    return path;
}

} // namespace

std::optional<Aperture> apertureFrom(std::string_view definition, double unit_mm,
                                     const std::map<std::string, Macro>& macros, Message& trouble) {
    const auto comma = definition.find(',');
    const std::string name(trimmed(definition.substr(0, comma)));
    std::vector<double> values;
    if (comma != std::string_view::npos)
        for (std::string_view rest = definition.substr(comma + 1); !rest.empty();) {
            const auto end = std::min(rest.find_first_of("Xx"), rest.size());
            const auto number = numberFromText(trimmed(rest.substr(0, end)));
            if (!number)
                return trouble = say("a measure of aperture '{name}' is not a number", {{"name", name}}),
                       std::nullopt;
            values.push_back(*number);
            rest.remove_prefix(std::min(end + 1, rest.size()));
        }
    Aperture aperture;
    if (const auto macro = macros.find(name); macro != macros.end()) {
        const auto shape = macro->second.shape(values, unit_mm, trouble);
        if (!shape) return std::nullopt;
        aperture.shape = *shape;
        aperture.convex = aperture.shape.size() == 1;
        return aperture;
    }
    const auto length = [&](std::size_t i) { return i < values.size() ? values[i] * unit_mm : 0.0; };
    const double first = length(0), second = values.size() > 1 ? length(1) : 0;
    const auto sound = [](double mm) { return mm >= 0 && mm < bounds::place_mm; };
    if (values.empty() || !sound(first) || !sound(second))
        return trouble = say("aperture '{name}' has no sound measures", {{"name", name}}), std::nullopt;
    std::size_t holeAt = 2;
    if (name == "C") {
        aperture.shape = {circle({}, first)};
        aperture.round_mm = values.size() > 1 ? 0 : first;
        holeAt = 1;
    } else if (name == "R") {
        aperture.shape = {box({}, first, second)};
    } else if (name == "O") {
        aperture.shape = {obround({}, first, second)};
    } else if (name == "P") {
        constexpr double fewest = 3, most = 12;
        if (values.size() < 2 || values[1] < fewest || values[1] > most)
            return trouble = say("a polygon aperture needs 3 to 12 corners"), std::nullopt;
        aperture.shape = {
            regularPolygon({}, first, static_cast<int>(values[1]), values.size() > 2 ? values[2] : 0)};
        holeAt = 3;
    } else {
        return trouble = say("aperture '{name}' is not defined", {{"name", name}}), std::nullopt;
    }
    aperture.convex = true;
    if (values.size() > holeAt && length(holeAt) > 0) {
        aperture.shape.push_back(reversed(circle({}, length(holeAt))));
        aperture.convex = false;
    }
    return aperture;
}

} // namespace ustor::gerber
