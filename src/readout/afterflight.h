#pragma once
#include <vector>

#include "grid/tunnel.h"
#include "readout/result.h"
#include "readout/wall_field.h"

namespace cvane::readout {

/// What in a result cannot be, or calls for a look, worst first: a force that what leaves the tunnel does not agree
/// with, a symmetric model with a side force, pressure above that of standing air, y+ beyond the law of the wall, a
/// ground's boundary layer that reaches up to the model, drag below zero.
/// @param pushed  discs push the air: pressure may then rise above that of the free stream brought to rest
std::vector<Finding> findingsOf(const Result& result, const WallField& wall, const grid::Geometry& geometry,
                                const grid::Tunnel& tunnel, bool pushed);

}  // namespace cvane::readout
