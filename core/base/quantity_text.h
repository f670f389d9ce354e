#pragma once

#include <optional>
#include <string>
#include <string_view>

namespace ustor {

/// Reads a number with an engineering prefix as technicians write it: "4m", "1k2", "4R7", "0,35", "3.3 V",
/// "2V5". A unit at the end (V, A, W, Ω, R, ohm, ohms) is allowed and ignored. Nothing when it is not a
/// quantity.
std::optional<double> quantityFromText(std::string_view text);

/// Three significant digits with a prefix where it helps the eye: "0.412 A", "63 Ω", "1.20 kΩ", "12 mK", "4.0
/// mΩ". Volts keep the decimal form that meters show: "0.004 V".
std::string quantityText(double value, std::string_view unit);

} // namespace ustor
