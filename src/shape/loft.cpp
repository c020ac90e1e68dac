#include "shape/loft.h"

#include <cmath>

namespace cvane::shape {

void addLoft(Surface& s, const std::string& part, const std::vector<std::vector<Vec3>>& rings, bool capFirst,
             bool capLast) {
    const auto id = static_cast<std::int32_t>(s.parts.size());
    s.parts.push_back({part, true});
    const auto base = static_cast<std::int32_t>(s.points.size());
    const auto n = static_cast<std::int32_t>(rings.front().size());
    for (const auto& r : rings) s.points.insert(s.points.end(), r.begin(), r.end());
    const auto add = [&](std::int32_t a, std::int32_t b, std::int32_t c) {
        s.facets.push_back({a, b, c});
        s.partOf.push_back(id);
    };
    for (std::int32_t j = 0; j + 1 < static_cast<std::int32_t>(rings.size()); ++j)
        for (std::int32_t i = 0; i < n; ++i) {
            const auto a = base + j * n + i, b = base + j * n + (i + 1) % n;
            add(a, b, b + n);
            add(a, b + n, a + n);
        }
    const auto cap = [&](std::int32_t first, const std::vector<Vec3>& ring, bool reverse) {
        Vec3 mid = Vec3::Zero();
        for (const Vec3& p : ring) mid += p / static_cast<double>(ring.size());
        const auto m = static_cast<std::int32_t>(s.points.size());
        s.points.push_back(mid);
        for (std::int32_t i = 0; i < n; ++i) {
            const auto a = first + i, b = first + (i + 1) % n;
            reverse ? add(m, b, a) : add(m, a, b);
        }
    };
    if (capFirst) cap(base, rings.front(), true);
    if (capLast) cap(base + (static_cast<std::int32_t>(rings.size()) - 1) * n, rings.back(), false);
}

void addSphere(Surface& s, const std::string& part, const Vec3& centre, double radius, int n) {
    const double pi = std::acos(-1.0);
    std::vector<std::vector<Vec3>> rings;
    for (int j = 1; j < n; ++j) {
        std::vector<Vec3> ring;
        const double theta = pi * j / n;
        for (int i = 0; i < n; ++i) {
            const double phi = 2.0 * pi * i / n;
            ring.push_back(centre + radius * Vec3(-std::cos(theta), std::sin(theta) * std::cos(phi),
                                                  std::sin(theta) * std::sin(phi)));
        }
        rings.push_back(ring);
    }
    addLoft(s, part, rings, true, true);
    // The caps' middles lie on the axis inside the sphere; move them out to the poles.
    s.points[s.points.size() - 2] = centre + Vec3(-radius, 0, 0);
    s.points[s.points.size() - 1] = centre + Vec3(radius, 0, 0);
}

}  // namespace cvane::shape
