#include "campaign/steps/flow_case.h"

#include <algorithm>
#include <cmath>

#include "base/errors.h"
#include "campaign/plan/points.h"
#include "campaign/plan/propellers.h"
#include "campaign/steps/model_stage.h"
#include "shape/axle.h"

namespace cvane::campaign {
namespace {
// Whether a part is not in the tunnel: it is hidden; or, of a whole surface that is run as a half model, it is on the
// port side, where only images are.
bool isAbsent(const shape::Surface& placed, const std::string& part, const grid::Tunnel& tunnel) {
    for (const auto& p : placed.parts)
        if (p.name == part && !p.inTheAir) return true;
    if (!tunnel.halfModel) return false;
    double farthest = -1e300;
    for (std::size_t f = 0; f < placed.facets.size(); ++f)
        if (placed.parts[static_cast<std::size_t>(placed.partOf[f])].name == part)
            for (int k = 0; k < 3; ++k) farthest = std::max(farthest, placed.corner(f, k).y());
    return farthest > -1e299 && farthest <= 0.0;
}
}  // namespace

flow::MovingPart motionOf(const Wheel& w, const shape::Surface& placed, const grid::Tunnel& tunnel, double speed) {
    const auto it =
        std::find_if(placed.parts.begin(), placed.parts.end(), [&](const shape::Part& p) { return p.name == w.part; });
    if (it == placed.parts.end())
        throw base::InputError("is no part of the model, so it cannot turn.", w.part,
                               "Name a part, or take the wheel out.");
    auto axle = shape::axleOf(placed, static_cast<std::size_t>(it - placed.parts.begin()));
    if (w.centre) axle.centre = *w.centre;
    if (w.axis) {
        if (!(w.axis->norm() > 0.0))
            throw base::InputError("has an axis of length zero.", w.part,
                                   "Type three numbers, or let the axis be found.");
        axle.axis = w.axis->normalized() * (w.axis->y() < 0.0 ? -1.0 : 1.0);
    }
    double turning = w.rpm * std::acos(-1.0) / 30.0;
    if (w.rolling) {
        const auto solid = shape::withoutHiddenParts(placed);
        const double radius = tunnel.floor == grid::Floor::None
                                  ? axle.radius
                                  : axle.centre.z() - grid::tunnelBox(tunnel, solid.bounds()).low.z();
        if (!(radius > 0.0))
            throw base::InputError("has its axle below the ground, so it cannot roll.", w.part,
                                   "Lift the model, or type the centre of the axle.");
        turning = speed / radius;
    }
    // The lowest point goes aft when it rolls forwards: spin against y.
    return {w.part, Vec3::Zero(), -turning * axle.axis, axle.centre};
}

flow::Case flowCaseOf(const Settings& s, const Point& point, const shape::Surface& placed,
                      const air::Reference& reference) {
    flow::Case c;
    c.wind = windOf(s, point.condition);
    c.tunnel = tunnelFor(s, placed);
    c.reference = reference;
    c.settings = s.flow;
    c.compressible = isCompressible(s, c.wind);
    // Grids know parts by the names that they came with.
    for (const Wheel& w : s.devices.wheels)
        if (!isAbsent(placed, w.part, s.tunnel)) {
            c.moving.push_back(motionOf(w, placed, c.tunnel, point.condition.speed));
            c.moving.back().part = s.model.idOf(w.part);
        }
    if (s.tunnel.floor == grid::Floor::Fixed && s.tunnel.groundLayer != grid::LayerFrom::Inlet) {
        const Box model = grid::modelInTunnel(s.tunnel, shape::withoutHiddenParts(placed).bounds());
        c.groundLayerFrom = model.low.x() - s.tunnel.groundLayerRun() * model.size().maxCoeff();
    }
    for (const auto& r : s.devices.roughParts)
        if (!isAbsent(placed, r.part, s.tunnel)) c.rough.push_back({s.model.idOf(r.part), r.sandGrain});
    c.discs = discsInTunnel(s);
    c.blocks = s.devices.blocks;
    return c;
}

}  // namespace cvane::campaign
