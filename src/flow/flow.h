#pragma once
#include <optional>
#include <vector>

#include "flow/gas_law.h"
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
    double nu = 0.0;              ///< of the free stream [m2/s]; 0: without friction
    std::optional<GasLaw> gas;    ///< none: incompressible
    std::vector<double> section;  ///< V^(2/3) of own cells, what a cell sets against the wind [m2]
    WallState walls;
    std::vector<Vec3> atBoundary;           ///< velocity at boundary faces [m/s]
    std::vector<Mat3> gradU;                ///< [1/s]
    std::vector<Vec3> gradP;                ///< [m/s2]
    std::vector<Vec3> pressureForce;        ///< sum p_f S_f / V, own and ghosts: what the momentum balance feels [m/s2]
    std::vector<double> pseudo;             ///< of compressible flow: V over the cell's own step of time [m3/s]
    std::vector<double> D, Dcorrect;        ///< V / a_P and the pressure correction's, own and ghosts [s]
    std::vector<double> viscosity;          ///< dynamic, over the free stream's density [m2/s]; empty: nu
    std::vector<Vec3> gradDensity;          ///< of compressible flow [1/m]
    std::vector<double> shock;              ///< of compressible flow: 0 where it is smooth, 1 in shocks
    std::vector<WallGradient> meanAtWalls;  ///< gradients of cells on walls as the turbulence models take them

    /// Dynamic viscosity of a cell over the free stream's density [m2/s].
    double viscosityIn(std::size_t c) const { return viscosity.empty() ? nu : viscosity[c]; }
    /// The same with the eddies'.
    double effectiveIn(std::size_t c) const { return viscosityIn(c) + state.densityIn(c) * state.nuT[c]; }
    /// Static temperature of a cell [K], of compressible flow.
    double temperatureIn(std::size_t c) const { return gas->temperatureOf(state.U[c], state.enthalpy[c]); }
    /// Takes velocities back to the fastest that the gas can have here.
    void boundSpeed() {
        if (!gas) return;
        const double most2 = gas->fastest() * gas->fastest();
        for (Vec3& u : state.U)
            if (const double u2 = u.squaredNorm(); u2 > most2) u *= std::sqrt(most2 / u2);
    }
    /// The velocity at a linked face, rebuilt from both sides [m/s].
    Vec3 between(std::size_t f) const { return betweenCells(piece, f, state.U, gradU); }
    /// Unit normal of a face, out of the air; zero of one without area.
    Vec3 normal(std::size_t f) const {
        return piece.area[f] > 0.0 ? Vec3(piece.S[f] / piece.area[f]) : Vec3(Vec3::Zero());
    }
};

/// div(U) of own and ghost cells as steady continuity has it, -U . grad(rho) / rho [1/s]: what the cells' gradients of
/// the velocity sum up to is mostly their own error in thin cells, and as a stress it blew up.
std::vector<double> dilatationOf(const Flow& flow);

}  // namespace cvane::flow
