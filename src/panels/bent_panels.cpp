#include "panels/bent_panels.h"

#include <Eigen/Geometry>
#include <algorithm>
#include <cmath>

#include "base/units.h"
#include "shape/edges.h"

namespace cvane::panels {
namespace {
constexpr double kSharp = 40.0 * base::degree;
constexpr double kMostBent = 0.15;    // rise over the length of an edge, that of an arc of 67 degrees
constexpr double kMostTurned = 0.94;  // cosine between both kinds of normals

using Neighbours = std::vector<std::vector<std::size_t>>;

Neighbours smoothNeighbours(const Panels& p, const std::vector<shape::Edge>& edges) {
    Neighbours out(p.size());
    for (const auto& e : edges) {
        if (e.uses.size() != 2) continue;
        const auto i = static_cast<std::size_t>(e.uses[0].facet), j = static_cast<std::size_t>(e.uses[1].facet);
        if (p.normal[i].dot(p.normal[j]) < std::cos(kSharp)) continue;
        out[i].push_back(j);
        out[j].push_back(i);
    }
    return out;
}

// Panels about a corner of one of them, as far as they go from there without a sharp edge between.
std::vector<std::size_t> fanAbout(const Panels& p, const Neighbours& next, std::size_t first, std::int32_t corner) {
    std::vector<std::size_t> fan{first};
    for (std::size_t at = 0; at < fan.size() && fan.size() < 64; ++at)
        for (const auto j : next[fan[at]]) {
            const auto& f = p.surface.facets[j];
            if (std::find(f.begin(), f.end(), corner) != f.end() && std::find(fan.begin(), fan.end(), j) == fan.end())
                fan.push_back(j);
        }
    return fan;
}

// Of a fan, weighted as is exact for spheres (N. Max, J. Graphics Tools 4(2), 1999).
Vec3 normalOf(const Panels& p, const std::vector<std::size_t>& fan, std::int32_t corner) {
    Vec3 n = Vec3::Zero();
    for (const auto j : fan) {
        auto f = p.surface.facets[j];
        while (f[0] != corner) std::rotate(f.begin(), f.begin() + 1, f.end());
        const auto at = [&](std::int32_t c) { return p.surface.points[static_cast<std::size_t>(c)]; };
        const Vec3 a = at(f[1]) - at(f[0]), b = at(f[2]) - at(f[0]);
        n += a.cross(b) / std::max(a.squaredNorm() * b.squaredNorm(), 1e-300);
    }
    return n.normalized();
}

// Of a quadratic through a point and, as well as it goes, those about it: where a nose grows blunter from one panel to
// the next, what is exact for spheres errs by some degrees.
Vec3 fittedNormal(const Panels& p, const std::vector<std::size_t>& fan, std::int32_t corner) {
    const Vec3 n = normalOf(p, fan, corner), &here = p.surface.points[static_cast<std::size_t>(corner)];
    std::vector<std::int32_t> about;
    for (const auto j : fan)
        for (const auto c : p.surface.facets[j])
            if (c != corner && std::find(about.begin(), about.end(), c) == about.end()) about.push_back(c);
    if (about.size() < 5) return n;
    const Vec3 s = n.unitOrthogonal(), t = n.cross(s);
    Eigen::Matrix<double, Eigen::Dynamic, 5> terms(static_cast<Eigen::Index>(about.size()), 5);
    Eigen::VectorXd height(terms.rows());
    for (Eigen::Index k = 0; k < terms.rows(); ++k) {
        const Vec3 d = p.surface.points[static_cast<std::size_t>(about[static_cast<std::size_t>(k)])] - here;
        const double x = d.dot(s), y = d.dot(t), w = 1.0 / std::max(d.norm(), 1e-300);
        terms.row(k) << w * x, w * y, w * x * x, w * x * y, w * y * y;
        height[k] = w * d.dot(n);
    }
    Eigen::Matrix<double, 5, 1> size;
    for (int c = 0; c < 5; ++c) size[c] = std::max(terms.col(c).norm(), 1e-300);
    Eigen::CompleteOrthogonalDecomposition<Eigen::MatrixXd> whole;
    whole.setThreshold(0.02);
    whole.compute(terms * size.cwiseInverse().asDiagonal());
    const Eigen::VectorXd of = size.cwiseInverse().asDiagonal() * whole.solve(height).eval();
    const Vec3 fitted = (n - of[0] * s - of[1] * t).normalized();
    return fitted.dot(n) > kMostTurned ? fitted : n;
}

// At every panel's three corners.
std::vector<std::array<Vec3, 3>> cornerNormals(const Panels& p, const Neighbours& next) {
    std::vector<std::array<Vec3, 3>> out(p.size());
    std::vector<std::vector<std::uint32_t>> at(p.surface.points.size());
    for (std::size_t i = 0; i < p.size(); ++i)
        for (const auto c : p.surface.facets[i])
            at[static_cast<std::size_t>(c)].push_back(static_cast<std::uint32_t>(i));
#pragma omp parallel for schedule(dynamic, 64)
    for (std::size_t c = 0; c < at.size(); ++c) {
        const auto corner = static_cast<std::int32_t>(c);
        std::vector<std::size_t> fan;
        Vec3 n = Vec3::Zero();
        for (const auto i : at[c]) {
            // On a line where the surface turns sharply each side has its own.
            if (std::find(fan.begin(), fan.end(), i) == fan.end()) {
                fan = fanAbout(p, next, i, corner);
                n = fan.size() == at[c].size() ? fittedNormal(p, fan, corner) : normalOf(p, fan, corner);
            }
            const auto& f = p.surface.facets[i];
            out[i][static_cast<std::size_t>(std::find(f.begin(), f.end(), corner) - f.begin())] = n;
        }
    }
    return out;
}
}  // namespace

BentPanels::BentPanels(const Panels& p) : panels_(p) {
    const auto edges = shape::edgesOf(p.surface);
    next = smoothNeighbours(p, edges);
    const auto corners = cornerNormals(p, next);
    for (const auto& of : corners) normal.push_back((of[0] + of[1] + of[2]).normalized());
    over_.resize(p.size());
    for (std::size_t i = 0; i < p.size(); ++i)
        for (std::size_t k = 0; k < 3; ++k)
            over_[i][k] = 0.5 * (p.surface.corner(i, k) + p.surface.corner(i, (k + 1) % 3));
    for (const auto& e : edges) {
        if (e.uses.size() != 2) continue;
        const auto i = static_cast<std::size_t>(e.uses[0].facet), j = static_cast<std::size_t>(e.uses[1].facet);
        if (std::find(next[i].begin(), next[i].end(), j) == next[i].end()) continue;
        // A cubic that stands at right angles to both normals rises in its middle by this, halfway between both
        // panels'.
        const Vec3 along =
            p.surface.points[static_cast<std::size_t>(e.b)] - p.surface.points[static_cast<std::size_t>(e.a)];
        Vec3 rise = Vec3::Zero();
        std::size_t side[2] = {};
        const std::size_t both[2] = {i, j};
        for (int u = 0; u < 2; ++u) {
            const auto& f = p.surface.facets[both[u]];
            const auto a = static_cast<std::size_t>(std::find(f.begin(), f.end(), e.a) - f.begin());
            const auto b = static_cast<std::size_t>(std::find(f.begin(), f.end(), e.b) - f.begin());
            side[u] = (a + 1) % 3 == b ? a : b;
            const Vec3 &atA = corners[both[u]][a], &atB = corners[both[u]][b];
            rise += (along.dot(atB) * atB - along.dot(atA) * atA) / 16.0;
        }
        const double most = kMostBent * along.norm();
        if (rise.norm() > most) rise *= most / rise.norm();
        for (int u = 0; u < 2; ++u) over_[both[u]][side[u]] += rise;
    }
    place.resize(p.size());
    swell_.resize(p.size());
    framed_.resize(p.size());
    middle_.resize(p.size());
#pragma omp parallel for schedule(static)
    for (std::size_t i = 0; i < p.size(); ++i) {
        const auto all = pieces(i, 2);
        place[i] = (all[0][0] + all[0][1] + all[0][2]) / 3.0;
        // Of the patch's derivatives along two sides. The mean of the corners' would be too steep at a nose.
        const auto t = p.triangle(i);
        const auto& o = over_[i];
        const Vec3 of = (t[1] - t[0] + 4.0 * (o[1] - o[2])).cross(t[2] - t[0] + 4.0 * (o[1] - o[0]));
        if (of.norm() > 0.0) normal[i] = of.normalized();
        Vec3 framed = Vec3::Zero(), sum = Vec3::Zero();
        double area = 0.0;
        for (const auto& q : all) {
            const Vec3 a = 0.5 * (q[1] - q[0]).cross(q[2] - q[0]);
            framed += a;
            area += a.norm();
            sum += a.norm() / 3.0 * (q[0] + q[1] + q[2]);
        }
        framed_[i] = framed;
        middle_[i] = area > 0.0 ? Vec3(sum / area) : p.middle[i];
        swell_[i] = framed.norm() > 0.0 ? area / framed.norm() : 1.0;
    }
}

Triangle BentPanels::fromAfar(std::size_t i) const {
    Triangle t = panels_.triangle(i);
    const double size = framed_[i].norm();
    if (size <= 0.0 || panels_.area[i] <= 0.0) return t;
    const auto turn = Eigen::Quaterniond::FromTwoVectors(panels_.normal[i], framed_[i]);
    for (auto& c : t) c = middle_[i] + std::sqrt(size / panels_.area[i]) * (turn * (c - panels_.middle[i]));
    return t;
}

std::vector<Triangle> BentPanels::pieces(std::size_t i, int level) const {
    const auto t = panels_.triangle(i);
    const int m = 1 << level;
    // At corner + u / m, v / m along its two sides.
    const auto at = [&](int u, int v) -> Vec3 {
        const double b = static_cast<double>(u) / m, c = static_cast<double>(v) / m, a = 1.0 - b - c;
        return a * (2.0 * a - 1.0) * t[0] + b * (2.0 * b - 1.0) * t[1] + c * (2.0 * c - 1.0) * t[2] +
               4.0 * (a * b * over_[i][0] + b * c * over_[i][1] + c * a * over_[i][2]);
    };
    std::vector<Triangle> out;
    out.reserve(static_cast<std::size_t>(m * m));
    for (int u = 0; u < m; ++u)
        for (int v = 0; u + v < m; ++v) {
            out.push_back({at(u, v), at(u + 1, v), at(u, v + 1)});
            if (u + v + 1 < m) out.push_back({at(u + 1, v), at(u + 1, v + 1), at(u, v + 1)});
        }
    // The one about the middle first.
    const auto middle = [&](const Triangle& q) { return (q[0] + q[1] + q[2] - t[0] - t[1] - t[2]).squaredNorm(); };
    std::iter_swap(out.begin(), std::min_element(out.begin(), out.end(), [&](const Triangle& a, const Triangle& b) {
                       return middle(a) < middle(b);
                   }));
    return out;
}

}  // namespace cvane::panels
