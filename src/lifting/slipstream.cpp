#include "lifting/slipstream.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace cvane::lifting {
using std::numbers::pi;

double addedSpeed(double T, double V, double A, double rho) {
    const double under = std::max(0.0, V * V + 2.0 * T / (rho * A));
    return 0.5 * (std::sqrt(under) - V);
}

Slipstream::Slipstream(const std::vector<wing::Propeller>& propellers, const air::FreeStream& wind) {
    for (const auto& p : propellers) {
        if (p.thrust == 0.0) continue;
        Tube t{p.centre, p.axis.normalized(), Vec3::UnitX(), 0.5 * p.diameter, 0.5 * p.hub, 0.0, 0.0, 0.0};
        const double area = pi * (t.radius * t.radius - t.hub * t.hub);
        t.far = std::max(0.0, wind.velocity().dot(t.axis));
        t.added = addedSpeed(p.thrust, t.far, area, wind.air.density);
        t.along = (wind.velocity() + t.added * t.axis).normalized();
        const double through = t.far + t.added;
        if (p.rpm != 0.0 && through > 0.0) {
            // The torque of an ideal disc turns what goes through it, at any radius alike.
            const double torque = p.thrust * through / (p.rpm * 2.0 * pi / 60.0),
                         arm = 2.0 * pi * (std::pow(t.radius, 3) - std::pow(t.hub, 3)) / 3.0;
            t.turned = torque / (wind.air.density * through * arm);
        }
        tubes_.push_back(t);
    }
}

Vec3 Slipstream::at(const Vec3& place) const {
    Vec3 out = Vec3::Zero();
    for (const Tube& t : tubes_) {
        const Vec3 off = place - t.centre;
        const double behind = off.dot(t.along);
        const Vec3 across = off - behind * t.along;
        const double share = 1.0 + behind / std::hypot(behind, t.radius), here = t.far + t.added * share;
        if (!(here > 0.0)) continue;
        // As much air goes through the tube everywhere.
        const double narrowed = std::sqrt((t.far + t.added) / here), r = across.norm();
        if (r > narrowed * t.radius || r < narrowed * t.hub) continue;
        out += t.added * share * t.axis;
        if (behind > 0.0 && r > 0.0) out += t.turned * t.axis.cross(across).normalized();
    }
    return out;
}

}  // namespace cvane::lifting
