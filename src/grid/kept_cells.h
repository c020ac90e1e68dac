#pragma once
#include <array>
#include <functional>
#include <vector>

#include "grid/octree.h"
#include "shape/triangle_tree.h"

namespace cvane::grid {

/// The leaves that stay as cells of the grid: reached by the air from the inlet, not crossed by the surface, clear of
/// it by `clearance` of their own size, and meeting the gap around the model in a surface that is a manifold at every
/// corner.
struct KeptCells {
    std::vector<std::int32_t> leaves;               ///< octree node of each kept cell, along the Morton curve
    std::vector<std::int32_t> cellOf;               ///< per octree node: kept cell number, or -1
    std::size_t gapFaces = 0;                       ///< cell sides towards the gap, that is columns of wall layers
    std::array<std::size_t, 32> gapFacesOfLevel{};  ///< by the finer of the two levels that meet there
};

/// Leaves that can be reached from the inlet through leaves for which `open` holds (asked by several threads at once):
/// ascending, or nearest first if the way is asked for.
/// @param from  out, if given: per octree node, the leaf from which it was reached; -1 at the inlet
std::vector<std::int32_t> reachedFromInlet(const Octree& tree, const std::function<bool(std::int32_t)>& open,
                                           std::vector<std::int32_t>* from = nullptr);

KeptCells keepCells(const Octree& tree, const shape::TriangleTree& surface, double clearance);

}  // namespace cvane::grid
