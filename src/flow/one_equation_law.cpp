#include "flow/one_equation_law.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <complex>

#include "flow/wall_law.h"

namespace cvane::flow {
namespace {
constexpr double kappa = 0.41;

double viscosityOver(double chi) {
    return 1.0 + chi * fv1(chi);
}

/// Partial fractions of 1 / (1 + c fv1) = (c^3 + a) / (c^4 + c^3 + a), a = 7.1^3: one of each pair of conjugate roots.
struct Term {
    std::complex<double> root, share;
    double overSquare, angle;  ///< 1 / |root|^2, arg(root)
};
std::array<Term, 2> termsOfIntegral() {
    std::array<Term, 2> terms;
    constexpr double a = kCv1 * kCv1 * kCv1;
    // No root is real; Newton's steps lead from these to the one in front of the wall and the one behind it.
    const std::complex<double> starts[2] = {{3.0, 3.0}, {-3.0, 3.0}};
    for (std::size_t i = 0; i < 2; ++i) {
        auto r = starts[i];
        for (int step = 0; step < 60; ++step) r -= (r * r * r * r + r * r * r + a) / (4.0 * r * r * r + 3.0 * r * r);
        terms[i] = {r, (r * r * r + a) / (4.0 * r * r * r + 3.0 * r * r), 1.0 / std::norm(r), std::arg(r)};
    }
    return terms;
}
}  // namespace

double speedIntegral(double chi) {
    static const auto terms = termsOfIntegral();
    double sum = 0.0;
    // 2 share ln(1 - chi / root), the real part, in real numbers: this is asked of every cell in every iteration.
    for (const Term& t : terms) {
        const double x = t.root.real() - chi, y = t.root.imag();
        sum += t.share.real() * std::log((x * x + y * y) * t.overSquare) -
               2.0 * t.share.imag() * (std::atan2(y, x) - t.angle);
    }
    return sum;
}

double inverseSpeedIntegral(double value) {
    // The integral bends down everywhere: Newton from below stays below.
    double chi = value;
    for (int i = 0; i < 100; ++i) {
        const double step = (value - speedIntegral(chi)) * viscosityOver(chi);
        chi += step;
        if (std::abs(step) <= 1e-12 * chi) break;
    }
    return chi;
}

double oneEquationFrictionVelocity(double U, double y, double nu, double ks) {
    const double Re = U * y / nu;
    if (!(Re > 1e-12)) return 0.0;
    double yPlus = Re / firstGuessOfSpeed(Re);
    for (int turn = 0; turn < (ks > 0.0 ? 30 : 1); ++turn) {
        const double before = yPlus, chi0 = ks > 0.0 ? inverseSpeedIntegral(std::log1p(0.3 * yPlus * ks / y)) : 0.0,
                     H0 = speedIntegral(chi0);
        for (int i = 0; i < 30; ++i) {
            const double chi = kappa * yPlus + chi0, uPlus = (speedIntegral(chi) - H0) / kappa;
            const double step = (yPlus * uPlus - Re) / (uPlus + yPlus / viscosityOver(chi));
            yPlus = std::max(yPlus - step, 0.2 * yPlus);
            if (std::abs(step) < 1e-10 * yPlus) break;
        }
        if (std::abs(yPlus - before) < 1e-8 * yPlus) break;
    }
    return yPlus * nu / y;
}

double oneEquationSlope(double yPlus, double ksPlus) {
    const double chi0 = ksPlus > 0.0 ? inverseSpeedIntegral(std::log1p(0.3 * ksPlus)) : 0.0;
    return 1.0 / viscosityOver(kappa * yPlus + chi0);
}

void SeriesViscosity::update(const std::vector<double>& nuTilde, double viscosity) {
    nu = viscosity;
    chi.resize(nuTilde.size());
    integral.resize(nuTilde.size());
    for (std::size_t c = 0; c < chi.size(); ++c) {
        chi[c] = nuTilde[c] / nu;
        integral[c] = speedIntegral(chi[c]);
    }
}

}  // namespace cvane::flow
