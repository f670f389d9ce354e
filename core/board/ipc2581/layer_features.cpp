#include "board/ipc2581/layer_features.h"

#include "board/plane/copper_pieces.h"

#include <algorithm>

namespace ustor::ipc2581 {
namespace {

BoardBox boxAround(const std::vector<BoardPoint>& outline) {
    BoardBox box{outline.front(), outline.front()};
    for (const BoardPoint p : outline) {
        box.low = {std::min(box.low.x_mm, p.x_mm), std::min(box.low.y_mm, p.y_mm)};
        box.high = {std::max(box.high.x_mm, p.x_mm), std::max(box.high.y_mm, p.y_mm)};
    }
    return box;
}

BoardBox boundsOf(const plane::Paths& shape) {
    auto low = shape.front().front(), high = low;
    for (const auto& path : shape)
        for (const auto& p : path) {
            low = {std::min(low.X, p.X), std::min(low.Y, p.Y)};
            high = {std::max(high.X, p.X), std::max(high.Y, p.Y)};
        }
    return {plane::millimetres(low), plane::millimetres(high)};
}

bool unplated(pugi::xml_node hole) {
    return std::string_view(hole.attribute("platingStatus").value()) == "NONPLATED";
}

} // namespace

LayerReader::LayerReader(const XmlSource& source, const PadStacks& stacks, const BoardBuilder& names,
                         int copper, std::string name, double unit_mm)
    : m_source(source.another()), m_shapes(m_source), m_stacks(stacks), m_names(names), m_copper(copper),
      m_name(std::move(name)), m_unit_mm(unit_mm) {}

LayerFeatures LayerReader::read(pugi::xml_node content, std::span<const pugi::xml_node> sets) {
    m_shapes.readDictionaries(content);
    m_source.takeWarnings(); // whoever reads the whole file tells those of the dictionaries
    for (const pugi::xml_node set : sets)
        readSet(set);
    m_features.warnings = m_source.takeWarnings();
    return std::move(m_features);
}

void LayerReader::readSet(pugi::xml_node set) {
    const NetIndex net = netOf(set.attribute("net").value());
    const bool dark = std::string_view(set.attribute("polarity").value()) != "NEGATIVE";
    forChildren(set, "", [&](pugi::xml_node child) {
        const std::string_view name = child.name();
        if (m_copper >= 0 && name == "Pad") {
            addPad(child, net, dark);
        } else if (name == "Hole") {
            const double diameter_mm = std::max(0.0, m_source.number(child, "diameter") * m_unit_mm);
            if (!unplated(child))
                m_features.holes.push_back({m_source.point(child, "x", "y", m_unit_mm), diameter_mm, net});
        } else if (name == "SlotCavity") {
            addSlot(child, net);
        } else if (m_copper >= 0 && Primitives::draws(name)) {
            draw(m_shapes.shapeOf(child, m_unit_mm), {}, net, dark);
        }
    });
}

void LayerReader::draw(const plane::Paths& shape, const plane::Placing& placing, NetIndex net, bool dark) {
    if (dark) return plane::addDrawnPieces(m_features.copper, shape, net, placing);
    std::vector<CopperPiece> holes;
    plane::addDrawnPieces(holes, shape, net, placing);
    for (CopperPiece& hole : holes)
        m_features.cuts.push_back({m_features.copper.size(), std::move(hole)});
}

/// A plated slot holds as a hole as wide as its narrow side.
void LayerReader::addSlot(pugi::xml_node slot, NetIndex net) {
    if (unplated(slot)) return;
    plane::Paths shape;
    forChildren(slot, "", [&](pugi::xml_node child) {
        if (Primitives::draws(child.name())) shape = m_shapes.shapeOf(child, m_unit_mm);
    });
    shape = m_shapes.placingOf(slot, m_unit_mm).apply(shape);
    if (shape.empty() || shape.front().empty()) return;
    const BoardBox box = boundsOf(shape);
    const BoardPoint middle{(box.low.x_mm + box.high.x_mm) / 2, (box.low.y_mm + box.high.y_mm) / 2};
    m_features.holes.push_back({middle, std::min(box.width_mm(), box.height_mm()), net});
}

void LayerReader::addPad(pugi::xml_node pad, NetIndex net, bool dark) {
    plane::Placing placing;
    plane::Paths drawnHere;
    const plane::Paths* shape = &drawnHere;
    pugi::xml_node pin;
    forChildren(pad, "", [&](pugi::xml_node child) {
        if (m_shapes.takePlacing(child, m_unit_mm, placing)) return;
        const std::string_view name = child.name();
        if (name == "PinRef") {
            if (!pin) pin = child;
        } else if (const auto* known = m_shapes.known(child)) {
            shape = known;
        } else if (Primitives::draws(name)) {
            drawnHere = m_shapes.shapeOf(child, m_unit_mm);
            shape = &drawnHere;
        }
    });
    const std::string_view stack = pad.attribute("padstackDefRef").value();
    if (shape->empty()) shape = &m_stacks.pad(stack, m_name);
    draw(*shape, placing, net, dark);
    if (!dark) return;
    if (const double hole_mm = m_stacks.hole_mm(stack); hole_mm > 0)
        m_features.holes.push_back({placing.shift, hole_mm, net});
    m_features.pads.emplace_back(placing.shift, net);
    if (!pin) return;
    DrawnPad drawn{placing.shift, m_copper, net, 0, 0};
    if (!shape->empty() && !shape->front().empty()) {
        const bool one = shape->size() == 1 && !m_features.copper.empty();
        const BoardBox box =
            one ? boxAround(m_features.copper.back().outline) : boundsOf(placing.apply(*shape));
        drawn.width_mm = box.width_mm();
        drawn.height_mm = box.height_mm();
    }
    m_features.pinPads.push_back(
        {pin.attribute("componentRef").value(), pin.attribute("pin").value(), drawn});
}

NetIndex LayerReader::netOf(std::string_view name) {
    if (name.empty()) return -1;
    if (const NetIndex known = m_names.knownNet(name); known >= 0) return known;
    const auto next = LayerFeatures::firstNew - static_cast<NetIndex>(m_features.newNets.size());
    const auto [place, fresh] = m_newNets.emplace(name, next);
    if (fresh) m_features.newNets.push_back(name);
    return place->second;
}

} // namespace ustor::ipc2581
