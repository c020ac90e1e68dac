#pragma once
#include <array>
#include <vector>

#include "grid/grid.h"
#include "grid/kept_cells.h"

namespace cvane::grid {

/// The kept octree cells as polyhedra. Their sides towards the gap around the model form the staircase.
struct Staircase {
    static constexpr int kGap = 6;  ///< patch number of the staircase; 0..5 are the tunnel's sides
    std::vector<Vec3> points;
    std::vector<std::uint8_t> sidesOf;  ///< per point: bit s set when it lies on tunnel side s
    std::vector<FaceDraft> faces;
    std::vector<double> cellSize;                    ///< per cell: smallest edge [m]
    std::vector<std::array<PointIndex, 8>> corners;  ///< per cell, x fastest
    std::vector<std::array<PointIndex, 4>>
        gapCorners;  ///< per face towards the gap, in order of `faces`: without hanging points
    struct Hanging {
        PointIndex point, a, b;  ///< `point` lies half-way between a and b, on an edge or side of a larger cell
    };
    std::vector<Hanging> hanging;
    std::vector<const FaceDraft*> gapFaces() const;  ///< in order of `faces`, as gapCorners
};

Staircase makeStaircase(const Octree& tree, const KeptCells& kept);

}  // namespace cvane::grid
