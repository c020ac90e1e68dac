#include "flow/spalart_allmaras.h"

#include <algorithm>
#include <cmath>

namespace cvane::flow {
namespace {
// Spalart and Allmaras 1994.
constexpr double cb1 = 0.1355, sigma = 2.0 / 3.0, cb2 = 0.622, kappa = 0.41, cw2 = 0.3, cw3 = 2.0;
constexpr double cw1 = cb1 / (kappa * kappa) + (1.0 + cb2) / sigma;
constexpr double kSteep =
    1.0 / 6.0;  // a cell's half height over its distance from the wall: the first two or three beyond the wall's cell
constexpr double kStep = 1e-4;  // share of nuTilde for the slope of its source
constexpr double kTurbulent =
    3.0;  // nuTilde / nu of a free stream that makes boundary layers turbulent from the start (1994)

/// Production less destruction of nuTilde [m2/s2] at distance d from a wall.
double sourceOf(double nuTilde, double vorticity, double d, double nu) {
    const double k2d2 = kappa * kappa * d * d, chi = nuTilde / nu, fv2 = 1.0 - chi / (1.0 + chi * fv1(chi));
    const double S = std::max(vorticity + nuTilde / k2d2 * fv2, 0.3 * vorticity + 1e-30);
    const double q = std::min(nuTilde / (S * k2d2), 10.0), q3 = q * q * q, gg = q + cw2 * (q3 * q3 - q),
                 g3 = gg * gg * gg;
    constexpr double c6 = cw3 * cw3 * cw3 * cw3 * cw3 * cw3;
    const double fw = gg * std::pow((1.0 + c6) / (g3 * g3 + c6), 1.0 / 6.0);
    return cb1 * S * nuTilde - cw1 * fw * nuTilde * nuTilde / (d * d);
}

double vorticityOf(const Mat3& G) {
    return (G - G.transpose()).norm() / std::sqrt(2.0);
}
}  // namespace

SpalartAllmaras::SpalartAllmaras(TurbulenceGround ground) : g_(std::move(ground)), step_(g_) {
    // chi fv1(chi) = nuT / nu rises steadily with chi.
    const double ratio = g_.free.k / g_.free.omega / g_.nu;
    double low = 0.0, high = ratio + 2.0 * kCv1;
    for (int i = 0; i < 60; ++i) {
        const double chi = 0.5 * (low + high);
        (chi * fv1(chi) < ratio ? low : high) = chi;
    }
    ambient_ = g_.nu * std::max(low, kTurbulent);

    const Piece& p = g_.piece;
    const auto height = halfHeightOverDistance(g_);
    steep_.assign(p.stored(), -1);
    for (std::size_t c = 0; c < height.size(); ++c)
        if (height[c] > kSteep) steep_[c] = 0;
    for (std::size_t f = p.linked; f < p.faces(); ++f)
        if (g_.boundaries.at(f).sticks()) steep_[static_cast<std::size_t>(p.P[f])] = -1;
    std::int32_t count = 0;
    for (auto& place : steep_)
        if (place >= 0) place = count++;
    slopes_.resize(static_cast<std::size_t>(count));
    for (std::size_t f = 0; f < p.faces(); ++f)
        if (steep_[static_cast<std::size_t>(p.P[f])] >= 0 ||
            (f < p.inner && steep_[static_cast<std::size_t>(p.N[f])] >= 0))
            besideSteep_.push_back(f);
}

const SeriesViscosity* SpalartAllmaras::viscosityBetweenCells(const State& s) {
    // Next to walls it is made for one density and viscosity.
    if (s.compressible) return nullptr;
    between_.update(s.first, g_.nu);
    return &between_;
}

// Of the velocity, such that a cell's viscosity times it is the mean of the stresses on its faces.
void SpalartAllmaras::updateSlopes(const State& s) {
    const Piece& p = g_.piece;
    std::fill(slopes_.begin(), slopes_.end(), Mat3::Zero());
    for (const std::size_t f : besideSteep_) {
        const auto P = static_cast<std::size_t>(p.P[f]);
        if (p.isBoundary(f)) {
            slopes_[static_cast<std::size_t>(steep_[P])] +=
                (g_.velocityAtBoundary[f - p.linked] - s.U[P]) * g_.velocityGradient.forP(f).transpose();
            continue;
        }
        const auto N = static_cast<std::size_t>(p.N[f]);
        const double w = p.w[f], atP = g_.dynamicIn(P) + s.densityIn(P) * s.nuT[P],
                     atN = g_.dynamicIn(N) + s.densityIn(N) * s.nuT[N];
        const double mean = w * atP + (1.0 - w) * atN;
        const Vec3 stress = (s.compressible ? mean : between_(P, N, w, mean)) * (s.U[N] - s.U[P]);
        if (steep_[P] >= 0)
            slopes_[static_cast<std::size_t>(steep_[P])] += stress / atP * g_.velocityGradient.forP(f).transpose();
        if (f < p.inner && steep_[N] >= 0)
            slopes_[static_cast<std::size_t>(steep_[N])] += stress / atN * g_.velocityGradient.forN(f).transpose();
    }
}

std::array<double, 3> SpalartAllmaras::freeStream() const {
    return {ambient_, 0.0, ambient_ * fv1(ambient_ / g_.nu)};
}

std::array<double, 2> SpalartAllmaras::advance(State& s, const WallState& walls, const std::vector<Mat3>& gradU,
                                               const Ranks& ranks) {
    const Piece& p = g_.piece;
    auto& nuTilde = s.first;
    const auto grad = gradientOf(g_, nuTilde);
    const WallCells wall(g_, s, walls);
    updateSlopes(s);
    std::vector<double> gamma(p.stored());
    for (std::size_t c = 0; c < gamma.size(); ++c) gamma[c] = (g_.dynamicIn(c) + s.densityIn(c) * nuTilde[c]) / sigma;
    const double r = step_.advance(
        g_, ranks, s, gamma, ambient_, 1e-6 * ambient_, grad, nuTilde, &State::first,
        [&](std::size_t c, double& diag, double& b) {
            const double d = g_.distance[c], now = nuTilde[c], nu = g_.kinematicIn(s, c);
            double vorticity = vorticityOf(gradU[c]);
            if (steep_[c] >= 0)
                vorticity = std::min(vorticity, vorticityOf(slopes_[static_cast<std::size_t>(steep_[c])]));
            // As the source falls with nuTilde, steeply next to walls, it is taken along; so is the shear, which falls
            // as the viscosity rises. Without that the first cells alternated from iteration to iteration for ever at a
            // y+ of 5.
            const double source = sourceOf(now, vorticity, d, nu), more = now * (1.0 + kStep);
            const double shear = vorticity * (nu + now * fv1(now / nu)) / (nu + more * fv1(more / nu));
            const double falls = std::max(0.0, (source - sourceOf(more, shear, d, nu)) / (kStep * now));
            b += p.V[c] * (source + falls * now + cb2 / sigma * grad[c].squaredNorm());
            diag += p.V[c] * falls;
        },
        [&](std::size_t c) { return wall.has(c) ? kappa * wall.uTau[c] * wall.y[c] : -1.0; }, AsItIs{});
    for (std::size_t c = 0; c < p.stored(); ++c) s.nuT[c] = nuTilde[c] * fv1(nuTilde[c] / g_.kinematicIn(s, c));
    return {r, 0.0};
}

}  // namespace cvane::flow
