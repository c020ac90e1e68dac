#pragma once
#include <vector>

#include "air/free_stream.h"
#include "flow/settings.h"
#include "grid/grid.h"
#include "grid/tunnel.h"

namespace cvane::flow {

/// What happens at a boundary face.
enum class Role : std::uint8_t { Wall, Slip, Inflow, Outflow };

struct PatchRole {
    Role role = Role::Wall;
    Vec3 velocity = Vec3::Zero();  ///< of a wall's surface [m/s], with the spin [rad/s] about `centre` on top
    Vec3 spin = Vec3::Zero(), centre = Vec3::Zero();
    double roughness = 0.0;  ///< height of the sand grains on a wall [m]
    bool onModel = false;  ///< counts for the balance
    Vec3 velocityAt(const Vec3& x) const { return velocity + spin.cross(x - centre); }
};

/// Roles of a grid's patches for a wind: the model is a wall; a tunnel side takes the wind in or lets it out by its
/// direction, and is a slip wall when the wind runs along it; the ground is at rest or moves with the air; a half model is
/// mirrored at y = 0. Any angle therefore needs no new grid.
/// Throws InputError: wind through the ground (alpha with a floor) or through the mirror plane (beta with a half model); a
/// moving or rough part that no wall of the grid belongs to.
std::vector<PatchRole> rolesFor(const std::vector<grid::Patch>& patches, const grid::Tunnel& tunnel, const air::FreeStream& wind, const std::vector<MovingPart>& moving = {},
                                const std::vector<RoughPart>& rough = {});

}  // namespace cvane::flow
