#include "board/gerber/layer_role.h"

#include "base/number_text.h"

#include <algorithm>
#include <array>

namespace ustor::gerber {
namespace {

LayerRole fromFunction(std::string_view function) {
    const auto comma = function.find(',');
    const std::string kind = lowered(function.substr(0, comma));
    if (kind == "profile") return {LayerKind::Profile, 0, false};
    if (kind == "plated" || kind == "nonplated") return {LayerKind::Drill, 0, false};
    if (kind != "copper" || comma == std::string_view::npos) return {};
    // "Copper,L2,Inr,Signal"
    std::string_view rest = trimmed(function.substr(comma + 1));
    const auto end = std::min(rest.find(','), rest.size());
    const auto number = rest.starts_with('L') ? integerFromText(rest.substr(1, end - 1)) : std::nullopt;
    return {LayerKind::Copper, number ? static_cast<int>(*number) : 0,
            lowered(rest).find("bot") != std::string::npos};
}

/// The number right behind a word, "inner2" or "in2"; 0 without one.
int numberBehind(const std::string& name, std::string_view word) {
    auto at = name.find(word);
    if (at == std::string::npos) return 0;
    at += word.size();
    while (at < name.size() && (name[at] == '_' || name[at] == '-' || name[at] == '.' || name[at] == ' '))
        ++at;
    int number = 0;
    constexpr int most = 100;
    for (; at < name.size() && name[at] >= '0' && name[at] <= '9' && number < most; ++at)
        number = number * 10 + (name[at] - '0');
    return number;
}

LayerRole fromName(std::string_view fileName) {
    const std::string name = lowered(fileName);
    const auto has = [&](std::string_view word) { return name.find(word) != std::string::npos; };
    const auto ends = [&](std::string_view ending) { return name.ends_with(ending); };
    for (const std::string_view other :
         {"mask", "paste", "silk", "legend", "assembly", "courtyard", "glue", "adhes", "fab", ".gts", ".gbs",
          ".gtp", ".gbp", ".gto", ".gbo", "drillmap", "drill_map"})
        if (has(other)) return {};
    for (const std::string_view profile :
         {"outline", "profile", "edge_cuts", "edge.cuts", "boundary", "board_edge"})
        if (has(profile)) return {LayerKind::Profile, 0, false};
    for (const std::string_view ending : {".gko", ".gm1", ".gm", ".gml", ".mil", ".dim"})
        if (ends(ending)) return {LayerKind::Profile, 0, false};
    for (const std::string_view other : {".plc", ".pls", ".stc", ".sts", ".crc", ".crs"})
        if (ends(other)) return {};
    if (ends(".gtl") || ends(".cmp")) return {LayerKind::Copper, 1, false};
    if (ends(".gbl") || ends(".sol")) return {LayerKind::Copper, 0, true};
    constexpr int mostInner = 62;
    for (const std::string_view ending : {".gl", ".gp", ".g"})
        if (const int inner = numberBehind(name, ending);
            inner > 0 && inner <= mostInner && ends(std::string(ending) + std::to_string(inner)))
            return {LayerKind::Copper, inner + 1, false};
    if (const int layer = numberBehind(name, ".ly"); // counted from the top
        layer > 1 && layer <= mostInner && ends(".ly" + std::to_string(layer)))
        return {LayerKind::Copper, layer, false};
    for (const std::string_view word : {"inner", "intern", "in"})
        if (const int inner = numberBehind(name, word);
            inner > 0 && inner <= mostInner &&
            (has("cu") || has("copper") || has("layer") || word == "inner"))
            return {LayerKind::Copper, inner + 1, false};
    if (has("intern") && has("copper")) return {LayerKind::Copper, 0, false};
    const bool copper =
        has("cu") || has("copper") || has("layer") || has("signal") || has("component") || has("solder");
    if (!copper) return {};
    if (has("top") || has("f_cu") || has("f.cu") || has("front") || has("component"))
        return {LayerKind::Copper, 1, false};
    if (has("bot") || has("b_cu") || has("b.cu") || has("back") || has("solder"))
        return {LayerKind::Copper, 0, true};
    return {};
}

} // namespace

LayerRole roleOf(const std::map<std::string, std::string>& attributes, std::string_view fileName) {
    const auto function = attributes.find("FileFunction");
    return function == attributes.end() ? fromName(fileName) : fromFunction(function->second);
}

} // namespace ustor::gerber
