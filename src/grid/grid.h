#pragma once
#include <boost/container/small_vector.hpp>
#include <cstdint>
#include <span>
#include <string>
#include <vector>

#include "base/vec3.h"

namespace cvane::grid {

using PointIndex = std::int32_t;
using FaceIndex = std::int32_t;
using CellIndex = std::int32_t;  ///< in the whole grid

enum class PatchKind { Wall, Side };

/// A named group of boundary faces, contiguous in the face list.
struct Patch {
    std::string name;  ///< part name for walls; "x-", "x+", "y-", "y+", "z-", "z+" for the tunnel's sides
    PatchKind kind = PatchKind::Wall;
    int part = -1;  ///< walls: part number of the model
    int side = -1;  ///< sides: a TunnelSide
    FaceIndex first = 0, count = 0;
};

/// A place where air gets into the model through a hole or gap wider than a cell.
struct Leak {
    Vec3 place = Vec3::Zero();  ///< middle of the opening [m]
    double width = 0.0;         ///< root of the opening's area [m]
    bool sealed = false;        ///< closed by facets of our own
    std::vector<Vec3> path;     ///< from the air outside through the opening into the model [m]
};

/// A gap that the air should pass through and that has no cells of the grid in it.
struct ClosedGap {
    Vec3 place = Vec3::Zero();  ///< a point in it [m]
    double width = 0.0;         ///< mean [m]
    double area = 0.0;          ///< of the model's surface that looks into it [m2]
    double cells = 0.0;         ///< about what opening it takes: four cells across, and those that lead up to them
};

/// How near the points of the wall are to the model.
struct WallFit {
    double shareOn = 1.0;       ///< of the wall's points: within 1 % of the cells there
    double meanOff = 0.0;       ///< mean over the wall's points: distance in sizes of the cells there
    double shareFar = 0.0;      ///< of the wall's points: farther than a cell
    double farthest = 0.0;      ///< [m]
    Vec3 place = Vec3::Zero();  ///< of that point [m]
};

/// Cells as general polyhedra given by faces. Internal faces come first, ordered by owner; then the patches.
/// Face polygons turn right-handed about the normal, which points from owner to neighbour (outward at the boundary).
struct Grid {
    std::vector<Vec3> points;             ///< [m]
    std::vector<std::int64_t> faceStart;  ///< faces + 1 entries into facePoints
    std::vector<PointIndex> facePoints;
    std::vector<CellIndex> owner;      ///< every face
    std::vector<CellIndex> neighbour;  ///< internal faces only
    std::vector<Patch> patches;
    std::vector<double> wallDistance;  ///< per cell centre to the model [m]; 1e30 without a model
    std::vector<std::uint8_t> level;   ///< per cell: octree level of the cell or of the cell its layer grew from
    std::vector<std::uint8_t> layer;   ///< per cell: 0 outer cell, 1.. wall layers counted from the wall
    double surfaceCell = 0.0;          ///< cell size on the model before curvature refinement [m]
    double firstHeight = 0.0;          ///< wall layer height asked for [m]
    WallFit fit;                       ///< as built; not part of the grid's file
    std::vector<Leak> leaks;           ///< found while building; not part of the grid's file
    std::vector<ClosedGap> gaps;       ///< that stay filled; not part of the grid's file
    std::string notes;                 ///< what the builder had to do, in words

    CellIndex cells() const { return cellCount; }
    FaceIndex faces() const { return static_cast<FaceIndex>(owner.size()); }
    FaceIndex internalFaces() const { return static_cast<FaceIndex>(neighbour.size()); }
    std::span<const PointIndex> polygon(FaceIndex f) const {
        const auto a = static_cast<std::size_t>(faceStart[static_cast<std::size_t>(f)]);
        const auto b = static_cast<std::size_t>(faceStart[static_cast<std::size_t>(f) + 1]);
        return {facePoints.data() + a, b - a};
    }
    CellIndex cellCount = 0;
};

/// Areas, centres and volumes of a grid; SI.
struct Geometry {
    std::vector<Vec3> faceArea;  ///< S: area times unit normal
    std::vector<Vec3> faceCentre;
    std::vector<Vec3> cellCentre;
    std::vector<double> volume;
};

/// Faces are split into triangles about their mean point, cells into pyramids about the mean of their face centres, so
/// that volumes of closed polyhedra are exact whatever the split.
Geometry geometryOf(const Grid& grid);
/// The faces alone.
Geometry measuredFaces(const Grid& grid);
/// Behind that, the first so many cells: for who has all faces of these, and of others some.
void measureFirstCells(const Grid& grid, std::size_t cells, Geometry& geometry);

/// Brings the geometry of a grid up to date after some of its points have moved; the same bits as geometryOf.
/// @param before  points as they were when `geometry` was right
void updateGeometry(const Grid& grid, std::span<const Vec3> before, Geometry& geometry);

/// One loose face before the final order is made.
struct FaceDraft {
    boost::container::small_vector<PointIndex, 8>
        points;  ///< a quadrangle with a hanging point on every edge needs no memory of its own
    CellIndex owner = -1, neighbour = -1;
    int patch = -1;
};

/// Orders faces (owner below neighbour, ascending), fills the grid's face arrays and the patches' ranges.
/// `patches` holds names and kinds; empty ones are dropped.
void assemble(Grid& grid, std::vector<FaceDraft>&& faces, std::vector<Patch> patches);

/// Takes out the points that are corners of no face. The others keep their order.
void dropLoosePoints(Grid& grid);

}  // namespace cvane::grid
