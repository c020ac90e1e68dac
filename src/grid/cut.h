#pragma once
#include <vector>

#include "grid/grid.h"

namespace cvane::grid {

/// The polygons in which a plane cuts the cells.
struct Cut {
    std::vector<Vec3> points;
    std::vector<std::int32_t> start{0};  ///< polygons + 1 entries into points
    std::vector<CellIndex> cell;         ///< one a polygon
};

/// Plane through `origin` with normal along an axis (0, 1, 2). Cells that it only touches are left out.
Cut cutAlongAxis(const Grid& grid, int axis, double position);

}  // namespace cvane::grid
