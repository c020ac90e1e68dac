#pragma once
#include <vector>

#include "flow/piece.h"
#include "flow/rebuild.h"
#include "flow/state.h"
#include "flow/wall_gradient.h"

namespace cvane::flow {

/// The flow on one rank, and what follows from it: the state is what is solved for, the rest is worked out from it by
/// FlowGradients and the equations.
struct Flow {
    Piece piece;
    State state;
    double nu = 0.0;              ///< [m2/s]; 0: without friction
    std::vector<double> section;  ///< V^(2/3) of own cells, what a cell sets against the wind [m2]
    WallState walls;
    std::vector<Vec3> atBoundary;           ///< velocity at boundary faces [m/s]
    std::vector<Mat3> gradU;                ///< [1/s]
    std::vector<Vec3> gradP;                ///< [m/s2]
    std::vector<Vec3> pressureForce;        ///< sum p_f S_f / V, own and ghosts: what the momentum balance feels [m/s2]
    std::vector<double> D, Dcorrect;        ///< V / a_P and the pressure correction's, own and ghosts [s]
    std::vector<WallGradient> meanAtWalls;  ///< gradients of cells on walls as the turbulence models take them

    /// The velocity at a linked face, rebuilt from both sides [m/s].
    Vec3 between(std::size_t f) const { return betweenCells(piece, f, state.U, gradU); }
    /// Unit normal of a face, out of the air; zero of one without area.
    Vec3 normal(std::size_t f) const {
        return piece.area[f] > 0.0 ? Vec3(piece.S[f] / piece.area[f]) : Vec3(Vec3::Zero());
    }
};

}  // namespace cvane::flow
