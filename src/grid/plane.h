#pragma once
#include <Eigen/Core>
#include <array>
#include <functional>
#include <vector>

#include "grid/grid.h"

namespace cvane::grid {

/// Cells of a plane, x and z: quadrangles over points [m]. Neighbours share their points' numbers.
struct PlaneCells {
    std::vector<Eigen::Vector2d> points;
    std::vector<std::array<int, 4>> quads;
};

/// The grid of these cells, one cell along y from 0 to `width` [m] between the sides y- and y+. Wall distances are
/// measured. @param patch  of a boundary edge, by its two points. Throws InputError: a cell that is folded.
Grid planeGrid(const PlaneCells& cells, double width, const std::function<Patch(int a, int b)>& patch);

}  // namespace cvane::grid
