#pragma once
#include <vector>

#include "air/free_stream.h"
#include "grid/grid.h"
#include "grid/tunnel.h"

namespace cvane::flow {

/// What happens at a boundary face.
enum class Role : std::uint8_t { Wall, Slip, Inflow, Outflow };

struct PatchRole {
    Role role = Role::Wall;
    Vec3 wallVelocity = Vec3::Zero();
    bool onModel = false;  ///< counts for the balance
};

/// Roles of the grid's patches for a wind: the model is a wall; a tunnel side takes the wind in or lets it out by its
/// direction, and is a slip wall when the wind runs along it; the ground is at rest or moves with the air; a half model is
/// mirrored at y = 0. Any angle therefore needs no new grid.
/// Throws InputError: wind through the ground (alpha with a floor) or through the mirror plane (beta with a half model).
std::vector<PatchRole> rolesFor(const grid::Grid& grid, const grid::Tunnel& tunnel, const air::FreeStream& wind);

}  // namespace cvane::flow
