#pragma once
#include <vector>

#include "grid/grid.h"
#include "grid/kept_cells.h"

namespace cvane::grid {

/// The kept octree cells as polyhedra. Their sides towards the gap around the model form the staircase.
struct Staircase {
    static constexpr int kGap = 6;             ///< patch number of the staircase; 0..5 are the tunnel's sides
    std::vector<Vec3> points;
    std::vector<std::uint8_t> sidesOf;         ///< per point: bit s set when it lies on tunnel side s
    std::vector<FaceDraft> faces;
    std::vector<double> cellSize;              ///< per cell: smallest edge [m]
};

Staircase makeStaircase(const Octree& tree, const KeptCells& kept);

}  // namespace cvane::grid
