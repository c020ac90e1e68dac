#pragma once
#include "grid/grid.h"
#include "shape/surface.h"

namespace cvane::grid {

/// The whole grid of a model that is its own mirror image in y = 0: the grid of its starboard half, and behind those
/// cells their images, in the same order. What lies in y = 0 joins the two. Wall faces at port belong to the part that
/// the model has there.
/// @param half     built of the half model;  @param surface  the parts in the air, which `half` numbers
Grid mirrored(const Grid& half, const shape::Surface& surface);

}  // namespace cvane::grid
