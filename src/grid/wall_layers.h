#pragma once
#include <functional>
#include <span>
#include <vector>

#include "grid/wall_projection.h"

namespace cvane::grid {

/// What the columns between staircase and wall are cut into.
struct Layers {
    int count = 3;
    double first = 0.0;  ///< height of the cell on the wall [m]
};

/// Heights from the wall on [m] that together fill `gap`: they start with `first` and grow by a constant ratio. Where the gap
/// has no room for n cells of the first height all are equal.
std::vector<double> layerHeights(double gap, double first, int n);

/// Points of the columns behind the wall points: `layers.count` for each, the last on the wall.
/// @param onWall   where the columns end, one a wall point
/// @param moved    positions of the staircase points
/// @param columns  out: layers.count * wall.point.size()
void cutColumns(std::span<const Vec3> onWall, const WallImage& wall, const std::vector<Vec3>& moved, const Layers& layers, std::span<Vec3> columns);

/// Joins the staircase to the wall by columns of cells and assembles the grid. Its points are those of `moved`, then
/// those of cutColumns.
/// @param partAt  part of the model at a point of the wall
Grid addWallLayers(const Staircase& stairs, const WallImage& wall, const std::vector<Vec3>& moved, const Layers& layers,
                   const std::vector<std::string>& parts, const std::function<int(const Vec3&)>& partAt,
                   std::span<const std::uint8_t> levelOfCell);

}  // namespace cvane::grid
