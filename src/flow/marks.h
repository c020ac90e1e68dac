#pragma once
#include <vector>

#include "flow/cloud.h"
#include "grid/build.h"

namespace cvane::flow {

/// How much each cell of a grid would gain by being halved: the change of pressure across it over the dynamic pressure,
/// or the vorticity times its size over the wind's speed, whichever is more; 0 in wall layers, whose thickness is not
/// the octree's. A change across a cell falls with its size, so that strong features do not take all cells from weak
/// ones (G. P. Warren, W. K. Anderson, J. L. Thomas, S. L. Krist, AIAA 91-1592, 1991). @param flow  of the whole grid,
/// in its order
std::vector<double> refinementWeights(const FlowCloud& flow, const grid::Grid& grid, const grid::Geometry& geometry,
                                      double speed);

/// The cells with the largest weights first; those of no weight are left out.
grid::Marks marksOf(const std::vector<double>& weights, const grid::Geometry& geometry, int firstBudget);

}  // namespace cvane::flow
