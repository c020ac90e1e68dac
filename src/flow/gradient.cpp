#include "flow/gradient.h"

#include "flow/ahead.h"

namespace cvane::flow {

Gradient::Gradient(const Piece& p, const std::vector<char>& uses) : piece_(p) {
    // Normal equations: sum_f (d d^T / |d|^2) grad = sum_f d (phi_N - phi_P) / |d|^2.
    std::vector<Mat3> M(static_cast<std::size_t>(p.cells), Mat3::Zero());
    const auto dOf = [&](std::size_t f) -> Vec3 {
        return p.isBoundary(f) ? Vec3(p.xf[f] - p.x[static_cast<std::size_t>(p.P[f])]) : p.d[f];
    };
    const auto takes = [&](std::size_t f) { return !p.isBoundary(f) || uses[f - p.linked]; };
    for (std::size_t f = 0; f < p.faces(); ++f) {
        if (!takes(f)) continue;
        const Vec3 d = dOf(f);
        const Mat3 m = d * d.transpose() / d.squaredNorm();
        M[static_cast<std::size_t>(p.P[f])] += m;
        if (f < p.inner) M[static_cast<std::size_t>(p.N[f])] += m;
    }
    // A cell with neighbours on one plane only knows nothing across it: unused boundary faces then enter with no change
    // towards them.
    std::vector<char> poor(M.size(), 0);
    for (std::size_t c = 0; c < M.size(); ++c) {
        const Eigen::SelfAdjointEigenSolver<Mat3> eigen(M[c], Eigen::EigenvaluesOnly);
        poor[c] = eigen.eigenvalues()[0] < 0.02 * eigen.eigenvalues()[2];
    }
    for (std::size_t f = p.linked; f < p.faces(); ++f) {
        const auto c = static_cast<std::size_t>(p.P[f]);
        if (takes(f) || !poor[c]) continue;
        const Vec3 d = dOf(f);
        M[c] += d * d.transpose() / d.squaredNorm();
    }
    for (std::size_t c = 0; c < M.size(); ++c) {
        M[c] += 1e-14 * M[c].trace() * Mat3::Identity();
        M[c] = M[c].inverse().eval();
    }
    cP_.assign(p.faces(), Vec3::Zero());
    cN_.assign(p.inner, Vec3::Zero());
    for (std::size_t f = 0; f < p.faces(); ++f) {
        if (!takes(f)) continue;
        const Vec3 d = dOf(f);
        cP_[f] = M[static_cast<std::size_t>(p.P[f])] * d / d.squaredNorm();
        if (f < p.inner) cN_[f] = M[static_cast<std::size_t>(p.N[f])] * d / d.squaredNorm();
    }
}

namespace {
inline Vec3 outer(double dphi, const Vec3& c) {
    return dphi * c;
}
inline Mat3 outer(const Vec3& du, const Vec3& c) {
    return du * c.transpose();
}
}  // namespace

template <class T, class G>
void Gradient::apply(const std::vector<T>& phi, const std::vector<T>& atBoundary, std::vector<G>& grad) const {
    const Piece& p = piece_;
    grad.resize(p.stored());
    for (std::size_t c = 0; c < static_cast<std::size_t>(p.cells); ++c) grad[c].setZero();
    for (std::size_t f = 0; f < p.inner; ++f) {
        fetchNeighbourAhead(p, f, phi, grad);
        const auto P = static_cast<std::size_t>(p.P[f]), N = static_cast<std::size_t>(p.N[f]);
        const T dphi = phi[N] - phi[P];
        grad[P] += outer(dphi, cP_[f]);
        grad[N] += outer(dphi, cN_[f]);
    }
    for (std::size_t f = p.inner; f < p.faces(); ++f) {
        const auto P = static_cast<std::size_t>(p.P[f]);
        const T dphi = (p.isBoundary(f) ? atBoundary[f - p.linked] : phi[static_cast<std::size_t>(p.N[f])]) - phi[P];
        grad[P] += outer(dphi, cP_[f]);
    }
    p.halo.exchange(grad);
}

void Gradient::operator()(const std::vector<double>& phi, const std::vector<double>& b, std::vector<Vec3>& g) const {
    apply(phi, b, g);
}
void Gradient::operator()(const std::vector<Vec3>& u, const std::vector<Vec3>& b, std::vector<Mat3>& g) const {
    apply(u, b, g);
}

void gradientOf(const Piece& p, const Gradient& gradient, const std::vector<double>& phi, std::vector<Vec3>& out) {
    std::vector<double> atBoundary(p.faces() - p.linked);
    for (std::size_t i = 0; i < atBoundary.size(); ++i)
        atBoundary[i] = phi[static_cast<std::size_t>(p.P[p.linked + i])];
    gradient(phi, atBoundary, out);
}

}  // namespace cvane::flow
