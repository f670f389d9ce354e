#include "board/ipc2581/packages.h"

#include <algorithm>

namespace ustor::ipc2581 {
namespace {

struct Bounds {
    bool any = false;
    BoardPoint low, high;
    void take(const plane::Paths& shape) {
        for (const auto& path : shape)
            for (const auto& p : path) {
                const BoardPoint at = plane::millimetres(p);
                low = any ? BoardPoint{std::min(low.x_mm, at.x_mm), std::min(low.y_mm, at.y_mm)} : at;
                high = any ? BoardPoint{std::max(high.x_mm, at.x_mm), std::max(high.y_mm, at.y_mm)} : at;
                any = true;
            }
    }
};

plane::Paths firstShape(pugi::xml_node element, Primitives& shapes, double unit_mm) {
    plane::Paths shape;
    forChildren(element, "", [&](pugi::xml_node child) {
        if (shape.empty() && Primitives::draws(child.name())) shape = shapes.shapeOf(child, unit_mm);
    });
    return shape;
}

Pin pinFrom(pugi::xml_node element, const char* name, Primitives& shapes, double unit_mm) {
    Pin pin;
    pin.name = name;
    const auto placing = shapes.placingOf(element, unit_mm);
    pin.at = placing.shift;
    Bounds bounds;
    bounds.take(placing.apply(firstShape(element, shapes, unit_mm)));
    pin.width_mm = bounds.high.x_mm - bounds.low.x_mm;
    pin.height_mm = bounds.high.y_mm - bounds.low.y_mm;
    const std::string_view type = element.attribute("type").value();
    pin.surface = type == "SURFACE";
    pin.through = type == "THRU" || type == "THROUGH";
    return pin;
}

} // namespace

void Packages::read(pugi::xml_node step, Primitives& shapes, XmlSource& source, double unit_mm) {
    forChildren(step, "Package", [&](pugi::xml_node node) {
        Package package;
        forChildren(node, "Pin", [&](pugi::xml_node pin) {
            package.pins.push_back(pinFrom(pin, pin.attribute("number").value(), shapes, unit_mm));
        });
        // Some writers give pins by the land pattern alone.
        if (package.pins.empty())
            forChildren(node.child("LandPattern"), "Pad", [&](pugi::xml_node pad) {
                if (const auto pin = pad.child("PinRef"))
                    package.pins.push_back(pinFrom(pad, pin.attribute("pin").value(), shapes, unit_mm));
            });
        Bounds bounds;
        bounds.take(firstShape(node.child("Outline"), shapes, unit_mm));
        if (bounds.any) {
            package.width_mm = bounds.high.x_mm - bounds.low.x_mm;
            package.height_mm = bounds.high.y_mm - bounds.low.y_mm;
            package.middle = {(bounds.low.x_mm + bounds.high.x_mm) / 2,
                              (bounds.low.y_mm + bounds.high.y_mm) / 2};
        }
        const char* name = node.attribute("name").value();
        if (!m_packages.emplace(name, std::move(package)).second)
            source.warn(node, say("a second package '{name}' is left out", {{"name", name}}));
    });
}

const Package* Packages::find(std::string_view name) const {
    const auto found = m_packages.find(name);
    return found == m_packages.end() ? nullptr : &found->second;
}

void PadStacks::read(pugi::xml_node step, Primitives& shapes, XmlSource& source, double unit_mm) {
    const auto take = [&](pugi::xml_node node, const char* holeName, const char* padName) {
        Stack stack;
        forChildren(node, holeName, [&](pugi::xml_node hole) {
            if (std::string_view(hole.attribute("platingStatus").value()) != "NONPLATED")
                stack.hole_mm = std::max(0.0, source.number(hole, "diameter") * unit_mm);
        });
        forChildren(node, padName, [&](pugi::xml_node pad) {
            const std::string_view use = pad.attribute("padUse").value();
            if (!use.empty() && use != "REGULAR") return;
            stack.pads[pad.attribute("layerRef").value()] =
                shapes.placingOf(pad, unit_mm).apply(firstShape(pad, shapes, unit_mm));
        });
        m_stacks[node.attribute("name").value()] = std::move(stack);
    };
    forChildren(step, "PadStack", [&](pugi::xml_node node) { take(node, "LayerHole", "LayerPad"); });
    forChildren(step, "PadStackDef",
                [&](pugi::xml_node node) { take(node, "PadstackHoleDef", "PadstackPadDef"); });
}

const plane::Paths& PadStacks::pad(std::string_view stack, const std::string& layer) const {
    static const plane::Paths nothing;
    const auto found = m_stacks.find(stack);
    if (found == m_stacks.end()) return nothing;
    const auto pad = found->second.pads.find(layer);
    return pad == found->second.pads.end() ? nothing : pad->second;
}

double PadStacks::hole_mm(std::string_view stack) const {
    const auto found = m_stacks.find(stack);
    return found == m_stacks.end() ? 0 : found->second.hole_mm;
}

} // namespace ustor::ipc2581
