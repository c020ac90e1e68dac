#pragma once
#include <array>
#include <span>
#include <vector>

#include "grid/grid.h"
#include "grid/octree.h"
#include "shape/triangle_tree.h"

namespace cvane::grid {

/// A leak with facets that would close it, facing the air outside.
struct Opening {
    Leak leak;
    std::vector<std::array<Vec3, 3>> seal;
};

struct Openings {
    std::vector<Opening> list;  ///< widest first
    std::vector<Vec3> inside;   ///< middles of the cells inside that the air has got into [m]
};

/// Openings between the cells that air from the inlet reaches outside the model and those that it reaches inside.
/// Inside is where the surface closes around the cell's centre (winding number above one half); air counts as having
/// got in where the number rises above 0.8, so that an open bowl or a thin sheet is no leak.
/// @param surface  the facets that the octree knows
/// @param solid    facets for the winding number: those, with their mirror image where there is a mirror plane
/// @param before   `inside` of an octree of the same cells before facets were added to the surface: where none of it is
/// reached any more there is no opening, and no winding number is asked for. Empty: not known
Openings findOpenings(const Octree& tree, const shape::TriangleTree& surface, const shape::TriangleTree& solid,
                      std::span<const Vec3> before = {});

}  // namespace cvane::grid
