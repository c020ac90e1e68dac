#pragma once
#include <cstddef>

#include "base/progress.h"
#include "grid/curve_paths.h"
#include "grid/wall_projection.h"

namespace cvane::grid {

/// Moves staircase points and their wall images until cells are as near to cubes as the model allows, with no corner
/// turned inside out. Wall points slide on the model, those of `paths` along their curves; points in tunnel sides stay in
/// them. Between staircase and wall stands one thick cell, as high as the wall layers together (`height` cell sizes).
///
/// Minimised over all corners with edge vectors e1, e2, e3 (scaled by the cell's size, the thick cell's height by its own):
///   sum (|e1|^2 + |e2|^2 + |e3|^2)^(3/2) / chi(det),  chi(d) = (d + sqrt(d^2 + 4 eps^2)) / 2,  eps -> 0,
/// point after point by Newton steps on the convex part of the second derivative. Sources: the mean ratio of a corner,
/// P. Knupp, SIAM J. Sci. Comput. 23, 2001; chi for inverted corners, J. M. Escobar et al., Comput. Methods Appl. Mech.
/// Eng. 192, 2003. At the end the square of the measure is taken instead, for the sake of the worst corners.
///
/// @param points  staircase points, in and out
/// @param wall    onWall in and out
/// @return corners that could not be opened: still flat or inside out
std::size_t shapeCells(const Staircase& stairs, const shape::TriangleTree& model, CurvePaths& paths, const Box& air, double height,
                        std::vector<Vec3>& points, WallImage& wall, const base::Progress& progress);

}  // namespace cvane::grid
