#pragma once

#include "board/plane/plane_shapes.h"

#include <cstddef>

namespace ustor::plane {

/// True where the edges of a closed path cross each other more often than that; edges that only touch do not.
/// What crosses itself n times is made of n pieces and more: a shape by mistake or by malice, and hours of
/// work for whoever unites it.
bool crossesItself(const Path& path, std::size_t more);

} // namespace ustor::plane
