#pragma once
#include <functional>
#include <span>
#include <vector>

#include "grid/staircase.h"
#include "grid/tunnel_sides.h"
#include "shape/triangle_tree.h"

namespace cvane::grid {

/// The staircase's points and their images on the model.
struct WallImage {
    std::vector<PointIndex> point;                ///< staircase point of each wall point
    std::vector<std::int32_t> wallOf;             ///< per staircase point: wall point, or -1
    std::vector<Vec3> onWall;                     ///< image on the model
    std::vector<Vec3> normal;                     ///< unit direction from the wall into the air
    std::vector<Vec3> inwards;                    ///< unit mean normal of the staircase, from the air towards the model
    std::vector<double> size;                     ///< local cell size [m], smoothed over level steps
    std::vector<std::vector<std::int32_t>> ring;  ///< neighbours along edges of the staircase
};

/// A point of the model that lies in these tunnel sides too, near p; nearest to p where there are none. Where the sides
/// do not meet the model nearby: the place in them that comes closest.  @param within  [m] the model is looked for no
/// farther away
/// @param near  a facet that is likely to be the nearest, or -1
/// @return the place, the facet nearest to it, and how far away that is
shape::TriangleTree::Nearest onModelInSides(const shape::TriangleTree& model, const Vec3& p, Sides sides,
                                            const Box& tunnel, double within = 1e300, std::int32_t near = -1);

/// Visits 0 .. n-1 with all threads, in runs of one thread each; `visit(i, near)` returns the facet nearest to i, a
/// good guess for the next one. The runs are the same for any number of threads, and so is the outcome.
void overNeighbours(std::size_t n, const std::function<std::int32_t(std::size_t, std::int32_t)>& visit);

/// Finds the images: nearest point of the model, kept in the tunnel sides (ground, symmetry plane) in which the
/// staircase point lies. Normals are not set yet.
WallImage projectToWall(const Staircase& stairs, const shape::TriangleTree& surface, const Box& tunnel);

/// Evens the images out along the surface; those marked `held` stay.
void evenOut(const Staircase& stairs, const shape::TriangleTree& surface, const Box& tunnel, std::span<const char> held,
             int sweeps, WallImage& wall);

/// Sets normal and inwards from the images as they lie.
void findNormals(const Staircase& stairs, WallImage& wall);

/// Moves the staircase to a smooth offset of the wall, `offset` cell sizes away from it, and lets the cells around
/// follow.
/// @return new positions of all staircase points.
std::vector<Vec3> moveToOffset(const Staircase& stairs, const WallImage& wall, double offset);

}  // namespace cvane::grid
