#include "grid/stretch.h"

#include <algorithm>
#include <cmath>

#include "grid/build.h"
#include "grid/sealed_model.h"
#include "shape/edges.h"
#include "shape/seams.h"

namespace cvane::grid {
namespace {
// Bodies that turn alike along all axes stay as they are: the measure is 1.2 at most for cars, boxes and drones, 2.5 to
// 3.6 for wings. In between the stretch grows with it.
constexpr double kFrom = 1.5, kPerUnit = 2.0;

// Turn of the surface times length, by the axis along which one walks while it turns [m].
Vec3 turnAlong(const shape::Surface& s) {
    Vec3 out = Vec3::Zero();
    for (const auto& e : shape::edgesOf(s)) {
        if (e.uses.size() != 2) continue;
        const Vec3 a = s.areaVector(static_cast<std::size_t>(e.uses[0].facet)).normalized(),
                   b = s.areaVector(static_cast<std::size_t>(e.uses[1].facet)).normalized();
        const Vec3 edge = s.points[static_cast<std::size_t>(e.b)] - s.points[static_cast<std::size_t>(e.a)];
        const Vec3 across = edge.cross(a + b).normalized();
        if (!across.allFinite()) continue;
        out += std::atan2(a.cross(b).norm(), a.dot(b)) * edge.norm() * across.cwiseAbs2();
    }
    return out;
}
}  // namespace

Vec3 stretchFor(const shape::Surface& surface) {
    // Facets that do not quite meet would show no turn between them.
    shape::Surface joined = shape::joinedWithin(surface, kSeam * surface.bounds().size().maxCoeff()).surface;
    shape::orientFacets(joined);
    const Vec3 turn = turnAlong(joined);
    Vec3 out = Vec3::Ones();
    for (int k = 1; k < 3; ++k) {
        const double others = 0.5 * (turn.sum() - turn[k]);
        if (!(turn[k] > 0.0)) continue;
        out[k] = std::clamp(1.0 + kPerUnit * (std::sqrt(others / turn[k]) - kFrom), 1.0, kMostStretch);
    }
    // Along both at once there would be a sheet without thickness.
    if (out[1] > 1.0 && out[2] > 1.0) (out[1] > out[2] ? out[2] : out[1]) = 1.0;
    return out;
}

Vec3 stretchFor(const shape::Surface& surface, const Vec3& asked) {
    if (asked.minCoeff() > 0.0) return asked;
    const Vec3 suits = stretchFor(surface);
    return (asked.array() > 0.0).select(asked, suits);
}

}  // namespace cvane::grid
