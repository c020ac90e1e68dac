#pragma once
#include <vector>

#include "base/vec3.h"
#include "flow/piece.h"

namespace cvane::flow {

/// The flow on one rank; kinematic: pressure and masses over the free stream's density. Cell fields hold own and ghost
/// entries.
struct State {
    std::vector<Vec3> U;                ///< [m/s]
    std::vector<double> p;              ///< less that of the free stream [m2/s2]
    std::vector<double> first, second;  ///< variables of the turbulence model
    std::vector<double> nuT;            ///< [m2/s]
    std::vector<double> flux;           ///< of mass, every face [m3/s], from P to N
    bool compressible = false;          ///< the next two are there
    std::vector<double> enthalpy;       ///< total, less the free stream's [m2/s2]
    std::vector<double> density;        ///< over the free stream's

    double densityIn(std::size_t c) const { return compressible ? density[c] : 1.0; }
};

/// What walls do to the flow next to them; one entry a boundary face.
struct WallState {
    std::vector<double> nuWall;  ///< effective viscosity between cell and wall [m2/s]
    std::vector<double> uTau;    ///< [m/s]
    std::vector<double> yPlus;
    std::vector<double> slopeShare;  ///< slope of the speed in the middle of the cell over its mean slope from the
                                     ///< wall: 1 in a straight profile
};

}  // namespace cvane::flow
