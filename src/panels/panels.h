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

/// Forces on panels, summed.
struct PanelLoads {
    Vec3 force = Vec3::Zero(), moment = Vec3::Zero();  ///< the whole model's [N], [N m] about the centre
    std::vector<Vec3> partForce, partMoment;           ///< by part, of what is modelled
};
/// @param force  on each panel [N];  @param mirrored  in y = 0: the image's are in the whole
PanelLoads loadsOf(const Panels& panels, const std::vector<Vec3>& force, const Vec3& centre, bool mirrored);

}  // namespace cvane::panels
