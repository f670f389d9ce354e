#pragma once

#include "board/ipc2581/xml_source.h"
#include "board/plane/plane_shapes.h"

#include <functional>
#include <map>
#include <string>

namespace ustor::ipc2581 {

/// Drawn shapes of a file: standard and user primitives from its dictionaries or in place, as outlines with
/// holes about their own origin, millimetres. A shape that cannot be told is told once and drawn as nothing.
class Primitives {
  public:
    explicit Primitives(XmlSource& source) : m_source(source) {}

    /// Takes the dictionaries of the Content element.
    void readDictionaries(pugi::xml_node content);
    /// What one element covers: a primitive, a reference to one, a Features group, a line, arc, polyline or
    /// contour.
    plane::Paths shapeOf(pugi::xml_node element, double unit_mm, int depth = 0);
    /// The shape that an element refers to in the dictionaries, which keep it; nullptr for what is no
    /// reference.
    const plane::Paths* known(pugi::xml_node element, int depth = 0);
    /// True when an element is something that `shapeOf` draws.
    static bool draws(std::string_view name);
    /// Corners of a Polygon or Polyline with its arcs drawn out.
    std::vector<BoardPoint> corners(pugi::xml_node path, double unit_mm);
    /// Turn, mirror, scale and shift of the Xform and the Location inside an element.
    plane::Placing placingOf(pugi::xml_node element, double unit_mm);
    /// Adds what one child says to a placing; false for a child that is neither Xform nor Location.
    bool takePlacing(pugi::xml_node child, double unit_mm, plane::Placing& placing);

  private:
    struct Entry {
        pugi::xml_node node;
        double unit_mm = 1;
        bool drawn = false;
        plane::Paths shape;
    };
    using Dictionary = std::map<std::string, Entry, std::less<>>;
    const plane::Paths& referenced(pugi::xml_node element, Dictionary& dictionary, int depth);
    plane::Paths standard(pugi::xml_node element, double unit_mm);
    plane::Paths contour(pugi::xml_node element, double unit_mm);
    plane::Paths line(pugi::xml_node element, const std::vector<BoardPoint>& points, double unit_mm);
    plane::Paths group(pugi::xml_node element, double unit_mm, int depth);
    double penOf(pugi::xml_node element, double unit_mm);

    XmlSource& m_source;
    Dictionary m_standard, m_user;
    std::map<std::string, double> m_pens;      ///< line descriptions, millimetres
    std::map<double, plane::Path> m_penShapes; ///< round pens by their width, drawn once
    std::map<std::string, bool> m_told;
};

} // namespace ustor::ipc2581
