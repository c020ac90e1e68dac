#pragma once
#include <vector>

#include "flow/roles.h"
#include "flow/state.h"

namespace cvane::flow {

/// Force [N / (kg/m3)] and moment about a centre, split into pressure and friction; kinematic.
struct Load {
    Vec3 pressure = Vec3::Zero(), friction = Vec3::Zero();
    Vec3 pressureMoment = Vec3::Zero(), frictionMoment = Vec3::Zero();
    Vec3 force() const { return pressure + friction; }
    Vec3 moment() const { return pressureMoment + frictionMoment; }
};

constexpr std::size_t kLoadNumbers = 12;  ///< a Load one behind the other
static_assert(sizeof(Load) == kLoadNumbers * sizeof(double));

/// Pressure and shear on one wall face of the model; kinematic.
struct WallSample {
    std::int64_t face;
    double p;
    Vec3 shear;  ///< on the wall, along the flow next to it [m2/s2]
    double yPlus;
    Vec3 place;   ///< the face's centre [m]
    double area;  ///< [m2]
};

/// Local: this rank's wall faces of the model, in the order of the piece.
std::vector<WallSample> sampleWalls(const Piece& piece, const std::vector<PatchRole>& roles, const State& state,
                                    const WallState& walls, const std::vector<Vec3>& gradP);

/// Collective: loads by patch about `centre`. S points out of the air, so pressure pushes along S.
std::vector<Load> loads(const Piece& piece, const std::vector<PatchRole>& roles, const State& state,
                        const WallState& walls, const std::vector<Vec3>& gradP, const Vec3& centre, const Ranks& ranks);

}  // namespace cvane::flow
