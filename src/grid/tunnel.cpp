#include "grid/tunnel.h"

#include <fmt/format.h>

#include <cmath>

#include "base/errors.h"

namespace cvane::grid {

Box tunnelBox(const Tunnel& t, const Box& model) {
    if (model.empty()) throw base::InputError("no part of the model is in the air.", "model", "Show at least one part.");
    const double L = model.size().maxCoeff();
    if (!(L > 0.0) || !std::isfinite(L))
        throw base::InputError("has no size.", "model", "Import a surface with an extent.");
    const auto check = [](double value, const char* name) {
        if (!(value > 0.0) || !std::isfinite(value) || value > 1000.0)
            throw base::InputError(fmt::format("the extent {} is {} body lengths.", name, value), "tunnel",
                                   "Type a number above 0 and up to 1000.");
    };
    check(t.upstream, "upstream");
    check(t.downstream, "downstream");
    check(t.sideways, "sideways");
    check(t.above, "above");
    if (t.floor == Floor::None) check(t.below, "below");
    Box box;
    box.low = model.low - L * Vec3(t.upstream, t.sideways, t.below);
    box.high = model.high + L * Vec3(t.downstream, t.sideways, t.above);
    if (t.floor != Floor::None) {
        if (!std::isfinite(t.rideHeight) || t.rideHeight < -0.5 * model.size().z())
            throw base::InputError(fmt::format("the ride height {} m puts most of the model under the ground.", t.rideHeight),
                                   "tunnel", "Type the gap between the ground and the model's lowest point.");
        box.low.z() = model.low.z() - t.rideHeight;
    }
    if (t.halfModel) {
        if (model.high.y() <= 0.0)
            throw base::InputError("a half model needs its body on the starboard side (y > 0), and nothing is there.", "tunnel",
                                   "Shift or mirror the model, or switch the half model off.");
        box.low.y() = 0.0;
    }
    return box;
}

double blockage(const Box& tunnel, double frontalArea) {
    const Vec3 s = tunnel.size();
    return frontalArea / (s.y() * s.z());
}

}  // namespace cvane::grid
