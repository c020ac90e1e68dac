#pragma once
#include <memory>
#include <vector>

#include "flow/boundary.h"
#include "flow/case.h"
#include "grid/grid.h"

namespace cvane::flow {

/// How a surface moves in itself: a belt, a wheel.
struct SurfaceMotion {
    Vec3 velocity = Vec3::Zero();  ///< [m/s], with the spin [rad/s] about `centre` on top
    Vec3 spin = Vec3::Zero(), centre = Vec3::Zero();
    Vec3 at(const Vec3& x) const { return velocity + spin.cross(x - centre); }
};

enum class Ground : std::uint8_t {
    None,
    Moving,
    Held,  ///< at rest: a boundary layer grows on it from upstream
    Ahead  ///< its part ahead of where that layer begins, along which the air slips
};

/// What a patch is to the flow.
struct PatchRole {
    std::shared_ptr<const Boundary> boundary;
    SurfaceMotion motion;
    double roughness = 0.0;  ///< height of the sand grains on a wall [m]
    bool onModel = false;    ///< counts for the balance
    Ground ground = Ground::None;
};

/// Roles of a grid's patches: the model is a wall; the tunnel's front takes the wind in, its back lets it out, and its
/// other sides are open to it, or slip walls in a closed tunnel and where they cut the model; the ground is at rest or
/// moves with the air; a half model is mirrored at y = 0. Any angle therefore needs no new grid. Without friction air
/// slides along all walls. Throws InputError: wind through the ground (alpha with a floor) or through the mirror plane
/// (beta with a half model); a moving or rough part that no wall of the grid belongs to.
/// @param wind   what inlets bring
/// @param ahead  the patch that partGround has made; none: the ground has one part
std::vector<PatchRole> rolesFor(const std::vector<grid::Patch>& patches, const Case& c,
                                const std::shared_ptr<const FarWind>& wind, std::optional<std::size_t> ahead = {});
inline std::vector<PatchRole> rolesFor(const std::vector<grid::Patch>& patches, const Case& c) {
    return rolesFor(patches, c, std::make_shared<FarWind>(c));
}

}  // namespace cvane::flow
