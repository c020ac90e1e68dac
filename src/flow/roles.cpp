#include "flow/roles.h"

#include <cmath>

#include "base/errors.h"

namespace cvane::flow {

std::vector<PatchRole> rolesFor(const grid::Grid& g, const grid::Tunnel& tunnel, const air::FreeStream& wind) {
    const Vec3 U = wind.velocity();
    if (tunnel.floor != grid::Floor::None && std::abs(U.z()) > 1e-9 * U.norm())
        throw base::InputError("the wind would blow through the ground.", "wind", "Set alpha to 0, and pitch the model instead.");
    if (tunnel.halfModel && std::abs(U.y()) > 1e-9 * U.norm())
        throw base::InputError("a half model cannot have sideslip.", "wind", "Set beta to 0, or use the full model.");
    std::vector<PatchRole> roles;
    for (const grid::Patch& p : g.patches) {
        PatchRole r;
        if (p.kind == grid::PatchKind::Wall) {
            r.onModel = true;
        } else {
            const double through = (p.side % 2 == 0 ? -1.0 : 1.0) * U[p.side / 2];
            if (p.side == 4 && tunnel.floor != grid::Floor::None) {
                r.role = Role::Wall;
                if (tunnel.floor == grid::Floor::Moving) r.wallVelocity = U;
            } else if (std::abs(through) <= 1e-9 * U.norm()) {
                r.role = Role::Slip;
            } else if (tunnel.cutsModelAt(p.side)) {
                throw base::InputError("the wind would blow through a tunnel wall that the model reaches through.", "wind", "Turn the model instead of the wind.");
            } else {
                r.role = through < 0.0 ? Role::Inflow : Role::Outflow;
            }
        }
        roles.push_back(r);
    }
    return roles;
}

}  // namespace cvane::flow
