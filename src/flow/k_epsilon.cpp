#include "flow/k_epsilon.h"

#include <algorithm>
#include <cmath>

namespace cvane::flow {
namespace {
// Shih et al. 1995.
constexpr double A0 = 4.04, C2 = 1.9, sigmaK = 1.0, sigmaE = 1.2;
// Chen and Patel 1988: layer of Re_y = sqrt(k) y / nu below about 200; here the change-over is centred at 60 so that
// the wall law's cells at y+ of 30 and more lie outside.
constexpr double kappa = 0.41, cMu = 0.09, A_mu = 70.0;
const double cl = kappa * std::pow(cMu, -0.75), A_eps = 2.0 * cl;
constexpr double kChange = 60.0, kWidth = 10.0;

// Cmu = 1 / (A0 + As U* k / eps): falls with the strain, so that normal stresses stay positive.
double realisableCmu(const Mat3& G, double k, double epsilon) {
    const Mat3 S = 0.5 * (G + G.transpose()), W = 0.5 * (G - G.transpose());
    const double s2 = S.squaredNorm(), s = std::sqrt(s2);
    const double w = s > 0.0 ? (S * S * S).trace() / (s * s2) : 0.0;
    const double As = std::sqrt(6.0) * std::cos(std::acos(std::clamp(std::sqrt(6.0) * w, -1.0, 1.0)) / 3.0);
    return 1.0 / (A0 + As * std::sqrt(s2 + W.squaredNorm()) * k / epsilon);
}
}  // namespace

std::array<double, 2> KEpsilon::advance(State& s, const WallState& walls, const std::vector<Mat3>& gradU,
                                        const Ranks& ranks) {
    const Piece& p = g_.piece;
    const auto n = static_cast<std::size_t>(p.cells);
    auto &k = s.first, &epsilon = s.second;
    const auto gradK = gradientOf(g_, k), gradE = gradientOf(g_, epsilon);
    const WallCells wall(g_, s, walls);
    const double freeEpsilon = freeStream()[1];

    // 0 in the layer at the wall, 1 outside; and epsilon in the layer, k^1.5 / (cl y (1 - exp(-Re_y / A_eps)))
    std::vector<double> outside(n), inLayer(n), production(n);
    for (std::size_t c = 0; c < n; ++c) {
        const double y = wall.has(c) ? wall.y[c] : g_.distance[c], Re = std::sqrt(k[c]) * y / g_.kinematicIn(s, c);
        outside[c] = 0.5 * (1.0 + std::tanh((Re - kChange) / kWidth));
        inLayer[c] = k[c] * std::sqrt(k[c]) / (cl * y * std::max(1.0 - std::exp(-Re / A_eps), 1e-12));
        production[c] = shearSquared(gradU[c], s);
    }
    const auto gammaOf = [&](double sigma) {
        std::vector<double> gamma(p.stored());
        for (std::size_t c = 0; c < gamma.size(); ++c) gamma[c] = g_.dynamicIn(c) + s.densityIn(c) * s.nuT[c] / sigma;
        return gamma;
    };
    const double re = step_.advance(
        g_, ranks, s, gammaOf(sigmaE), freeEpsilon, 1e-8 * freeEpsilon, gradE, epsilon, &State::second,
        [&](std::size_t c, double& diag, double& b) {
            const double S = std::sqrt(production[c]), eta = S * k[c] / epsilon[c];
            const double C1 = std::max(0.43, eta / (eta + 5.0));
            b += p.V[c] * (C1 * S * epsilon[c] + C2 * freeEpsilon * freeEpsilon /
                                                     (g_.free.k + std::sqrt(g_.kinematicIn(s, c) * freeEpsilon)));
            diag += p.V[c] * C2 * epsilon[c] / (k[c] + std::sqrt(g_.kinematicIn(s, c) * epsilon[c]));
        },
        [&](std::size_t c) {
            if (wall.has(c) || outside[c] < 0.01) return std::max(inLayer[c], 1e-8 * freeEpsilon);
            return -1.0;
        },
        AsItIs{});
    const double rk = step_.advance(
        g_, ranks, s, gammaOf(sigmaK), g_.free.k, 1e-8 * g_.free.k, gradK, k, &State::first,
        [&](std::size_t c, double& diag, double& b) {
            b += p.V[c] * ((wall.has(c) ? wall.production[c] : s.nuT[c] * production[c]) + freeEpsilon);
            diag += p.V[c] * epsilon[c] / k[c];
        },
        [](std::size_t) { return -1.0; }, AsItIs{});
    for (std::size_t c = 0; c < n; ++c) {
        const double y = wall.has(c) ? wall.y[c] : g_.distance[c], Re = std::sqrt(k[c]) * y / g_.kinematicIn(s, c);
        const double layer = g_.kinematicIn(s, c) * Re * kappa * std::pow(cMu, 0.25) * (1.0 - std::exp(-Re / A_mu));
        const double free = realisableCmu(gradU[c], k[c], epsilon[c]) * k[c] * k[c] / epsilon[c];
        s.nuT[c] = outside[c] * free + (1.0 - outside[c]) * layer;
    }
    p.halo.exchange(s.nuT);
    return {rk, re};
}

}  // namespace cvane::flow
