#include "board/ipc2581/primitives.h"
#include "base/input_bounds.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <iterator>
#include <unordered_set>

namespace ustor::ipc2581 {
namespace {

using plane::Path;
using plane::Paths;

Paths withHole(Path outer, Path inner) {
    std::reverse(inner.begin(), inner.end());
    return {std::move(outer), std::move(inner)};
}

/// A box whose corners are cut or rounded where the flags say so, anticlockwise from the lower left.
Path corneredBox(double width, double height, double cut, bool round, const std::array<bool, 4>& which) {
    const double r = std::clamp(cut, 0.0, std::min(width, height) / 2);
    const std::array<BoardPoint, 4> corner{BoardPoint{-width / 2, -height / 2},
                                           {width / 2, -height / 2},
                                           {width / 2, height / 2},
                                           {-width / 2, height / 2}};
    // Along which way the outline comes to a corner and leaves it.
    const std::array<BoardPoint, 4> along{BoardPoint{1, 0}, {0, 1}, {-1, 0}, {0, -1}};
    Path path;
    for (std::size_t i = 0; i < corner.size(); ++i) {
        const BoardPoint c = corner[i], in = along[(i + 3) % 4], out = along[i];
        if (!which[i] || r <= 0) {
            path.push_back(plane::nanometres(c.x_mm, c.y_mm));
            continue;
        }
        const BoardPoint from{c.x_mm - in.x_mm * r, c.y_mm - in.y_mm * r};
        const BoardPoint to{c.x_mm + out.x_mm * r, c.y_mm + out.y_mm * r};
        path.push_back(plane::nanometres(from.x_mm, from.y_mm));
        if (round) {
            const BoardPoint middle{from.x_mm + out.x_mm * r, from.y_mm + out.y_mm * r};
            for (const BoardPoint p : plane::arcPoints(from, to, middle, false))
                path.push_back(plane::nanometres(p.x_mm, p.y_mm));
        } else {
            path.push_back(plane::nanometres(to.x_mm, to.y_mm));
        }
    }
    return path;
}

Path ellipse(double width, double height) {
    constexpr int corners = 64;
    Path path = plane::regularPolygon({}, 1, corners, 0);
    for (auto& p : path)
        p = {std::llround(static_cast<double>(p.X) * width), std::llround(static_cast<double>(p.Y) * height)};
    return path;
}

Path polygon(const std::vector<BoardPoint>& points) {
    Path path;
    path.reserve(points.size());
    for (const BoardPoint p : points)
        path.push_back(plane::nanometres(p.x_mm, p.y_mm));
    return path;
}

bool flag(pugi::xml_node node, const char* attribute, bool otherwise) {
    return node.attribute(attribute).as_bool(otherwise);
}

} // namespace

bool Primitives::draws(std::string_view name) {
    static const std::unordered_set<std::string_view> known{"StandardPrimitiveRef",
                                                            "UserPrimitiveRef",
                                                            "Circle",
                                                            "RectCenter",
                                                            "RectCorner",
                                                            "RectCham",
                                                            "RectRound",
                                                            "Oval",
                                                            "Ellipse",
                                                            "Hexagon",
                                                            "Octagon",
                                                            "Diamond",
                                                            "Triangle",
                                                            "Donut",
                                                            "Butterfly",
                                                            "Thermal",
                                                            "Moire",
                                                            "Contour",
                                                            "Polygon",
                                                            "Polyline",
                                                            "Line",
                                                            "Arc",
                                                            "UserSpecial",
                                                            "Features",
                                                            "Outline"};
    return known.contains(name);
}

void Primitives::readDictionaries(pugi::xml_node content) {
    const auto unitOf = [&](pugi::xml_node dictionary) {
        const auto unit = unitFromWord(dictionary.attribute("units").value());
        if (!unit) m_source.warn(dictionary, say("names no unit that is known: read as millimetres"));
        return unit.value_or(1.0);
    };
    forChildren(content, "DictionaryLineDesc", [&](pugi::xml_node dictionary) {
        const double unit_mm = unitOf(dictionary);
        forChildren(dictionary, "EntryLineDesc", [&](pugi::xml_node entry) {
            m_pens[entry.attribute("id").value()] =
                m_source.number(entry.child("LineDesc"), "lineWidth") * unit_mm;
        });
    });
    const auto take = [&](const char* dictionaryName, const char* entryName, Dictionary& into) {
        forChildren(content, dictionaryName, [&](pugi::xml_node dictionary) {
            const double unit_mm = unitOf(dictionary);
            forChildren(dictionary, entryName, [&](pugi::xml_node entry) {
                into[entry.attribute("id").value()] = {entry, unit_mm, false, {}};
            });
        });
    };
    take("DictionaryStandard", "EntryStandard", m_standard);
    take("DictionaryUser", "EntryUser", m_user);
}

Paths Primitives::shapeOf(pugi::xml_node element, double unit_mm, int depth) {
    constexpr int deepest = 8;
    const std::string_view name = element.name();
    if (depth > deepest) {
        m_source.warn(element, say("shapes refer to each other without an end: left out"));
        return {};
    }
    if (const Paths* shape = known(element, depth)) return *shape;
    if (name == "UserSpecial" || name == "Features" || name == "Outline")
        return group(element, unit_mm, depth);
    if (name == "Contour") return contour(element, unit_mm);
    if (name == "Polygon") {
        const auto points = corners(element, unit_mm);
        if (points.size() < 3) return {};
        Path drawn = polygon(points);
        if (!ClipperLib::Orientation(drawn)) std::reverse(drawn.begin(), drawn.end());
        return {std::move(drawn)};
    }
    if (name == "Polyline") return line(element, corners(element, unit_mm), unit_mm);
    if (name == "Line")
        return line(element,
                    {m_source.point(element, "startX", "startY", unit_mm),
                     m_source.point(element, "endX", "endY", unit_mm)},
                    unit_mm);
    if (name == "Arc") {
        const BoardPoint start = m_source.point(element, "startX", "startY", unit_mm);
        std::vector<BoardPoint> points{start};
        const auto rest = plane::arcPoints(start, m_source.point(element, "endX", "endY", unit_mm),
                                           m_source.point(element, "centerX", "centerY", unit_mm),
                                           flag(element, "clockwise", false));
        points.insert(points.end(), rest.begin(), rest.end());
        return line(element, points, unit_mm);
    }
    return standard(element, unit_mm);
}

const Paths* Primitives::known(pugi::xml_node element, int depth) {
    const std::string_view name = element.name();
    if (name == "StandardPrimitiveRef") return &referenced(element, m_standard, depth);
    if (name == "UserPrimitiveRef") return &referenced(element, m_user, depth);
    return nullptr;
}

const Paths& Primitives::referenced(pugi::xml_node element, Dictionary& dictionary, int depth) {
    static const Paths nothing;
    const auto found = dictionary.find(std::string_view(element.attribute("id").value()));
    if (found == dictionary.end()) {
        const std::string id = element.attribute("id").value();
        if (!m_told[id])
            m_source.warn(element, say("no dictionary has the shape '{id}': drawn as nothing", {{"id", id}}));
        m_told[id] = true;
        return nothing;
    }
    Entry& entry = found->second;
    if (!entry.drawn) {
        Paths shape;
        forChildren(entry.node, "", [&](pugi::xml_node child) {
            if (!draws(child.name())) return;
            const Paths more = shapeOf(child, entry.unit_mm, depth + 1);
            shape.insert(shape.end(), more.begin(), more.end());
        });
        entry.shape = std::move(shape);
        entry.drawn = true;
    }
    return entry.shape;
}

Paths Primitives::group(pugi::xml_node element, double unit_mm, int depth) {
    plane::Placing placing;
    Paths shape;
    forChildren(element, "", [&](pugi::xml_node child) {
        if (takePlacing(child, unit_mm, placing) || !draws(child.name())) return;
        Paths more = shapeOf(child, unit_mm, depth + 1);
        if (shape.empty())
            shape = std::move(more);
        else
            std::move(more.begin(), more.end(), std::back_inserter(shape));
    });
    return placing.nothing() ? shape : placing.apply(shape);
}

Paths Primitives::standard(pugi::xml_node element, double unit_mm) {
    const std::string_view name = element.name();
    const auto length = [&](const char* attribute) {
        return std::clamp(m_source.number(element, attribute) * unit_mm, 0.0, bounds::place_mm);
    };
    const double width = length("width"), height = length("height");
    if (name == "Circle") return {plane::circle({}, length("diameter"))};
    if (name == "RectCenter") return {plane::box({}, width, height)};
    if (name == "RectCorner") {
        const BoardPoint low = m_source.point(element, "lowerLeftX", "lowerLeftY", unit_mm),
                         high = m_source.point(element, "upperRightX", "upperRightY", unit_mm);
        return {plane::box({(low.x_mm + high.x_mm) / 2, (low.y_mm + high.y_mm) / 2},
                           std::fabs(high.x_mm - low.x_mm), std::fabs(high.y_mm - low.y_mm))};
    }
    if (name == "RectRound" || name == "RectCham") {
        const bool round = name == "RectRound";
        return {corneredBox(width, height, length(round ? "radius" : "chamfer"), round,
                            {flag(element, "lowerLeft", true), flag(element, "lowerRight", true),
                             flag(element, "upperRight", true), flag(element, "upperLeft", true)})};
    }
    if (name == "Oval") return {plane::obround({}, width, height)};
    if (name == "Ellipse") return {ellipse(width, height)};
    if (name == "Hexagon") return {plane::regularPolygon({}, length("length"), 6, 0)};
    // Given by the distance between sides that lie opposite.
    constexpr double eighth_deg = 22.5, overFlats = 1.0823922002923938;
    if (name == "Octagon") return {plane::regularPolygon({}, length("length") * overFlats, 8, eighth_deg)};
    if (name == "Diamond")
        return {polygon({{-width / 2, 0}, {0, -height / 2}, {width / 2, 0}, {0, height / 2}})};
    if (name == "Triangle") {
        const double base = length("base");
        return {polygon({{-base / 2, -height / 2}, {base / 2, -height / 2}, {0, height / 2}})};
    }
    if (name == "Donut" || name == "Thermal" || name == "Moire") {
        const double outer = std::max(length("outerDiameter"), length("diameter"));
        const double inner = std::min(length("innerDiameter"), outer);
        if (name != "Donut" && !m_told[element.name()])
            m_source.warn(element, say("{name} is drawn as its outer ring", {{"name", name}}));
        m_told[element.name()] = true;
        const bool square = std::string_view(element.attribute("shape").value()) == "SQUARE";
        Path around = square ? plane::box({}, outer, outer) : plane::circle({}, outer);
        if (inner <= 0) return {around};
        return withHole(std::move(around), square ? plane::box({}, inner, inner) : plane::circle({}, inner));
    }
    if (name == "Butterfly") {
        const double size = std::max(length("diameter"), length("side")) / 2;
        return {plane::box({-size / 2, size / 2}, size, size), plane::box({size / 2, -size / 2}, size, size)};
    }
    if (!m_told[element.name()])
        m_source.warn(element, say("{name} is not a known shape: drawn as nothing", {{"name", name}}));
    m_told[element.name()] = true;
    return {};
}

std::vector<BoardPoint> Primitives::corners(pugi::xml_node path, double unit_mm) {
    std::vector<BoardPoint> points;
    constexpr std::size_t usual = 8;
    points.reserve(usual);
    forChildren(path, "", [&](pugi::xml_node step) {
        const std::string_view name = step.name();
        if (name == "PolyBegin" || name == "PolyStepSegment") {
            points.push_back(m_source.point(step, "x", "y", unit_mm));
        } else if (name == "PolyStepCurve" && !points.empty()) {
            const auto curve = plane::arcPoints(points.back(), m_source.point(step, "x", "y", unit_mm),
                                                m_source.point(step, "centerX", "centerY", unit_mm),
                                                flag(step, "clockwise", false));
            points.insert(points.end(), curve.begin(), curve.end());
        }
    });
    return points;
}

Paths Primitives::contour(pugi::xml_node element, double unit_mm) {
    Paths shape;
    const auto add = [&](pugi::xml_node path, bool hole) {
        const auto points = corners(path, unit_mm);
        if (points.size() < 3) return m_source.warn(path, say("has fewer than three corners: left out"));
        Path drawn = polygon(points);
        if (ClipperLib::Orientation(drawn) == hole) std::reverse(drawn.begin(), drawn.end());
        shape.push_back(std::move(drawn));
    };
    add(element.child("Polygon"), false);
    if (shape.empty()) return shape;
    forChildren(element, "Cutout", [&](pugi::xml_node cutout) { add(cutout, true); });
    return shape;
}

double Primitives::penOf(pugi::xml_node element, double unit_mm) {
    if (const auto here = element.child("LineDesc")) return m_source.number(here, "lineWidth") * unit_mm;
    const auto found = m_pens.find(element.child("LineDescRef").attribute("id").value());
    return found == m_pens.end() ? 0 : found->second;
}

Paths Primitives::line(pugi::xml_node element, const std::vector<BoardPoint>& points, double unit_mm) {
    constexpr double widest_mm = 500;
    const double pen_mm = penOf(element, unit_mm);
    if (points.size() < 2 || pen_mm <= 0) return {};
    if (pen_mm > widest_mm) {
        m_source.warn(element, say("is drawn by a pen wider than half a metre: left out"));
        return {};
    }
    // One piece a straight: what overlaps is united where the copper is asked for.
    Paths shape;
    Path& pen = m_penShapes[pen_mm];
    if (pen.empty()) pen = plane::circle({}, pen_mm);
    for (std::size_t i = 1; i < points.size(); ++i)
        shape.push_back(plane::sweep(pen, points[i - 1], points[i]));
    return shape;
}

plane::Placing Primitives::placingOf(pugi::xml_node element, double unit_mm) {
    plane::Placing placing;
    forChildren(element, "", [&](pugi::xml_node child) { takePlacing(child, unit_mm, placing); });
    return placing;
}

bool Primitives::takePlacing(pugi::xml_node child, double unit_mm, plane::Placing& placing) {
    const std::string_view name = child.name();
    const auto shiftBy = [&](BoardPoint by) {
        placing.shift = {placing.shift.x_mm + by.x_mm, placing.shift.y_mm + by.y_mm};
    };
    if (name == "Location") {
        shiftBy(m_source.point(child, "x", "y", unit_mm));
        return true;
    }
    if (name != "Xform") return false;
    placing.turn_deg = m_source.number(child, "rotation");
    placing.mirrorX = flag(child, "mirror", false);
    constexpr double smallest = 0.001, largest = 1000;
    placing.scale = std::clamp(m_source.number(child, "scale", 1), smallest, largest);
    shiftBy(m_source.point(child, "xOffset", "yOffset", unit_mm));
    return true;
}

} // namespace ustor::ipc2581
