#include "panels/surface_fit.h"

#include <algorithm>
#include <cmath>

#include "base/units.h"
#include "shape/edges.h"

namespace cvane::panels {
namespace {
constexpr double kSharp = 40.0 * base::degree;

using Neighbours = std::vector<std::vector<std::size_t>>;
// Over edges at which the surface does not turn sharply.
Neighbours smoothNeighbours(const Panels& p) {
    Neighbours out(p.size());
    for (const auto& e : shape::edgesOf(p.surface)) {
        if (e.uses.size() != 2) continue;
        const auto i = static_cast<std::size_t>(e.uses[0].facet), j = static_cast<std::size_t>(e.uses[1].facet);
        if (p.normal[i].dot(p.normal[j]) < std::cos(kSharp)) continue;
        out[i].push_back(j);
        out[j].push_back(i);
    }
    return out;
}

// Normals at a panel's corners from the panels that share them without a sharp edge between, weighted as is exact for
// spheres (N. Max, J. Graphics Tools 4(2), 1999).
std::vector<Vec3> bentNormals(const Panels& p, const Neighbours& next) {
    std::vector<Vec3> out(p.size());
    for (std::size_t i = 0; i < p.size(); ++i) {
        Vec3 sum = Vec3::Zero();
        for (int k = 0; k < 3; ++k) {
            const auto corner = p.surface.facets[i][static_cast<std::size_t>(k)];
            // The fan about the corner, as far as it goes from here.
            std::vector<std::size_t> fan{i};
            for (std::size_t at = 0; at < fan.size() && fan.size() < 64; ++at)
                for (const auto j : next[fan[at]]) {
                    const auto& f = p.surface.facets[j];
                    if (std::find(f.begin(), f.end(), corner) == f.end() ||
                        std::find(fan.begin(), fan.end(), j) != fan.end())
                        continue;
                    fan.push_back(j);
                }
            Vec3 n = Vec3::Zero();
            for (const auto j : fan) {
                auto f = p.surface.facets[j];
                while (f[0] != corner) std::rotate(f.begin(), f.begin() + 1, f.end());
                const auto at = [&](std::int32_t c) { return p.surface.points[static_cast<std::size_t>(c)]; };
                const Vec3 a = at(f[1]) - at(f[0]), b = at(f[2]) - at(f[0]);
                n += a.cross(b) / std::max(a.squaredNorm() * b.squaredNorm(), 1e-300);
            }
            sum += n.normalized();
        }
        out[i] = sum.normalized();
    }
    return out;
}
SurfaceFit::Stencil stencilAt(const Panels& p, std::size_t i, const std::vector<std::size_t>& near, const Vec3& n,
                              bool mayBend = true) {
    SurfaceFit::Stencil out;
    const auto count = static_cast<Eigen::Index>(near.size());
    if (count < 2) return out;
    const Vec3 s = n.unitOrthogonal(), t = n.cross(s);
    Eigen::MatrixX2d place(count, 2);
    for (Eigen::Index k = 0; k < count; ++k) {
        const Vec3 d = p.middle[near[static_cast<std::size_t>(k)]] - p.middle[i];
        place.row(k) << d.dot(s), d.dot(t);
    }
    // In coordinates in which the neighbours lie in a circle, for panels may be long and narrow.
    const Eigen::Matrix2d spread = place.transpose() * place / static_cast<double>(count);
    const Eigen::SelfAdjointEigenSolver<Eigen::Matrix2d> solver(spread);
    const Eigen::Vector2d h = solver.eigenvalues().cwiseMax(1e-3 * spread.trace()).cwiseSqrt();
    const Eigen::Matrix2d toRound = h.cwiseInverse().asDiagonal() * solver.eigenvectors().transpose();
    const bool bent = mayBend && count >= 7;
    Eigen::MatrixXd terms(count, bent ? 5 : 2);
    Eigen::VectorXd weight(count);
    for (Eigen::Index k = 0; k < count; ++k) {
        const Eigen::Vector2d x = toRound * place.row(k).transpose();
        weight[k] = 1.0 / (0.3 + x.squaredNorm());
        terms(k, 0) = x[0];
        terms(k, 1) = x[1];
        if (bent) terms.row(k).tail(3) << x[0] * x[0], x[0] * x[1], x[1] * x[1];
    }
    Eigen::CompleteOrthogonalDecomposition<Eigen::MatrixXd> whole;
    // What neighbours hardly tell is left out: those of a corner lie nearly on one line.
    whole.setThreshold(0.02);
    whole.compute(weight.asDiagonal() * terms);
    const Eigen::MatrixXd inverse = whole.pseudoInverse() * weight.asDiagonal();
    out.panels = near;
    for (Eigen::Index k = 0; k < count; ++k) {
        const Eigen::Vector2d g = toRound.transpose() * inverse.col(k).head<2>();
        out.weights.push_back(g[0] * s + g[1] * t);
    }
    return out;
}
}  // namespace

SurfaceFit::SurfaceFit(const Panels& p) : stencils(p.size()), near(p.size()) {
    const auto next = smoothNeighbours(p);
    normal = bentNormals(p, next);
#pragma omp parallel for schedule(dynamic, 64)
    for (std::size_t i = 0; i < p.size(); ++i) {
        // Two rings.
        auto& ofIt = near[i];
        ofIt = {i};
        std::size_t ringEnd = 1, from = 0;
        for (int ring = 0; ring < 3 && (ring < 2 || ofIt.size() < 9); ++ring) {
            for (; from < ringEnd; ++from)
                for (const auto j : next[ofIt[from]])
                    if (std::find(ofIt.begin(), ofIt.end(), j) == ofIt.end() && normal[j].dot(normal[i]) > 0.3)
                        ofIt.push_back(j);
            ringEnd = ofIt.size();
        }
        ofIt.erase(ofIt.begin());
        stencils[i] = stencilAt(p, i, ofIt, normal[i]);
    }
}

std::vector<std::size_t> SurfaceFit::part(const std::function<bool(std::size_t, std::size_t)>& between,
                                          const Panels& p) {
    std::vector<char> parted(p.size(), 0);
#pragma omp parallel for schedule(dynamic, 64)
    for (std::size_t i = 0; i < p.size(); ++i) {
        if (std::erase_if(near[i], [&](std::size_t j) { return between(i, j); }) > 0) parted[i] = 1;
        if (parted[i]) stencils[i] = stencilAt(p, i, near[i], normal[i]);
    }
    std::vector<std::size_t> out;
    for (std::size_t i = 0; i < p.size(); ++i)
        if (parted[i]) out.push_back(i);
    return out;
}

SurfaceFit::Stencil SurfaceFit::plane(const Panels& p, std::size_t i) const {
    return stencilAt(p, i, near[i], normal[i], false);
}

Vec3 SurfaceFit::gradient(std::size_t i, const double* values) const {
    Vec3 g = Vec3::Zero();
    const Stencil& s = stencils[i];
    for (std::size_t k = 0; k < s.panels.size(); ++k) g += s.weights[k] * (values[s.panels[k]] - values[i]);
    return g;
}

std::vector<Vec3> SurfaceFit::gradients(const double* values) const {
    std::vector<Vec3> out(stencils.size());
#pragma omp parallel for schedule(static)
    for (std::size_t i = 0; i < out.size(); ++i) out[i] = gradient(i, values);
    return out;
}

}  // namespace cvane::panels
