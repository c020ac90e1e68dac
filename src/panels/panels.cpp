#include "panels/panels.h"

namespace cvane::panels {

Panels::Panels(shape::Surface s) : surface(std::move(s)) {
    for (std::size_t i = 0; i < surface.facets.size(); ++i) {
        const Vec3 a = surface.areaVector(i);
        middle.push_back((surface.corner(i, 0) + surface.corner(i, 1) + surface.corner(i, 2)) / 3.0);
        area.push_back(a.norm());
        normal.push_back(a.normalized());
    }
}

PanelLoads loadsOf(const Panels& p, const std::vector<Vec3>& force, const Vec3& centre, bool mirrored) {
    PanelLoads out;
    out.partForce.assign(p.surface.parts.size(), Vec3::Zero());
    out.partMoment.assign(p.surface.parts.size(), Vec3::Zero());
    for (std::size_t i = 0; i < p.size(); ++i) {
        const auto part = static_cast<std::size_t>(p.surface.partOf[i]);
        out.partForce[part] += force[i];
        out.partMoment[part] += (p.middle[i] - centre).cross(force[i]);
    }
    for (std::size_t k = 0; k < out.partForce.size(); ++k) {
        out.force += out.partForce[k];
        out.moment += out.partMoment[k];
    }
    if (mirrored) {
        out.force = Vec3(2.0 * out.force.x(), 0.0, 2.0 * out.force.z());
        out.moment = Vec3(0.0, 2.0 * out.moment.y(), 0.0);
    }
    return out;
}

}  // namespace cvane::panels
