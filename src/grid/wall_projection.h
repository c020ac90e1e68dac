#pragma once
#include <span>
#include <vector>

#include "base/progress.h"
#include "grid/staircase.h"
#include "shape/triangle_tree.h"

namespace cvane::grid {

/// The staircase's points and their images on the model.
struct WallImage {
    std::vector<PointIndex> point;            ///< staircase point of each wall point
    std::vector<std::int32_t> wallOf;         ///< per staircase point: wall point, or -1
    std::vector<Vec3> onWall;                 ///< image on the model
    std::vector<Vec3> normal;                 ///< unit direction from the wall into the air
    std::vector<Vec3> inwards;                ///< unit mean normal of the staircase, from the air towards the model
    std::vector<double> size;                 ///< local cell size [m], smoothed over level steps
    std::vector<std::vector<std::int32_t>> ring;  ///< neighbours along edges of the staircase
};

/// Finds the images: nearest point of the model, evened out along the surface, drawn to sharp edges, and kept in the
/// tunnel sides (ground, symmetry plane) in which the staircase point lies.
WallImage projectToWall(const Staircase& stairs, const shape::TriangleTree& surface, const shape::TriangleTree& sharpEdges,
                        const Box& tunnel, const base::Progress& progress);

/// Moves the staircase to a smooth offset of the wall, `offset` cell sizes away from it, and lets the cells around follow.
/// `trust` (per wall point, 0..1): how far each point goes that way; 0 leaves it where it was.
/// @return new positions of all staircase points.
std::vector<Vec3> moveToOffset(const Staircase& stairs, const WallImage& wall, double offset, std::span<const double> trust);

}  // namespace cvane::grid
