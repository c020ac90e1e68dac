#pragma once
#include <vector>

#include "grid/grid.h"
#include "grid/kept_cells.h"
#include "grid/octree.h"

namespace cvane::grid {

/// The air between the facets in a cell and the next wall or plane that faces them, straight away from them.
struct AirGap {
    double width = 1e300;                             ///< [m]; 1e300 where there is none within the reach
    Vec3 from = Vec3::Zero(), across = Vec3::Zero();  ///< a point on one wall, and the way to the other
};
/// @param reach  in cells.  A sample of the cell's facets is asked.
AirGap narrowestGap(const Octree& tree, std::int32_t node, const Sizing& sizing, double reach);

/// The gaps of an octree, largest first. What counts: the wall on the other side is so near that no cell between them
/// keeps clear of both; the gap is not narrower than sizing.narrowestGap; it does not close to nothing, as beside the
/// line in which parts cross or a wheel meets the ground; air comes up to it; and the surface in it is more than
/// kLeastOfModel of the model's.
std::vector<ClosedGap> closedGaps(const Octree& tree, const KeptCells& kept, const Sizing& sizing);

constexpr double kLeastOfModel = 1e-3;

}  // namespace cvane::grid
