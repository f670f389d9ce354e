#pragma once

#include "board/board.h"
#include "board/ipc2581/xml_source.h"

#include <map>
#include <string>
#include <vector>

namespace ustor::ipc2581 {

/// The layers of a file: which are copper, from top to bottom, and which side the others lie on.
class Layers {
  public:
    /// Reads the Layer and Stackup elements of CadData.
    Layers(pugi::xml_node cadData, XmlSource& source, double unit_mm);

    struct Copper {
        std::string name;
        double thickness_mm = 0; ///< 0 where the stack-up does not say
    };
    const std::vector<Copper>& copper() const { return m_copper; }
    /// Index among the copper layers; -1 for others.
    int copperIndex(const std::string& name) const;
    /// Side of any layer; top for one that names none.
    Side sideOf(const std::string& name) const;
    double thickness_mm() const { return m_thickness_mm; } ///< of the whole board; 0 where it is not said

  private:
    struct Layer {
        std::string function, side;
        int order = 0;
    };
    void orderByStackup(pugi::xml_node stackup, XmlSource& source, double unit_mm);

    std::map<std::string, Layer> m_layers;
    std::vector<Copper> m_copper;
    std::map<std::string, int> m_index;
    double m_thickness_mm = 0;
};

} // namespace ustor::ipc2581
