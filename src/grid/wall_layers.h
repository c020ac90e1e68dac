#pragma once
#include <algorithm>
#include <cstdint>
#include <functional>
#include <span>
#include <vector>

#include "grid/wall_projection.h"

namespace cvane::grid {

/// What the columns between staircase and wall are cut into. All columns have `most` + 1 points on each of their edges,
/// so that neighbours fit; a column of small cells, whose gap is thin, joins pieces between them and has fewer layers.
struct Layers {
    int most = 3;
    double first = 0.0;                  ///< height of the cell on the wall [m]
    std::vector<std::uint8_t> ofColumn;  ///< layers of each column, 1..most, in the order of Staircase::gapFaces
    std::vector<std::uint8_t> ofPoint;   ///< per wall point: those of the column with the fewest that meet there
    std::vector<double> evenness;        ///< per wall point: 0 as layerHeights says, 1 all layers of one height
    /// Point of an edge, 0 on the staircase to `most` on the wall, at which layer g of n begins. Layers on the wall are
    /// one piece each, so that columns of more and of fewer have like cells there side by side; the outer half joins
    /// what is over.
    int border(int g, int n) const {
        const int outer = std::max(1, n / 2);
        return g + (most - n) * std::min(g, outer) / outer;
    }
};

/// @param ofColumn  layers of each column
Layers planLayers(const Staircase& stairs, const WallImage& wall, double first, std::vector<std::uint8_t> ofColumn);

/// Numbers of the cells that addWallLayers makes: layer cells follow the cell that they grew from, so that neighbours
/// stay close in memory.
struct CellNumbers {
    std::vector<CellIndex> outer;   ///< of each staircase cell
    std::vector<CellIndex> column;  ///< of each column's first cell, at the staircase; the others follow
    CellIndex count;
};
CellNumbers numberCells(const Staircase& stairs, const Layers& layers);

/// Leaves the columns of these cells with one layer, as where the model meets the ground at a small angle: there a
/// column leans so far from the layers' normal that the faces between them are steep.  @param cells  sorted.  @return
/// whether any column had more
bool thinToOneLayer(const Staircase& stairs, const WallImage& wall, std::span<const CellIndex> cells, Layers& layers);

/// Heights from the wall on [m] that together fill `gap`: they start with `first` and grow by a constant ratio. Where
/// the gap has no room for n cells of the first height all are equal.
std::vector<double> layerHeights(double gap, double first, int n);

/// Points of the columns behind the wall points: `layers.most` for each, the last on the wall.
/// @param onWall   where the columns end, one a wall point
/// @param moved    positions of the staircase points
/// @param columns  out: layers.most * wall.point.size()
void cutColumns(std::span<const Vec3> onWall, const WallImage& wall, const std::vector<Vec3>& moved,
                const Layers& layers, std::span<Vec3> columns);

/// Joins the staircase to the wall by columns of cells and assembles the grid. Its points are those of `moved`, then
/// those of cutColumns; some of them are corners of no cell.
/// @param partAt  part of the model at a point of the wall
Grid addWallLayers(const Staircase& stairs, const WallImage& wall, const std::vector<Vec3>& moved, const Layers& layers,
                   const std::vector<std::string>& parts, const std::function<int(const Vec3&)>& partAt,
                   std::span<const std::uint8_t> levelOfCell);

}  // namespace cvane::grid
