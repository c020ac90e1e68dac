#pragma once
#include <filesystem>
#include <vector>

#include "flow/ranks.h"
#include "grid/grid.h"

namespace cvane::flow {

using LocalCell = std::int32_t;  ///< 0 .. cells-1 own, behind them ghosts

/// This rank's part of a grid: a contiguous run of cells, the faces between them, the faces to ghosts, the boundary
/// faces. Faces to ghosts are worked on by both ranks that share them.
struct Piece {
    LocalCell cells = 0, ghosts = 0;
    std::int64_t firstCell = 0, allCells = 0;  ///< place of the own cells in the whole grid
    std::int64_t allFaces = 0;                 ///< of the whole grid
    std::vector<grid::Patch> patches;          ///< of the whole grid, their faces numbered as there
    double lowest = 0.0;                       ///< z of the whole grid's lowest point [m]
    std::size_t inner = 0;                     ///< faces 0..inner-1 have both cells here
    std::size_t linked = 0;       ///< faces inner..linked-1 have a ghost as neighbour; the rest is boundary
    std::vector<LocalCell> P, N;  ///< owner of every face; neighbour of linked faces
    std::vector<char> reversed;   ///< linked faces: my cell is the neighbour in the whole grid
    std::vector<std::int64_t> globalFace;
    std::vector<std::int32_t> patchOf;  ///< boundary faces: index behind `linked`
    std::vector<Vec3> S, xf;            ///< area vector from P to N (outward), face centre
    std::vector<double> area;           ///< |S|
    std::vector<double> w;              ///< linked faces: phi_f = w phi_P + (1 - w) phi_N
    std::vector<double> gap;            ///< |S|^2 / (S.d), d from P to N (to the face at the boundary) [m]
    std::vector<Vec3> d;                ///< linked faces: from x_P to x_N
    std::vector<Vec3> x;                ///< cell centres, own and ghosts
    std::vector<double> V;              ///< volumes, own and ghosts
    std::vector<double> wallDistance;   ///< own
    Halo halo;

    std::size_t faces() const { return P.size(); }
    std::size_t stored() const { return static_cast<std::size_t>(cells + ghosts); }
    bool isBoundary(std::size_t f) const { return f >= linked; }
    std::size_t patch(std::size_t f) const {
        return static_cast<std::size_t>(patchOf[f - linked]);
    }  ///< of a boundary face
};

/// The piece of one of `ranks` ranks, cut in equal numbers of cells. Local.
Piece cutPiece(const grid::Grid& grid, const grid::Geometry& geometry, int rank, int ranks);

/// Collective: the same from a grid's file. Every rank reads its own cells with their faces and points; what lies
/// beyond them it asks of the ranks that have it, so that none holds the whole grid and no rank waits for all others.
/// Throws InputError: the file is not there, damaged, or not a grid of this program.
Piece readPiece(const std::filesystem::path& file, const Ranks& ranks);

}  // namespace cvane::flow
