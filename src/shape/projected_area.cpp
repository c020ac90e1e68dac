#include "shape/projected_area.h"

#include <algorithm>
#include <bit>
#include <cmath>

namespace cvane::shape {

double projectedArea(const Surface& s, int axis) {
    const int u = (axis + 1) % 3, v = (axis + 2) % 3;
    const Box box = s.bounds();
    if (box.empty()) return 0.0;
    const double lu = box.high[u] - box.low[u], lv = box.high[v] - box.low[v];
    const double step = std::max(lu, lv) / 4096.0;
    if (!(step > 0.0) || !(lu > 0.0) || !(lv > 0.0)) return 0.0;
    const auto nu = static_cast<std::ptrdiff_t>(std::ceil(lu / step)) + 1;
    const auto nv = static_cast<std::ptrdiff_t>(std::ceil(lv / step)) + 1;
    // One bit a sample; rows run along u. Samples sit at (i + 1/2) step.
    const std::ptrdiff_t words = (nu + 63) / 64;
    std::vector<std::uint64_t> hit(static_cast<std::size_t>(words * nv), 0);
    for (std::size_t f = 0; f < s.facets.size(); ++f) {
        double U[3], V[3];
        for (int k = 0; k < 3; ++k) {
            const Vec3 p = s.corner(f, k);
            U[k] = (p[u] - box.low[u]) / step - 0.5;
            V[k] = (p[v] - box.low[v]) / step - 0.5;
        }
        const auto [vmin, vmax] = std::minmax({V[0], V[1], V[2]});
        for (auto j = static_cast<std::ptrdiff_t>(std::ceil(vmin)); j <= static_cast<std::ptrdiff_t>(std::floor(vmax));
             ++j) {
            if (j < 0 || j >= nv) continue;
            double lo = 1e300, hi = -1e300;
            const auto y = static_cast<double>(j);
            for (int k = 0; k < 3; ++k) {
                const int m = (k + 1) % 3;
                if ((V[k] <= y) == (V[m] <= y)) continue;
                const double x = U[k] + (y - V[k]) / (V[m] - V[k]) * (U[m] - U[k]);
                lo = std::min(lo, x);
                hi = std::max(hi, x);
            }
            const auto first = std::max<std::ptrdiff_t>(0, static_cast<std::ptrdiff_t>(std::ceil(lo)));
            const auto last = std::min<std::ptrdiff_t>(nu - 1, static_cast<std::ptrdiff_t>(std::floor(hi)));
            // Word by word: facets that all reach over the whole model would else take a step a sample each.
            for (auto w = first / 64; w <= last / 64 && first <= last; ++w) {
                std::uint64_t bits = ~0ull;
                if (w == first / 64) bits &= ~0ull << (first % 64);
                if (w == last / 64) bits &= ~0ull >> (63 - last % 64);
                hit[static_cast<std::size_t>(j * words + w)] |= bits;
            }
        }
    }
    std::size_t count = 0;
    for (const auto w : hit) count += static_cast<std::size_t>(std::popcount(w));
    return static_cast<double>(count) * step * step;
}

}  // namespace cvane::shape
