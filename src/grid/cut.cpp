#include "grid/cut.h"

#include <algorithm>
#include <cmath>

namespace cvane::grid {

Cut cutAlongAxis(const Grid& g, int axis, double position) {
    Cut out;
    std::vector<double> height(g.points.size());
    for (std::size_t p = 0; p < height.size(); ++p) height[p] = g.points[p][axis] - position;
    struct Crossing {
        CellIndex cell;
        Vec3 place;
    };
    std::vector<Crossing> crossings;
    for (FaceIndex f = 0; f < g.faces(); ++f) {
        const auto poly = g.polygon(f);
        for (std::size_t k = 0; k < poly.size(); ++k) {
            const auto a = static_cast<std::size_t>(poly[k]), b = static_cast<std::size_t>(poly[(k + 1) % poly.size()]);
            if ((height[a] < 0.0) == (height[b] < 0.0)) continue;
            const Vec3 x = g.points[a] + height[a] / (height[a] - height[b]) * (g.points[b] - g.points[a]);
            crossings.push_back({g.owner[static_cast<std::size_t>(f)], x});
            if (f < g.internalFaces()) crossings.push_back({g.neighbour[static_cast<std::size_t>(f)], x});
        }
    }
    std::stable_sort(crossings.begin(), crossings.end(),
                     [](const Crossing& a, const Crossing& b) { return a.cell < b.cell; });
    const int u = (axis + 1) % 3, v = (axis + 2) % 3;
    for (std::size_t i = 0; i < crossings.size();) {
        std::size_t j = i;
        Vec3 mean = Vec3::Zero();
        for (; j < crossings.size() && crossings[j].cell == crossings[i].cell; ++j) mean += crossings[j].place;
        mean /= static_cast<double>(j - i);
        // Cells are near enough convex for their outline to be ordered by angle about its middle.
        std::sort(crossings.begin() + static_cast<std::ptrdiff_t>(i),
                  crossings.begin() + static_cast<std::ptrdiff_t>(j), [&](const Crossing& a, const Crossing& b) {
                      return std::atan2(a.place[v] - mean[v], a.place[u] - mean[u]) <
                             std::atan2(b.place[v] - mean[v], b.place[u] - mean[u]);
                  });
        const auto first = out.points.size();
        for (std::size_t k = i; k < j; ++k)
            if (out.points.size() == first || (out.points.back() - crossings[k].place).norm() > 1e-12)
                out.points.push_back(crossings[k].place);
        if (out.points.size() - first >= 3) {
            out.start.push_back(static_cast<std::int32_t>(out.points.size()));
            out.cell.push_back(crossings[i].cell);
        } else {
            out.points.resize(first);
        }
        i = j;
    }
    return out;
}

}  // namespace cvane::grid
