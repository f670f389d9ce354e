#pragma once

#include <map>
#include <string>
#include <string_view>

namespace ustor::gerber {

enum class LayerKind { Copper, Profile, Drill, Other };

/// What a layer's file is for.
struct LayerRole {
    LayerKind kind = LayerKind::Other;
    int number = 0;      ///< of a copper layer, 1 the top; 0 where it is not said
    bool bottom = false; ///< the last copper layer, where only that is known
};

/// From the X2 attribute FileFunction; else from the ending and the words of the file's name as boards
/// usually come (common practice: .gtl, .gbl, .g1, .gko; "top copper", "F_Cu", "inner2", "outline").
LayerRole roleOf(const std::map<std::string, std::string>& attributes, std::string_view fileName);

} // namespace ustor::gerber
