#pragma once
#include <vector>

#include "flow/gradient.h"
#include "flow/roles.h"
#include "flow/state.h"

namespace cvane::flow {

/// A cell's velocity gradient as it had been: the mean slope from the wall to the next cell [1/s].
struct WallGradient {
    std::size_t cell;
    Mat3 mean;
};

/// Gives the velocity gradients of cells on no-slip walls the slope that the profile has in the middle of the cell. The
/// straight line from the wall, which a least-squares gradient takes, is the profile of a boundary layer as thick as
/// the cell: on a ground ahead of the model, where cells are half a body high, what it rebuilds beside smaller cells
/// takes half of the wind and more away from them. With a turbulence model the slope is that of its law of the wall
/// (WallState::slopeShare). Without one no law says it; the slope from the wall is then held to kSteepest times that
/// beyond the cell, which it is near in a boundary layer of several cells, and much above where one cell holds the
/// layer.
/// @param wallValues  velocity at boundary faces [m/s], as the gradients were told
/// @param gradients   of own cells, changed [1/s].  Local.
/// @return the cells that were changed, with the gradients with which the turbulence models' wall treatments are made
std::vector<WallGradient> carryWallProfile(const Piece& piece, const std::vector<PatchRole>& roles, const State& state,
                                           const WallState& walls, const std::vector<Vec3>& wallValues,
                                           const Gradient& gradient, bool turbulent, std::vector<Mat3>& gradients);

}  // namespace cvane::flow
