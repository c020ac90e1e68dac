#include "shape/feature_edges.h"

#include <cmath>

#include "shape/edges.h"

namespace cvane::shape {

std::vector<std::array<Vec3, 2>> featureEdges(const Surface& s, double angle) {
    std::vector<std::array<Vec3, 2>> out;
    const double limit = std::cos(angle);
    for (const Edge& e : edgesOf(s)) {
        if (e.uses.size() != 2) continue;
        const Vec3 a = s.areaVector(static_cast<std::size_t>(e.uses[0].facet));
        Vec3 b = s.areaVector(static_cast<std::size_t>(e.uses[1].facet));
        if (e.uses[0].forward == e.uses[1].forward) b = -b;
        const double scale = a.norm() * b.norm();
        if (scale > 0.0 && a.dot(b) < limit * scale)
            out.push_back({s.points[static_cast<std::size_t>(e.a)], s.points[static_cast<std::size_t>(e.b)]});
    }
    return out;
}

}  // namespace cvane::shape
