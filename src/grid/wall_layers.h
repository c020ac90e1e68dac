#pragma once
#include <functional>
#include <span>
#include <vector>

#include "grid/wall_projection.h"

namespace cvane::grid {

/// Fractions t_0 = 0 (staircase) .. t_n = 1 (wall) at which a column of height `gap` is cut so that the cell on the wall
/// is `first` high and the others grow by a constant ratio away from it. Where the gap has no room for n cells of that
/// height they are all equal.
std::vector<double> layerFractions(double gap, double first, int n);

/// Points of the columns behind the wall points: `layers` for each, the last on the wall.
/// @param onWall   where the columns end, one a wall point
/// @param moved    positions of the staircase points
/// @param columns  out: layers * wall.point.size()
void cutColumns(std::span<const Vec3> onWall, const WallImage& wall, const std::vector<Vec3>& moved, double firstHeight, int layers, std::span<Vec3> columns);

/// Joins the staircase to the wall by columns of `layers` cells and assembles the grid. Its points are those of `moved`, then
/// those of cutColumns.
/// @param partAt  part of the model at a point of the wall
Grid addWallLayers(const Staircase& stairs, const WallImage& wall, const std::vector<Vec3>& moved, double firstHeight, int layers,
                   const std::vector<std::string>& parts, const std::function<int(const Vec3&)>& partAt,
                   std::span<const std::uint8_t> levelOfCell);

}  // namespace cvane::grid
