#include "flow/spalart_allmaras.h"

#include <cmath>

namespace cvane::flow {
namespace {
// Spalart and Allmaras 1994.
constexpr double cb1 = 0.1355, sigma = 2.0 / 3.0, cb2 = 0.622, kappa = 0.41, cw2 = 0.3, cw3 = 2.0, cv1 = 7.1;
constexpr double cw1 = cb1 / (kappa * kappa) + (1.0 + cb2) / sigma;
constexpr double kTurbulent = 3.0;  // nuTilde / nu of a free stream that makes boundary layers turbulent from the start (1994)

double fv1(double chi) { return chi * chi * chi / (chi * chi * chi + cv1 * cv1 * cv1); }
}  // namespace

SpalartAllmaras::SpalartAllmaras(TurbulenceGround ground) : g_(std::move(ground)), step_(g_) {
    // chi fv1(chi) = nuT / nu rises steadily with chi.
    const double ratio = g_.free.k / g_.free.omega / g_.nu;
    double low = 0.0, high = ratio + 2.0 * cv1;
    for (int i = 0; i < 60; ++i) {
        const double chi = 0.5 * (low + high);
        (chi * fv1(chi) < ratio ? low : high) = chi;
    }
    ambient_ = g_.nu * std::max(low, kTurbulent);
}

std::array<double, 3> SpalartAllmaras::freeStream() const { return {ambient_, 0.0, ambient_ * fv1(ambient_ / g_.nu)}; }

std::array<double, 2> SpalartAllmaras::advance(State& s, const WallState& walls, const std::vector<Mat3>& gradU, const Ranks& ranks) {
    const Piece& p = g_.piece;
    auto& nuTilde = s.first;
    const auto grad = gradientOf(g_, nuTilde);
    const WallCells wall(g_, walls);
    std::vector<double> gamma(p.stored());
    for (std::size_t c = 0; c < gamma.size(); ++c) gamma[c] = (g_.nu + nuTilde[c]) / sigma;
    const double r = step_.advance(g_, ranks, s.flux, gamma, ambient_, 1e-6 * ambient_, grad, nuTilde,
        [&](std::size_t c, double& diag, double& b) {
            const double d = g_.distance[c], k2d2 = kappa * kappa * d * d, chi = nuTilde[c] / g_.nu;
            const double vorticity = (gradU[c] - gradU[c].transpose()).norm() / std::sqrt(2.0);
            const double fv2 = 1.0 - chi / (1.0 + chi * fv1(chi));
            const double S = std::max(vorticity + nuTilde[c] / k2d2 * fv2, 0.3 * vorticity + 1e-30);
            const double q = std::min(nuTilde[c] / (S * k2d2), 10.0), gg = q + cw2 * (std::pow(q, 6) - q);
            const double fw = gg * std::pow((1.0 + std::pow(cw3, 6)) / (std::pow(gg, 6) + std::pow(cw3, 6)), 1.0 / 6.0);
            b += p.V[c] * (cb1 * S * nuTilde[c] + cb2 / sigma * grad[c].squaredNorm());
            diag += p.V[c] * cw1 * fw * nuTilde[c] / (d * d);
        },
        [&](std::size_t c) { return wall.has(c) ? kappa * wall.uTau[c] * wall.y[c] : -1.0; }, AsItIs{});
    for (std::size_t c = 0; c < p.stored(); ++c) s.nuT[c] = nuTilde[c] * fv1(nuTilde[c] / g_.nu);
    return {r, 0.0};
}

}  // namespace cvane::flow
