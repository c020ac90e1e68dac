#pragma once
#include <array>
#include <vector>

#include "grid/grid.h"
#include "grid/octree.h"

namespace cvane::grid {

/// A box of nx x ny x nz equal cells without a model, for verification.
Grid brick(const Box& box, const std::array<int, 3>& cells);

/// The same with regions refined by octree levels: hanging nodes at their rims.
Grid refinedBrick(const Box& box, const std::array<int, 3>& roots, const std::vector<Sizing::Region>& regions);

}  // namespace cvane::grid
