#pragma once
#include <vector>

#include "air/free_stream.h"
#include "flow/settings.h"
#include "grid/grid.h"
#include "grid/tunnel.h"

namespace cvane::flow {

/// What happens at a boundary face.
enum class Role : std::uint8_t {
    Wall,
    Slip,
    Inflow,
    Outflow,
    /// A side of free air along the wind: air passes either way, by the wind through the side and by the pressure
    /// there. A slip wall would hold the flow together there and an outlet would let it go too freely; in between their
    /// errors cancel for the most part, and nothing jumps as the wind turns through the side's plane.
    Open
};
/// Air leaves a cell through this kind of face with what it has, and comes in with what the free stream has.
inline bool passesEitherWay(Role r) {
    return r == Role::Outflow || r == Role::Open;
}

struct PatchRole {
    Role role = Role::Wall;
    Vec3 velocity = Vec3::Zero();  ///< of a wall's surface [m/s], with the spin [rad/s] about `centre` on top
    Vec3 spin = Vec3::Zero(), centre = Vec3::Zero();
    double roughness = 0.0;   ///< height of the sand grains on a wall [m]
    bool onModel = false;     ///< counts for the balance
    bool heldGround = false;  ///< a ground at rest, on which a boundary layer grows from upstream
    Vec3 velocityAt(const Vec3& x) const { return velocity + spin.cross(x - centre); }
};

/// Roles of a grid's patches for a wind: the model is a wall; the tunnel's front takes the wind in, its back lets it
/// out, and its other sides are open to it, or slip walls in a closed tunnel and where they cut the model; the ground
/// is at rest or moves with the air; a half model is mirrored at y = 0. Any angle therefore needs no new grid. Throws
/// InputError: wind through the ground (alpha with a floor) or through the mirror plane (beta with a half model); a
/// moving or rough part that no wall of the grid belongs to.
std::vector<PatchRole> rolesFor(const std::vector<grid::Patch>& patches, const grid::Tunnel& tunnel,
                                const air::FreeStream& wind, const std::vector<MovingPart>& moving = {},
                                const std::vector<RoughPart>& rough = {});

}  // namespace cvane::flow
