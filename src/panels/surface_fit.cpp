#include "panels/surface_fit.h"

#include <algorithm>
#include <cmath>

namespace cvane::panels {
namespace {
SurfaceFit::Stencil stencilAt(const BentPanels& bent, std::size_t i, const std::vector<std::size_t>& near,
                              bool mayBend = true) {
    const Vec3& n = bent.normal[i];
    SurfaceFit::Stencil out;
    const auto count = static_cast<Eigen::Index>(near.size());
    if (count < 2) return out;
    const Vec3 s = n.unitOrthogonal(), t = n.cross(s);
    Eigen::MatrixX2d place(count, 2);
    for (Eigen::Index k = 0; k < count; ++k) {
        const Vec3 d = bent.place[near[static_cast<std::size_t>(k)]] - bent.place[i];
        place.row(k) << d.dot(s), d.dot(t);
    }
    // In coordinates in which the neighbours lie in a circle, for panels may be long and narrow.
    const Eigen::Matrix2d spread = place.transpose() * place / static_cast<double>(count);
    const Eigen::SelfAdjointEigenSolver<Eigen::Matrix2d> solver(spread);
    const Eigen::Vector2d h = solver.eigenvalues().cwiseMax(1e-3 * spread.trace()).cwiseSqrt();
    const Eigen::Matrix2d toRound = h.cwiseInverse().asDiagonal() * solver.eigenvectors().transpose();
    const bool quadratic = mayBend && count >= 7;
    Eigen::MatrixXd terms(count, quadratic ? 5 : 2);
    Eigen::VectorXd weight(count);
    for (Eigen::Index k = 0; k < count; ++k) {
        const Eigen::Vector2d x = toRound * place.row(k).transpose();
        weight[k] = 1.0 / (0.3 + x.squaredNorm());
        terms(k, 0) = x[0];
        terms(k, 1) = x[1];
        if (quadratic) terms.row(k).tail(3) << x[0] * x[0], x[0] * x[1], x[1] * x[1];
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

SurfaceFit::SurfaceFit(const BentPanels& bent) : stencils(bent.place.size()), near(bent.place.size()), bent_(bent) {
    const auto& normal = bent.normal;
    const auto& next = bent.next;
#pragma omp parallel for schedule(dynamic, 64)
    for (std::size_t i = 0; i < near.size(); ++i) {
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
        stencils[i] = stencilAt(bent, i, ofIt);
    }
}

std::vector<std::size_t> SurfaceFit::part(const std::function<bool(std::size_t, std::size_t)>& between) {
    std::vector<char> parted(near.size(), 0);
#pragma omp parallel for schedule(dynamic, 64)
    for (std::size_t i = 0; i < near.size(); ++i) {
        if (std::erase_if(near[i], [&](std::size_t j) { return between(i, j); }) > 0) parted[i] = 1;
        if (parted[i]) stencils[i] = stencilAt(bent_, i, near[i]);
    }
    std::vector<std::size_t> out;
    for (std::size_t i = 0; i < near.size(); ++i)
        if (parted[i]) out.push_back(i);
    return out;
}

SurfaceFit::Stencil SurfaceFit::plane(std::size_t i) const {
    return stencilAt(bent_, i, near[i], false);
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
