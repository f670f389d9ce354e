#pragma once

#include "board/ipc2581/primitives.h"

#include <functional>
#include <map>
#include <string>
#include <string_view>
#include <vector>

namespace ustor::ipc2581 {

struct Pin {
    std::string name;
    BoardPoint at; ///< in the package's frame
    double width_mm = 0, height_mm = 0;
    bool through = false, surface = false; ///< where the file says so
};

struct Package {
    std::vector<Pin> pins;
    double width_mm = 0, height_mm = 0; ///< of the outline's box
    BoardPoint middle;                  ///< of the outline's box, in the package's frame
};

/// The packages of a step by name.
class Packages {
  public:
    void read(pugi::xml_node step, Primitives& shapes, XmlSource& source, double unit_mm);
    const Package* find(std::string_view name) const; ///< nullptr where there is none

  private:
    std::map<std::string, Package, std::less<>> m_packages;
};

/// Stacks of pads by name: revision B calls them PadStack, later files PadStackDef.
class PadStacks {
  public:
    void read(pugi::xml_node step, Primitives& shapes, XmlSource& source, double unit_mm);
    /// The pad on a layer; nothing where the stack has none there.
    const plane::Paths& pad(std::string_view stack, const std::string& layer) const;
    double hole_mm(std::string_view stack) const; ///< of a plated hole; 0 without one

  private:
    struct Stack {
        std::map<std::string, plane::Paths> pads; ///< by layer
        double hole_mm = 0;
    };
    std::map<std::string, Stack, std::less<>> m_stacks;
};

} // namespace ustor::ipc2581
