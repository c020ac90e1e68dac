#pragma once
#include <array>
#include <optional>
#include <vector>

#include "grid/build.h"
#include "grid/kept_cells.h"
#include "grid/limits.h"
#include "grid/octree.h"
#include "grid/sealed_model.h"

namespace cvane::grid {

/// Thickness of the wall layers together, in cells: more than the mean distance of a staircase with its clearance, so
/// that the outer cells next to them are the smaller for it. Larkspur's CD on 208,000, 250,000 and a million cells:
/// 0.0625, 0.0605 at 1.1 and 0.0646, 0.0642 at 1.5 against 0.0608 on the million. At 1.7 layers cover the boundary
/// layer on a tenth of the wall more, friction stays within 1 %, and Cp rises above 1 where blunt edges face the wind.
constexpr double kGap = 1.3;

using LayersByLevel = std::array<std::uint8_t, 32>;

/// Which cells a grid will have, before any of them is moved.
struct Draft {
    Octree tree;
    KeptCells kept;
    std::optional<std::vector<Leak>> leaks;  ///< that stay open; empty while closing some has left others to look for
    Sizing sizing;                           ///< with which its octree was refined
    std::size_t cells;                       ///< with those of the wall layers
    double openingCells = 0.0;               ///< that opening all gaps would have added
    double size;                             ///< cell size on the model [m]
    LayersByLevel layers;                    ///< wall layers of a column by the level of its cells
    double first;                            ///< wall layer height asked for [m]
};

/// The first grid's draft with the cells halved that its marks ask for, as many as the budget allows.
/// As draftNearBudget otherwise.
Draft draftWithMarks(SealedModel& solid, const Box& model, const Box& box, const Tunnel& tunnel,
                     const GridSettings& settings, const base::Progress& progress);

/// The cell size on the model with which the grid has about as many cells as the budget; leaks up to the seal width are
/// closed on the way.
/// @param model, box  of the model and of the tunnel [m]
/// Throws InputError where no size fits; base::Cancelled.
Draft draftNearBudget(SealedModel& solid, const Box& model, const Box& box, const Tunnel& tunnel,
                      const GridSettings& settings, const base::Progress& progress);

}  // namespace cvane::grid
