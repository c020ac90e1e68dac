#include "flow/turbulence.h"

#include <algorithm>
#include <cmath>

#include "flow/k_epsilon.h"
#include "flow/spalart_allmaras.h"
#include "flow/sst.h"
#include "flow/wall_law.h"

namespace cvane::flow {

FreeTurbulence freeTurbulenceOf(const FlowSettings& s, double speed, double L) {
    // The models divide by k. So little is as good as none, and then there is no length of it either.
    constexpr double kLeast = 1e-5;
    const double k = 1.5 * std::pow(std::max(s.turbulenceIntensity, kLeast) * speed, 2);
    const bool byLength = s.turbulenceLength > 0.0 && s.turbulenceIntensity >= kLeast;
    return {k, byLength ? std::sqrt(k) / (std::pow(0.09, 0.25) * s.turbulenceLength) : 5.0 * speed / L};
}

std::array<const char*, 2> namesOfVariables(Model model) {
    switch (model) {
        case Model::Sst:
            return {"TurbulentEnergyKinetic", "TurbulentDissipationRate"};
        case Model::KEpsilon:
            return {"TurbulentEnergyKinetic", "TurbulentDissipation"};
        case Model::SpalartAllmaras:
            return {"TurbulentSANuTilde", ""};
        case Model::Laminar:
        case Model::Inviscid:
            break;
    }
    return {"", ""};
}

std::unique_ptr<TurbulenceModel> makeTurbulence(Model model, TurbulenceGround ground) {
    switch (model) {
        case Model::Sst:
            return std::make_unique<Sst>(std::move(ground));
        case Model::SpalartAllmaras:
            return std::make_unique<SpalartAllmaras>(std::move(ground));
        case Model::KEpsilon:
            return std::make_unique<KEpsilon>(std::move(ground));
        case Model::Laminar:
        case Model::Inviscid:
            break;
    }
    return nullptr;
}

double TurbulenceModel::frictionVelocity(double U, double y, double nu, double roughness) const {
    return flow::frictionVelocity(U, y, nu, roughness);
}

double TurbulenceModel::slopeOfLaw(double uPlus, double, double ksPlus) const {
    return wallLawSlope(uPlus, ksPlus);
}

WallCells::WallCells(const TurbulenceGround& g, const State& s, const WallState& walls) {
    const Piece& p = g.piece;
    const auto n = static_cast<std::size_t>(p.cells);
    area.assign(n, 0.0);
    production.assign(n, 0.0);
    uTau.assign(n, 0.0);
    y.assign(n, 0.0);
    for (std::size_t f = p.linked; f < p.faces(); ++f) {
        const auto i = f - p.linked;
        const PatchRole& role = g.boundaries.role(f);
        if (!role.boundary->sticks() || !(p.area[f] > 0.0)) continue;
        const auto c = static_cast<std::size_t>(p.P[f]);
        const double A = p.area[f], u = walls.uTau[i], high = A / p.gap[f], nu = g.kinematicIn(s, c);
        // u+ at the centre of the cell, from the shear that the law found there
        const double yPlus = u * high / nu,
                     uPlus = walls.nuWall[i] > 0.0 ? yPlus * g.dynamicIn(c) / walls.nuWall[i] : yPlus;
        const double slope = wallLawSlope(std::min(uPlus, 100.0), u * role.roughness / nu);
        area[c] += A;
        production[c] += A * u * u * u * u / nu * slope * (1.0 - slope);
        uTau[c] += A * u;
        y[c] += A * (high + kRoughShift * role.roughness);
    }
    for (std::size_t c = 0; c < n; ++c)
        if (area[c] > 0.0) {
            production[c] /= area[c];
            uTau[c] /= area[c];
            y[c] /= area[c];
        }
}

std::vector<double> halfHeightOverDistance(const TurbulenceGround& g) {
    const Piece& p = g.piece;
    auto d = g.distance;
    d.resize(p.stored());
    p.halo.exchange(d);
    const auto away = gradientOf(g, d);
    std::vector<double> across(p.stored(), 0.0);  // twice the cell's area seen along the way from the wall
    for (std::size_t f = 0; f < p.faces(); ++f) {
        const auto P = static_cast<std::size_t>(p.P[f]);
        across[P] += std::abs(p.S[f].dot(away[P].normalized()));
        if (f < p.inner) {
            const auto N = static_cast<std::size_t>(p.N[f]);
            across[N] += std::abs(p.S[f].dot(away[N].normalized()));
        }
    }
    std::vector<double> out(g.distance.size(), 0.0);
    for (std::size_t c = 0; c < out.size(); ++c)
        if (across[c] > 0.0) out[c] = p.V[c] / (across[c] * g.distance[c]);
    return out;
}

std::vector<Vec3> gradientOf(const TurbulenceGround& g, const std::vector<double>& phi) {
    std::vector<Vec3> out;
    gradientOf(g.piece, g.gradient, phi, out);
    return out;
}

}  // namespace cvane::flow
