#pragma once

#include "board/ipc2581/xml_source.h"
#include "board/plane/plane_shapes.h"

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
    /// True when an element is something that `shapeOf` draws.
    static bool draws(std::string_view name);
    /// Corners of a Polygon or Polyline with its arcs drawn out.
    std::vector<BoardPoint> corners(pugi::xml_node path, double unit_mm);
    /// Turn, mirror, scale and shift of the Xform and the Location inside an element.
    plane::Placing placingOf(pugi::xml_node element, double unit_mm);

  private:
    struct Entry {
        pugi::xml_node node;
        double unit_mm = 1;
        bool drawn = false;
        plane::Paths shape;
    };
    plane::Paths referenced(pugi::xml_node element, std::map<std::string, Entry>& dictionary, int depth);
    plane::Paths standard(pugi::xml_node element, double unit_mm);
    plane::Paths contour(pugi::xml_node element, double unit_mm);
    plane::Paths line(pugi::xml_node element, const std::vector<BoardPoint>& points, double unit_mm);
    plane::Paths group(pugi::xml_node element, double unit_mm, int depth);
    double penOf(pugi::xml_node element, double unit_mm);

    XmlSource& m_source;
    std::map<std::string, Entry> m_standard, m_user;
    std::map<std::string, double> m_pens;
    std::map<double, plane::Path>
        m_penShapes; ///< round pens by their width, drawn once ///< line descriptions, millimetres
    std::map<std::string, bool> m_told;
};

} // namespace ustor::ipc2581
