#include "flow/marks.h"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace cvane::flow {

std::vector<double> refinementWeights(const FlowCloud& flow, const grid::Grid& grid, const grid::Geometry& geometry,
                                      double speed) {
    std::vector<double> out(flow.x.size(), 0.0);
    const double q = 0.5 * speed * speed;  // over the density, as the pressures are
    for (std::size_t c = 0; c < out.size(); ++c) {
        if (grid.layer[c] > 0) continue;
        const double h = std::cbrt(geometry.volume[c]);
        const Mat3& g = flow.gradU[c];
        const double vorticity = Vec3(g(2, 1) - g(1, 2), g(0, 2) - g(2, 0), g(1, 0) - g(0, 1)).norm();
        out[c] = std::max(h * flow.gradP[c].norm() / q, h * vorticity / speed);
    }
    return out;
}

grid::Marks marksOf(const std::vector<double>& weights, const grid::Geometry& geometry, int firstBudget) {
    std::vector<std::size_t> order(weights.size());
    std::iota(order.begin(), order.end(), std::size_t{0});
    std::stable_sort(order.begin(), order.end(), [&](auto a, auto b) { return weights[a] > weights[b]; });
    grid::Marks out;
    out.firstBudget = firstBudget;
    for (const auto c : order) {
        if (!(weights[c] > 0.0)) break;
        out.places.push_back(geometry.cellCentre[c]);
    }
    return out;
}

}  // namespace cvane::flow
