#pragma once
#include <functional>
#include <vector>

#include "grid/grid.h"

namespace cvane::grid {

/// The wall layers over one face of the wall.
struct WallColumn {
    FaceIndex face;
    int layers = 0;
    double thickness = 0.0;  ///< of them together [m]
    double growth = 1.0;     ///< the largest ratio of a layer's height to that of the one below
    CellIndex first = 0;     ///< the cell on the wall; those further out have the numbers before it
};

/// All columns in the order of the wall's faces. Heights are those of a layer's volume over its faces, on the wall and
/// above it.
std::vector<WallColumn> wallColumns(const Grid& grid, const Geometry& geometry);

/// How the layers stand to the boundary layer, as shares of the wall's area.
struct LayerCoverage {
    double growsGently = 1.0;  ///< no layer more than kGentleGrowth times as high as the one below
    double covered = 1.0;      ///< layers together at least kCovering of the boundary layer's thickness
    double medianShare = 0.0;  ///< their thickness over that of the boundary layer, in the middle
};
inline constexpr double kGentleGrowth = 1.305, kCovering = 0.9;

/// @param thickness  of the boundary layer at a place of the wall [m]
LayerCoverage coverageOf(const Grid& grid, const Geometry& geometry,
                         const std::function<double(const Vec3&)>& thickness);

}  // namespace cvane::grid
