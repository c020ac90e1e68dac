#include "flow/roles.h"

#include <algorithm>
#include <cmath>

#include "base/errors.h"

namespace cvane::flow {
namespace {

void checkWind(const Vec3& U, const grid::Tunnel& tunnel) {
    if (tunnel.floor != grid::Floor::None && std::abs(U.z()) > 1e-9 * U.norm())
        throw base::InputError("the wind would blow through the ground.", "wind",
                               "Set alpha to 0, and pitch the model instead.");
    if (tunnel.closed && std::hypot(U.y(), U.z()) > 1e-9 * U.norm())
        throw base::InputError("the wind of a closed tunnel runs along its axis.", "wind",
                               "Set alpha and beta to 0 and turn the model, or open the tunnel's sides.");
    if (tunnel.halfModel && std::abs(U.y()) > 1e-9 * U.norm())
        throw base::InputError("a half model cannot have sideslip.", "wind", "Set beta to 0, or use the full model.");
}

bool isOpen(const grid::Tunnel& t, int side) {
    return !t.closed && !(side == grid::kLowY && t.halfModel) && !t.cutsModelAt(side) &&
           !(side == grid::kBelow && t.floor != grid::Floor::None);
}
bool hasOpenSide(const grid::Tunnel& t) {
    for (const int side : {grid::kLowY, grid::kHighY, grid::kBelow, grid::kAbove})
        if (isOpen(t, side)) return true;
    return false;
}

std::shared_ptr<const Boundary> boundaryOfSide(int side, const Case& c, const std::shared_ptr<const FarWind>& wind) {
    const Vec3 U = c.wind.velocity();
    const double through = (side % 2 == 0 ? -1.0 : 1.0) * U[side / 2];
    if (side == grid::kUpstream || side == grid::kDownstream) {
        Vec3 out = Vec3::Zero();
        out[side / 2] = side % 2 == 0 ? -1.0 : 1.0;
        if (wind->isFastThrough(out)) return fastOutletBoundary(wind);
        if (c.compressible && c.vortexAt && through < 0.0) return farSideBoundary(wind);
        // The speed of a tunnel that is closed all around is that at its inlet, and a vortex far away gives the wind
        // there.
        return through >= 0.0                         ? outletBoundary(wind)
               : !hasOpenSide(c.tunnel) || c.vortexAt ? inletBoundary(wind)
                                                      : freeInletBoundary(wind);
    }
    if (isOpen(c.tunnel, side)) return openBoundary(wind);
    if (c.tunnel.cutsModelAt(side) && std::abs(through) > 1e-9 * U.norm())
        throw base::InputError("the wind would blow through a tunnel wall that the model reaches through.", "wind",
                               "Turn the model instead of the wind.");
    return slipBoundary();
}

PatchRole& roleOfPart(std::vector<PatchRole>& roles, const std::vector<grid::Patch>& patches, const std::string& part) {
    const auto it = std::find_if(patches.begin(), patches.end(), [&](const grid::Patch& p) {
        return p.kind == grid::PatchKind::Wall && p.name == part;
    });
    if (it == patches.end())
        throw base::InputError(
            "the part \"" + part + "\" has no wall in the grid, so it can be neither turned nor roughened.", "flow",
            "Name a part that the air reaches, or take the line out.");
    return roles[static_cast<std::size_t>(it - patches.begin())];
}
}  // namespace

std::vector<PatchRole> rolesFor(const std::vector<grid::Patch>& patches, const Case& c,
                                const std::shared_ptr<const FarWind>& wind, std::optional<std::size_t> ahead) {
    checkWind(c.wind.velocity(), c.tunnel);
    std::vector<PatchRole> roles(patches.size());
    for (std::size_t i = 0; i < patches.size(); ++i) {
        const grid::Patch& p = patches[i];
        PatchRole& r = roles[i];
        if (p.kind == grid::PatchKind::Wall) {
            r.onModel = true;
        } else if (p.side == grid::kBelow && c.tunnel.floor != grid::Floor::None) {
            r.ground = c.tunnel.floor == grid::Floor::Moving ? Ground::Moving : Ground::Held;
            if (r.ground == Ground::Moving) r.motion.velocity = c.wind.velocity();
            if (i == ahead) r.ground = Ground::Ahead;
        } else {
            r.boundary = boundaryOfSide(p.side, c, wind);
        }
    }
    for (const MovingPart& m : c.moving) roleOfPart(roles, patches, m.part).motion = {m.velocity, m.spin, m.centre};
    for (const RoughPart& r : c.rough) roleOfPart(roles, patches, r.part).roughness = r.sandGrain;
    const bool frictionless = c.settings.model == Model::Inviscid;
    for (std::size_t i = 0; i < roles.size(); ++i) {
        PatchRole& r = roles[i];
        if (auto given = c.givenBoundary ? c.givenBoundary(patches[i]) : nullptr)
            r.boundary = std::move(given);
        else if (c.givenVelocity)
            r.boundary = inletBoundary(wind);
        else if (!r.boundary)
            r.boundary = frictionless || r.ground == Ground::Ahead
                             ? slipBoundary()
                             : wallBoundary(r.motion.velocity, r.motion.spin, r.motion.centre);
    }
    return roles;
}

}  // namespace cvane::flow
