#pragma once
#include <vector>

#include "base/vec3.h"
#include "flow/piece.h"

namespace cvane::flow {

/// The flow on one rank; kinematic: pressure over density [m2/s2]. Cell fields hold own and ghost entries.
struct State {
    std::vector<Vec3> U;                ///< [m/s]
    std::vector<double> p;              ///< [m2/s2], 0 at the outlet
    std::vector<double> first, second;  ///< variables of the turbulence model
    std::vector<double> nuT;            ///< [m2/s]
    std::vector<double> flux;           ///< every face [m3/s], from P to N
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
