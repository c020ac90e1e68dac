#include "shape/mirror.h"

#include <algorithm>

#include "shape/triangle_tree.h"

namespace cvane::shape {

bool isMirrorImage(const Surface& s, double tolerance) {
    const Box b = s.bounds();
    if (std::abs(b.low.y() + b.high.y()) > tolerance) return false;
    const TriangleTree tree(s);
    return std::all_of(s.facets.begin(), s.facets.end(), [&](const auto& f) {
        return std::all_of(f.begin(), f.end(), [&](std::int32_t k) {
            const Vec3& p = s.points[static_cast<std::size_t>(k)];
            return tree.closerThan(Vec3(p.x(), -p.y(), p.z()), tolerance);
        });
    });
}

}  // namespace cvane::shape
