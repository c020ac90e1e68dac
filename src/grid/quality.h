#pragma once
#include <array>
#include <string>
#include <vector>

#include "grid/grid.h"
#include "shape/triangle_tree.h"

namespace cvane::grid {

/// How good a grid is for the solver.
struct Quality {
    double worstNonOrthogonality_deg = 0;  ///< angle between a face's normal and the line of its two cell centres
    double meanNonOrthogonality_deg = 0;
    double shareAbove65 = 0;           ///< beyond kOblique_deg, of internal faces
    double worstSkewness = 0;          ///< distance of that line from the face's centre over its length
    double worstVolumeRatio = 0;       ///< between neighbours
    double medianTransition = 0;       ///< volume of an outer cell over that of the last layer cell next to it
    double shareTransitionBelow3 = 1;  ///< of the area where layers end: that ratio, or its inverse, below 3
    double smallestVolume = 0;         ///< [m3]
    double worstOpenness = 0;          ///< |sum S| / sum |S| of a cell
    std::size_t negativeCells = 0;
    std::size_t foldedCells = 0;  ///< those, and cells with a face that looks the wrong way
    std::size_t wallFaces = 0;
    double wettedArea = 0;            ///< [m2]
    double medianFirstHeight = 0;     ///< [m]
    double shareNearFirstHeight = 0;  ///< of the wall area: first height within half of that asked
    double worstPlanarity = 0;        ///< distance of a face's points from its plane over the root of its area
    std::array<std::size_t, 10>
        histogram{};                 ///< internal faces by non-orthogonality, ten degrees each; the last holds the rest
    Vec3 worstPlace = Vec3::Zero();  ///< of the worst non-orthogonality
    std::string verdict() const;
};

Quality qualityOf(const Grid& grid, const Geometry& geometry);

/// Non-orthogonality [deg] of each internal face.
std::vector<double> faceAngles(const Grid& grid, const Geometry& geometry);

/// The worst non-orthogonality [deg] among the faces of each cell.
std::vector<double> worstAngles(const Grid& grid, const Geometry& geometry);

/// Cells with no positive volume or a face that looks the wrong way.
std::vector<CellIndex> foldedCells(const Grid& grid, const Geometry& geometry);

/// How well the wall lies on the model: each of its points against the smallest wall face that it is a corner of.
WallFit wallFitOf(const Grid& grid, const Geometry& geometry, const shape::TriangleTree& model);

/// What to think of a grid as built: filled gaps and a wall that stands off first, then its cells.
std::string verdictOf(const Grid& grid, const Quality& quality);
constexpr double kMostFar = 1e-3;  ///< share of the wall's points that may stand off by more than a cell

/// What a grid must keep; verdict() says "good" within them.
constexpr double kMostNonOrthogonality_deg = 75.0, kMostSkewness = 4.0;
constexpr double kOblique_deg = 65.0,
                 kMostOblique = 1e-3;  ///< beyond this angle at most this share of the internal faces

/// Folded cells, and cells with a face beyond these limits. Sorted.
std::vector<CellIndex> cellsBeyond(const Grid& grid, const Geometry& geometry, double nonOrthogonality_deg,
                                   double skewness);

/// Share of the internal faces beyond this angle.
double shareBeyond(const Grid& grid, const Geometry& geometry, double nonOrthogonality_deg);

}  // namespace cvane::grid
