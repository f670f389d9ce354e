#include "board/ipc2581/layers.h"

#include <algorithm>
#include <tuple>

namespace ustor::ipc2581 {
namespace {

bool isCopper(std::string_view function) {
    for (const std::string_view copper :
         {"CONDUCTOR", "SIGNAL", "PLANE", "MIXED", "CONDFILM", "CONDFOIL", "POWER_GROUND"})
        if (function == copper) return true;
    return false;
}

int rankOf(std::string_view side) {
    return side == "TOP" ? 0 : side == "BOTTOM" ? 2 : 1;
}

} // namespace

Layers::Layers(pugi::xml_node cadData, XmlSource& source, double unit_mm) {
    forChildren(cadData, "Layer", [&](pugi::xml_node layer) {
        m_layers[layer.attribute("name").value()] = {layer.attribute("layerFunction").value(),
                                                     layer.attribute("side").value(),
                                                     static_cast<int>(m_layers.size())};
    });
    for (const auto& [name, layer] : m_layers)
        if (isCopper(layer.function)) m_copper.push_back({name, 0});
    // Without a stack-up: by side, and in the file's order between.
    std::sort(m_copper.begin(), m_copper.end(), [&](const Copper& a, const Copper& b) {
        const Layer &x = m_layers[a.name], &y = m_layers[b.name];
        return std::tuple(rankOf(x.side), x.order) < std::tuple(rankOf(y.side), y.order);
    });
    if (const auto stackup = cadData.child("Stackup")) orderByStackup(stackup, source, unit_mm);
    for (int i = 0; i < static_cast<int>(m_copper.size()); ++i)
        m_index[m_copper[i].name] = i;
}

void Layers::orderByStackup(pugi::xml_node stackup, XmlSource& source, double unit_mm) {
    struct Place {
        double group, sequence, thickness_mm;
    };
    std::map<std::string, Place> places;
    double groups = 0, sum_mm = 0;
    forChildren(stackup, "StackupGroup", [&](pugi::xml_node group) {
        double inGroup = 0;
        forChildren(group, "StackupLayer", [&](pugi::xml_node layer) {
            const double thickness_mm = source.number(layer, "thickness") * unit_mm;
            const double sequence = source.number(layer, "sequence", ++inGroup);
            sum_mm += std::max(0.0, thickness_mm);
            places[layer.attribute("layerOrGroupRef").value()] = {groups, sequence, thickness_mm};
        });
        ++groups;
    });
    const double overall_mm = source.number(stackup, "overallThickness") * unit_mm;
    m_thickness_mm = overall_mm > 0 ? overall_mm : sum_mm;
    for (Copper& copper : m_copper)
        if (const auto found = places.find(copper.name); found != places.end())
            copper.thickness_mm = std::max(0.0, found->second.thickness_mm);
    const bool all = std::all_of(m_copper.begin(), m_copper.end(),
                                 [&](const Copper& copper) { return places.contains(copper.name); });
    if (!all)
        return source.warn(stackup, say("does not hold all copper layers: they are ordered by their sides"));
    std::stable_sort(m_copper.begin(), m_copper.end(), [&](const Copper& a, const Copper& b) {
        const Place &x = places[a.name], &y = places[b.name];
        return std::tuple(x.group, x.sequence) < std::tuple(y.group, y.sequence);
    });
    // A stack-up may be counted from the bottom.
    if (m_copper.size() > 1 && m_layers[m_copper.front().name].side == "BOTTOM" &&
        m_layers[m_copper.back().name].side == "TOP")
        std::reverse(m_copper.begin(), m_copper.end());
}

int Layers::copperIndex(const std::string& name) const {
    const auto found = m_index.find(name);
    return found == m_index.end() ? -1 : found->second;
}

Side Layers::sideOf(const std::string& name) const {
    const auto found = m_layers.find(name);
    return found != m_layers.end() && found->second.side == "BOTTOM" ? Side::Bottom : Side::Top;
}

} // namespace ustor::ipc2581
