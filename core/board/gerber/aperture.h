#pragma once

#include "base/message.h"
#include "board/plane/plane_shapes.h"

#include <map>
#include <optional>
#include <string>
#include <string_view>

namespace ustor::gerber {

using namespace plane;

/// What the pen of a Gerber file looks like, about the origin.
struct Aperture {
    Paths shape;
    double round_mm = 0;  ///< diameter of a plain circle; 0 for all other shapes
    bool convex = false;  ///< without holes and notches: may be drawn with
    std::string function; ///< the X2 attribute .AperFunction, empty without one
};

/// A template of the AM command: shapes whose measures are formulas of `$1`, `$2` ...
class Macro {
  public:
    /// `body`: the blocks between the name and the closing per cent sign, each ended by a star.
    explicit Macro(std::string body) : m_body(std::move(body)) {}
    /// Nothing, and why in `trouble`, when a formula or a primitive cannot be read.
    std::optional<Paths> shape(const std::vector<double>& parameters, double unit_mm, Message& trouble) const;

  private:
    std::string m_body;
};

/// The aperture of an AD command: "C,0.5", "R,1X0.5X0.2", "O,..", "P,..", or a macro's name with its values.
/// `unit_mm`: millimetres in one unit of the file. Nothing, and why in `trouble`, when it cannot be made.
std::optional<Aperture> apertureFrom(std::string_view definition, double unit_mm,
                                     const std::map<std::string, Macro>& macros, Message& trouble);

} // namespace ustor::gerber
