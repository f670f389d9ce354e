#include "board/case_size.h"

#include <array>
#include <utility>

namespace ustor {

std::optional<CaseSize> caseSizeFromPackage(std::string_view package) {
    constexpr std::array<std::pair<std::string_view, CaseSize>, 11> sizes{{
        {"01005", {0.4, 0.2}},
        {"0201", {0.6, 0.3}},
        {"0402", {1.0, 0.5}},
        {"0603", {1.6, 0.8}},
        {"0805", {2.0, 1.25}},
        {"1206", {3.2, 1.6}},
        {"1210", {3.2, 2.5}},
        {"1812", {4.5, 3.2}},
        {"2010", {5.0, 2.5}},
        {"2512", {6.3, 3.2}},
        {"2917", {7.3, 4.3}},
    }};
    for (const auto& [code, size] : sizes)
        if (package.find(code) != std::string_view::npos) return size;
    return std::nullopt;
}

} // namespace ustor
