#pragma once
#include "shape/surface.h"

namespace cvane::shape {

/// What lies beyond a plane: facets that cross it are cut along it. Parts keep their numbers.
/// @param axis  0, 1, 2: the plane's normal x, y, z;  @param at  its place [m]; what has that coordinate or more is
/// kept
Surface beyondPlane(const Surface& surface, int axis, double at);

}  // namespace cvane::shape
