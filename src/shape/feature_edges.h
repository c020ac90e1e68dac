#pragma once
#include <array>
#include <vector>

#include "shape/surface.h"

namespace cvane::shape {

/// Edges where the surface turns by more than `angle` [rad], as segments [m]. Open rims are left out: a hole smaller than
/// a cell is closed by the grid, and should not be traced.
std::vector<std::array<Vec3, 2>> featureEdges(const Surface& surface, double angle);

}  // namespace cvane::shape
