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

}  // namespace cvane::panels
