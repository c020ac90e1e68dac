#pragma once
#include <vector>

#include "panels/panel_integrals.h"
#include "shape/surface.h"

namespace cvane::panels {

/// A surface as panels: flat triangles with their middles, where nothing flows through.
struct Panels {
    shape::Surface surface;
    std::vector<Vec3> middle;  ///< [m]
    std::vector<Vec3> normal;  ///< unit, into the air
    std::vector<double> area;  ///< [m2]

    explicit Panels(shape::Surface s);
    std::size_t size() const { return middle.size(); }
    Triangle triangle(std::size_t i) const {
        return {surface.corner(i, 0), surface.corner(i, 1), surface.corner(i, 2)};
    }
};

}  // namespace cvane::panels
