#pragma once

#include <optional>
#include <string_view>

namespace ustor {

/// Body of a chip part before rotation: length along the axis through both ends, width across.
struct CaseSize {
    double length_mm = 0, width_mm = 0;
};

/// The body of the chip case code inside a package text ("0402", "C_0603", "cap-1206"): EIA inch codes as in
/// EIA-PDP-100 / IEC 60115 (0402 = metric 1005). Nothing when the text names none.
std::optional<CaseSize> caseSizeFromPackage(std::string_view package);

} // namespace ustor
