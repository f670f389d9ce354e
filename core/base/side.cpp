#include "base/side.h"

namespace ustor {

std::string_view wordOf(Side side) {
    return side == Side::Top ? "top" : "bottom";
}
Message labelOf(Side side) {
    return side == Side::Top ? say("top") : say("bottom");
}
Side otherSide(Side side) {
    return side == Side::Top ? Side::Bottom : Side::Top;
}

} // namespace ustor
