#include "shape/crossings.h"

#include <algorithm>
#include <cmath>

#include "shape/triangle.h"

namespace cvane::shape {

std::vector<Crossing> crossingsOf(const Surface& s, const TriangleTree& tree, double angle) {
    const double parallel = std::cos(angle);
    std::vector<Crossing> out;
    const auto addPierces = [&](std::size_t edges, std::size_t through, std::vector<Pierce>& found) {
        const Vec3 A = s.corner(through, 0), B = s.corner(through, 1), C = s.corner(through, 2);
        const Vec3 n = (B - A).cross(C - A);
        for (std::size_t k = 0; k < 3; ++k) {
            const auto p = s.facets[edges][k], q = s.facets[edges][(k + 1) % 3];
            const auto a = std::min(p, q), b = std::max(p, q);
            const Vec3 &xa = s.points[static_cast<std::size_t>(a)], &xb = s.points[static_cast<std::size_t>(b)];
            if (!pierces(xa, xb, A, B, C)) continue;
            const double da = n.dot(xa - A), db = n.dot(xb - A), t = da / (da - db);
            found.push_back({a, b, static_cast<std::int32_t>(through), t, xa + t * (xb - xa)});
        }
    };
    std::vector<Pierce> found;
    for (std::size_t f = 0; f < s.facets.size(); ++f) {
        tree.forEachNear(tree.boxOf(static_cast<std::int32_t>(f)), [&](std::int32_t other) {
            const auto g = static_cast<std::size_t>(other);
            if (g <= f || shareCorner(s.facets[f], s.facets[g])) return;
            const Vec3 a = s.areaVector(f), b = s.areaVector(g);
            if (std::abs(a.dot(b)) > parallel * a.norm() * b.norm()) return;
            found.clear();
            addPierces(f, g, found);
            addPierces(g, f, found);
            if (found.size() == 2) out.push_back({{static_cast<std::int32_t>(f), other}, {found[0], found[1]}});
        });
    }
    std::sort(out.begin(), out.end(), [](const Crossing& x, const Crossing& y) {
        return std::lexicographical_compare(x.facets, x.facets + 2, y.facets, y.facets + 2);
    });
    return out;
}

}  // namespace cvane::shape
