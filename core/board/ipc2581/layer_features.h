#pragma once

#include "board/board.h"
#include "board/board_builder.h"
#include "board/ipc2581/packages.h"
#include "board/ipc2581/pin_notes.h"
#include "board/ipc2581/primitives.h"

#include <span>
#include <string_view>
#include <unordered_map>
#include <utility>
#include <vector>

namespace ustor::ipc2581 {

/// What a run of a layer's sets draws. Nets are the board's, as far as it knew them at the start; others have
/// numbers of the run's own, from `firstNew` down.
struct LayerFeatures {
    static constexpr NetIndex firstNew = -2;
    /// A shape that takes away what was drawn before it.
    struct Cut {
        std::size_t after = 0; ///< pieces of this run that were drawn before
        CopperPiece shape;
    };
    struct Hole {
        BoardPoint at;
        double diameter_mm = 0;
        NetIndex net = -1;
    };
    struct PinPad {
        std::string_view part, pin; ///< views into the file's XML
        DrawnPad pad;
    };
    std::vector<std::string_view> newNets;
    std::vector<CopperPiece> copper;
    std::vector<Cut> cuts;
    std::vector<std::pair<BoardPoint, NetIndex>> pads;
    std::vector<PinPad> pinPads; ///< pads that name their pin
    std::vector<Hole> holes;     ///< plated; one may be told more than once
    std::vector<BoardWarning> warnings;
};

/// Reads sets of one layer. Shares nothing that changes with others of its kind.
class LayerReader {
  public:
    /// `copper` is the layer's index among the copper layers, -1 for others; `name` that copper layer's name.
    LayerReader(const XmlSource& source, const PadStacks& stacks, const BoardBuilder& names, int copper,
                std::string name, double unit_mm);
    LayerFeatures read(pugi::xml_node content, std::span<const pugi::xml_node> sets);

  private:
    void readSet(pugi::xml_node set);
    void draw(const plane::Paths& shape, const plane::Placing& placing, NetIndex net, bool dark);
    void addSlot(pugi::xml_node slot, NetIndex net);
    void addPad(pugi::xml_node pad, NetIndex net, bool dark);
    NetIndex netOf(std::string_view name);

    XmlSource m_source;
    Primitives m_shapes;
    const PadStacks& m_stacks;
    const BoardBuilder& m_names;
    int m_copper;
    std::string m_name;
    double m_unit_mm;
    LayerFeatures m_features;
    std::unordered_map<std::string_view, NetIndex> m_newNets;
};

} // namespace ustor::ipc2581
