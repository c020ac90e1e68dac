#include "panels/curvature.h"

#include <algorithm>
#include <cmath>

#include "base/units.h"
#include "shape/edges.h"

namespace cvane::panels {
namespace {
using base::degree;
constexpr double kFeature = 35.0 * degree;
constexpr double kGrowth = 0.35;
constexpr double kTurn = 15.0 * degree;  // of the surface along one panel, down to this share of its length:
constexpr double kLess = 0.6;
constexpr int kSweeps = 4;
constexpr int kRounds = 3;  // in which tensors are evened out over the neighbours

struct Lengths {
    Mat3 axes;  // columns
    Vec3 h;     // along them
};
Lengths lengthsOf(const Mat3& tensor) {
    // Not computeDirect: of tensors that are nearly alike in two directions it finds no axes.
    const Eigen::SelfAdjointEigenSolver<Mat3> solver(0.5 * (tensor + tensor.transpose()));
    return {solver.eigenvectors(), solver.eigenvalues()};
}
Mat3 matrixOf(const Mat3& axes, const Vec3& values) {
    return axes * values.asDiagonal() * axes.transpose();
}
}  // namespace

std::vector<Metric> panelMetrics(const shape::Surface& s, std::size_t count, double stretch) {
    const auto edges = shape::edgesOf(s);
    const std::size_t n = s.points.size();
    std::vector<Mat3> bend(n, Mat3::Zero());
    std::vector<double> area(n, 0.0);
    std::vector<char> atFeature(n, 0);
    double whole = 0.0;
    std::vector<Vec3> normal(s.facets.size());
    for (std::size_t f = 0; f < s.facets.size(); ++f) {
        const Vec3 a = s.areaVector(f);
        const double size = a.norm();
        normal[f] = size > 0.0 ? (a / size).eval() : Vec3::Zero();
        whole += size;
        for (const auto p : s.facets[f]) area[static_cast<std::size_t>(p)] += size / 3.0;
    }
    for (const auto& e : edges) {
        if (e.uses.size() != 2) continue;
        const auto a = static_cast<std::size_t>(e.a), b = static_cast<std::size_t>(e.b);
        const Vec3 &m = normal[static_cast<std::size_t>(e.uses[0].facet)],
                   &k = normal[static_cast<std::size_t>(e.uses[1].facet)];
        const double turn = std::atan2(m.cross(k).norm(), m.dot(k));
        if (turn > kFeature) {
            atFeature[a] = atFeature[b] = 1;
            continue;
        }
        const Vec3 along = s.points[b] - s.points[a];
        const double length = along.norm();
        if (length == 0.0) continue;
        // Bends across the edge.
        const Vec3 across = (m + k).cross(along).normalized();
        const Mat3 t = 0.5 * turn * length * across * across.transpose();
        bend[a] += t;
        bend[b] += t;
    }
    for (std::size_t p = 0; p < n; ++p)
        if (area[p] > 0.0) bend[p] /= area[p];
    for (int round = 0; round < kRounds; ++round) {
        auto next = bend;
        std::vector<double> weight(n, 1.0);
        for (const auto& e : edges) {
            const auto a = static_cast<std::size_t>(e.a), b = static_cast<std::size_t>(e.b);
            // What bends there does not reach over a long edge.
            const double w =
                0.5 * std::min(area[a], area[b]) / std::max((s.points[b] - s.points[a]).squaredNorm(), 1e-300);
            next[a] += w * bend[b];
            next[b] += w * bend[a];
            weight[a] += w;
            weight[b] += w;
        }
        for (std::size_t p = 0; p < n; ++p) bend[p] = next[p] / weight[p];
    }
    // Relative lengths from the roots of the radii, the largest 1.
    const double size = std::sqrt(whole / 12.0);
    std::vector<Mat3> roots(n);
    for (std::size_t p = 0; p < n; ++p) {
        auto [axes, k] = lengthsOf(bend[p]);
        Vec3 h;
        for (int i = 0; i < 3; ++i) h[i] = std::sqrt(std::clamp(1.0 / (std::max(k[i], 1e-9 / size) * size), 4e-3, 4.0));
        const double least = h.minCoeff();
        for (int i = 0; i < 3; ++i) h[i] = std::min(h[i], stretch * least);
        if (atFeature[p]) h *= 0.5;
        roots[p] = matrixOf(axes, h);
    }
    // The scale at which their number is as asked: of triangles of sides 1 in the metric.
    const auto triangles = [&](const std::vector<Mat3>& h) {
        double sum = 0.0;
        for (std::size_t f = 0; f < s.facets.size(); ++f) {
            Mat3 mean = Mat3::Zero();
            for (const auto p : s.facets[f]) mean += h[static_cast<std::size_t>(p)] / 3.0;
            const Mat3 inverse = mean.inverse();
            // Area of the triangle as M^(1/2) maps it.
            sum += (inverse * (s.corner(f, 1) - s.corner(f, 0)))
                       .cross(inverse * (s.corner(f, 2) - s.corner(f, 0)))
                       .norm() *
                   0.5;
        }
        return sum / (0.25 * std::sqrt(3.0));
    };
    double scale = std::sqrt(triangles(roots) / static_cast<double>(count));
    auto graded = roots;
    for (int round = 0; round < 2; ++round) {
        for (std::size_t p = 0; p < n; ++p) {
            // At a nose, which bends both ways, panels turn by no more than a pressure can follow: there are few of
            // them.
            auto [axes, h] = lengthsOf(scale * roots[p]);
            const double nose = lengthsOf(bend[p]).h[1];
            for (int i = 0; i < 3; ++i)
                h[i] = std::min(h[i], std::max(kTurn / std::max(nose, 1e-9 / size), kLess * h[i]));
            graded[p] = matrixOf(axes, h);
        }
        for (int sweep = 0; sweep < kSweeps; ++sweep)
            for (const auto& e : edges) {
                const auto a = static_cast<std::size_t>(e.a), b = static_cast<std::size_t>(e.b);
                const Vec3 way = s.points[b] - s.points[a];
                const double far = kGrowth * way.norm();
                for (const auto& [from, to] : {std::pair{a, b}, std::pair{b, a}}) {
                    // Along its own axes no longer than the neighbour's length and the growth over the way.
                    auto [axes, h] = lengthsOf(graded[to]);
                    bool less = false;
                    for (int i = 0; i < 3; ++i) {
                        const Vec3 d = axes.col(i);
                        const double most = d.dot(graded[from] * d) + far;
                        less = less || h[i] > most;
                        h[i] = std::min(h[i], most);
                    }
                    if (less) graded[to] = matrixOf(axes, h);
                }
            }
        const double share = std::sqrt(triangles(graded) / static_cast<double>(count));
        scale *= share;
        for (auto& g : graded) g *= share;
    }
    std::vector<Metric> metric(n);
    for (std::size_t p = 0; p < n; ++p) {
        auto [axes, h] = lengthsOf(graded[p]);
        metric[p] = matrixOf(axes, h.cwiseMax(1e-9 * size).cwiseInverse().cwiseAbs2());
    }
    return metric;
}

}  // namespace cvane::panels
