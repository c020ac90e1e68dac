#include "shape/polygon.h"

#include <numeric>

namespace cvane::shape {

std::vector<std::array<std::size_t, 3>> trianglesOf(std::span<const Vec3> x) {
    std::vector<std::array<std::size_t, 3>> out;
    if (x.size() < 3) return out;
    // Twice the area vector, by Newell's sum: right for bent and concave polygons too.
    Vec3 n = Vec3::Zero();
    for (std::size_t i = 0; i < x.size(); ++i) n += (x[i] - x[0]).cross(x[(i + 1) % x.size()] - x[0]);
    const auto turn = [&](std::size_t a, std::size_t b, std::size_t c) {
        return (x[b] - x[a]).cross(x[c] - x[b]).dot(n);
    };
    std::vector<std::size_t> left(x.size());
    std::iota(left.begin(), left.end(), std::size_t{0});
    const auto isEar = [&](std::size_t k) {
        const auto m = left.size();
        const auto a = left[(k + m - 1) % m], b = left[k], c = left[(k + 1) % m];
        if (!(turn(a, b, c) > 0.0)) return false;
        for (const auto p : left)
            if (p != a && p != b && p != c && turn(a, b, p) >= 0.0 && turn(b, c, p) >= 0.0 && turn(c, a, p) >= 0.0)
                return false;
        return true;
    };
    while (left.size() > 3) {
        std::size_t ear = 0;
        while (ear < left.size() && !isEar(ear)) ++ear;
        if (ear == left.size()) break;
        const auto m = left.size();
        out.push_back({left[(ear + m - 1) % m], left[ear], left[(ear + 1) % m]});
        left.erase(left.begin() + static_cast<std::ptrdiff_t>(ear));
    }
    for (std::size_t k = 1; k + 1 < left.size(); ++k) out.push_back({left[0], left[k], left[k + 1]});
    return out;
}

}  // namespace cvane::shape
