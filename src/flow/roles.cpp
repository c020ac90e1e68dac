#include "flow/roles.h"

#include <algorithm>
#include <cmath>

#include "base/errors.h"

namespace cvane::flow {

std::vector<PatchRole> rolesFor(const std::vector<grid::Patch>& patches, const grid::Tunnel& tunnel,
                                const air::FreeStream& wind, const std::vector<MovingPart>& moving,
                                const std::vector<RoughPart>& rough) {
    const Vec3 U = wind.velocity();
    if (tunnel.floor != grid::Floor::None && std::abs(U.z()) > 1e-9 * U.norm())
        throw base::InputError("the wind would blow through the ground.", "wind",
                               "Set alpha to 0, and pitch the model instead.");
    if (tunnel.closed && std::hypot(U.y(), U.z()) > 1e-9 * U.norm())
        throw base::InputError("the wind of a closed tunnel runs along its axis.", "wind",
                               "Set alpha and beta to 0 and turn the model, or open the tunnel's sides.");
    if (tunnel.halfModel && std::abs(U.y()) > 1e-9 * U.norm())
        throw base::InputError("a half model cannot have sideslip.", "wind", "Set beta to 0, or use the full model.");
    std::vector<PatchRole> roles;
    for (const grid::Patch& p : patches) {
        PatchRole r;
        if (p.kind == grid::PatchKind::Wall) {
            r.onModel = true;
        } else {
            const double through = (p.side % 2 == 0 ? -1.0 : 1.0) * U[p.side / 2];
            if (p.side == 4 && tunnel.floor != grid::Floor::None) {
                r.role = Role::Wall;
                if (tunnel.floor == grid::Floor::Moving) r.velocity = U;
                r.heldGround = tunnel.floor == grid::Floor::Fixed;
            } else if (p.side < 2) {
                r.role = through < 0.0 ? Role::Inflow : Role::Outflow;
            } else if (tunnel.closed || (p.side == 2 && tunnel.halfModel)) {
                r.role = Role::Slip;
            } else if (!tunnel.cutsModelAt(p.side)) {
                r.role = Role::Open;
            } else if (std::abs(through) <= 1e-9 * U.norm()) {
                r.role = Role::Slip;
            } else {
                throw base::InputError("the wind would blow through a tunnel wall that the model reaches through.",
                                       "wind", "Turn the model instead of the wind.");
            }
        }
        roles.push_back(r);
    }
    const auto roleOf = [&](const std::string& part) -> PatchRole& {
        const auto it = std::find_if(patches.begin(), patches.end(), [&](const grid::Patch& p) {
            return p.kind == grid::PatchKind::Wall && p.name == part;
        });
        if (it == patches.end())
            throw base::InputError(
                "the part \"" + part + "\" has no wall in the grid, so it can be neither turned nor roughened.", "flow",
                "Name a part that the air reaches, or take the line out.");
        return roles[static_cast<std::size_t>(it - patches.begin())];
    };
    for (const MovingPart& m : moving) {
        PatchRole& r = roleOf(m.part);
        r.velocity = m.velocity;
        r.spin = m.spin;
        r.centre = m.centre;
    }
    for (const RoughPart& r : rough) roleOf(r.part).roughness = r.sandGrain;
    return roles;
}

}  // namespace cvane::flow
