#pragma once
#include <optional>

#include "shape/surface.h"

namespace cvane::shape {

/// The skin of what closed surfaces enclose together: facets that cross are cut along their crossing, and what lies
/// inside of another surface is left out. Points of the surfaces that stay keep their places to the last bit; parts
/// keep their numbers.
/// @param surface  each part closed, facing the air, not crossing itself, with points shared (weld)
/// @return nothing where a part is open, or where the surfaces lie in each other so that no cut makes one closed skin
/// Source of the method: cutting facets along the segments in which they meet, and telling the pieces by winding
/// number, as surveyed by Q. Zhou et al., ACM Trans. Graph. 35(4), 2016.
std::optional<Surface> united(const Surface& surface);

}  // namespace cvane::shape
