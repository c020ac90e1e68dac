#include "grid/tunnel.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/errors.h"
#include "grid/limits.h"

namespace cvane::grid {

Box modelInTunnel(const Tunnel& t, Box model) {
    if (t.halfModel && !model.empty()) model.low.y() = std::max(model.low.y(), 0.0);
    return model;
}

Box tunnelBox(const Tunnel& t, const Box& placed) {
    if (t.halfModel && !placed.empty() && placed.high.y() <= 0.0)
        throw base::InputError("a half model needs its body on the starboard side (y > 0), and nothing is there.",
                               "tunnel", "Shift or mirror the model, or switch the half model off.");
    const Box model = modelInTunnel(t, placed);
    if (model.empty())
        throw base::InputError("no part of the model is in the air.", "model", "Show at least one part.");
    // Of the whole, so that a model and its half are in the same tunnel.
    const double L = std::max(model.size().maxCoeff(), t.halfModel ? 2.0 * model.high.y() : 0.0);
    if (!(L > 0.0) || !std::isfinite(L))
        throw base::InputError("has no size.", "model", "Import a surface with an extent.");
    const auto check = [](double value, const char* name, const Range& range = kExtents) {
        if (!std::isfinite(value) || !range.holds(value))
            throw base::InputError(
                fmt::format("the extent {} is {} body lengths.", name, value), "tunnel",
                range.low < 0.0
                    ? "Type a number above 0 and up to 1000, or one between -1 and 0 for a wall that cuts the model."
                    : "Type a number above 0 and up to 1000.");
    };
    check(t.upstream, "upstream");
    check(t.downstream, "downstream");
    check(t.sideways, "sideways", kCuttingExtents);
    check(t.above, "above", kCuttingExtents);
    if (t.floor == Floor::None) check(t.below, "below", kCuttingExtents);
    Box box;
    box.low = model.low - L * Vec3(t.upstream, t.sideways, t.below);
    box.high = model.high + L * Vec3(t.downstream, t.sideways, t.above);
    if (t.floor != Floor::None) {
        if (!std::isfinite(t.rideHeight) || t.rideHeight < -0.5 * model.size().z())
            throw base::InputError(
                fmt::format("the ride height {} m puts most of the model under the ground.", t.rideHeight), "tunnel",
                "Type the gap between the ground and the model's lowest point.");
        if (!std::isfinite(t.groundLayerAhead) || t.groundLayerAhead < 0.0)
            throw base::InputError(fmt::format("the ground's boundary layer begins {} body lengths ahead of the model.",
                                               t.groundLayerAhead),
                                   "tunnel", "Type 0 or more.");
        box.low.z() = model.low.z() - t.rideHeight;
    }
    for (int k = 1; k < 3; ++k)
        if (!(box.high[k] > box.low[k]) || box.low[k] >= model.high[k] || box.high[k] <= model.low[k])
            throw base::InputError("the tunnel's walls leave nothing of the model in the air.", "tunnel",
                                   "Cut off less: type extents nearer to 0.");
    if (t.halfModel) box.low.y() = 0.0;
    return box;
}

double blockage(const Box& tunnel, double frontalArea) {
    const Vec3 s = tunnel.size();
    return frontalArea / (s.y() * s.z());
}

}  // namespace cvane::grid
