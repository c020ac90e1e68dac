#include "flow/starts.h"

#include <algorithm>
#include <cmath>

#include "flow/variables.h"

namespace cvane::flow {
namespace {
/// A start's turbulence changes by this factor at most: near walls a coarse cell knows little of it.
constexpr double kMostChange = 5.0;
/// Mach number from which on a potential flow of incompressible air is no start.
constexpr double kFastStart = 0.9;

/// Changes a turbulent quantity as another has changed, to the power `share`.
void changeAlike(double& value, double from, double to, double share = 1.0) {
    if (from > 0.0 && to > 0.0) value *= std::clamp(std::pow(to / from, share), 1.0 / kMostChange, kMostChange);
}

std::vector<Vec3> ownCentres(const Piece& p) {
    return {p.x.begin(), p.x.begin() + p.cells};
}
}  // namespace

double Starts::densityAt(std::size_t f) const {
    if (!flow_.gas) return 1.0;
    const Piece& p = flow_.piece;
    const auto& r = flow_.state.density;
    return p.w[f] * r[static_cast<std::size_t>(p.P[f])] + (1.0 - p.w[f]) * r[static_cast<std::size_t>(p.N[f])];
}

void Starts::addWind(const Vec3& dU) {
    const Piece& p = flow_.piece;
    State& s = flow_.state;
    for (std::size_t f = 0; f < p.faces(); ++f)
        s.flux[f] = p.isBoundary(f) ? boundaries_.at(f).changedFlux(flow_, f, s.flux[f], dU)
                                    : s.flux[f] + densityAt(f) * dU.dot(p.S[f]);
    for (Vec3& u : s.U) u += dU;
    continuity_.takeOutDivergence(flow_, gradients_.ofPressure());
}

void Starts::fromPotentialFlow() {
    State& s = flow_.state;
    if (flow_.gas && case_.wind.mach() > kFastStart) {
        fromUniformWind();
        return;
    }
    addWind(case_.wind.velocity());
    const double V2 = case_.wind.speed * case_.wind.speed;
    // Bernoulli, cut off where a sharp edge sends the potential speed to infinity.
    for (std::size_t c = 0; c < s.p.size(); ++c) s.p[c] = 0.5 * (V2 - std::min(s.U[c].squaredNorm(), 3.0 * V2));
    if (flow_.gas) {
        // The potential rushes round edges without regard to the speed of sound.
        const double most = std::min(flow_.gas->soundSpeed(), 1.5 * case_.wind.speed);
        for (Vec3& u : s.U) u *= std::min(1.0, most / std::max(u.norm(), 1e-300));
        for (std::size_t c = 0; c < s.p.size(); ++c) s.p[c] = flow_.gas->isentropicPressure(flow_.temperatureIn(c));
        EnergyEquation::updateDensity(flow_);
    }
    gradients_.updateAll(flow_);
}

void Starts::fromUniformWind() {
    // The walls stop what meets them in the first iterations, as in a tunnel that is started at once.
    const Piece& p = flow_.piece;
    State& s = flow_.state;
    std::fill(s.U.begin(), s.U.end(), case_.wind.velocity());
    EnergyEquation::updateDensity(flow_);
    for (std::size_t f = 0; f < p.faces(); ++f)
        s.flux[f] = p.isBoundary(f) ? boundaries_.at(f).changedFlux(flow_, f, 0.0, case_.wind.velocity())
                                    : case_.wind.velocity().dot(p.S[f]);
    gradients_.updateAll(flow_);
}

void Starts::fromNeighbour(const Checkpoint& settled, const air::FreeStream& its) {
    State& s = flow_.state;
    scatterState(settled, flow_.piece, s, ranks_);
    const double a = case_.wind.speed / its.speed;
    const auto powers = turbulence_ ? turbulence_->powersOfSpeed() : std::array<double, 2>{0.0, 0.0};
    const double turned[2] = {std::pow(a, powers[0]), std::pow(a, powers[1])};
    for (std::size_t c = 0; c < s.p.size(); ++c) {
        s.U[c] *= a;
        s.p[c] *= a * a;
        s.first[c] *= turned[0];
        s.second[c] *= turned[1];
        s.nuT[c] *= a;
    }
    for (double& f : s.flux) f *= a;
    if (flow_.gas) {
        for (double& h : s.enthalpy) h *= a * a;
        EnergyEquation::updateDensity(flow_);
    }
    addWind(case_.wind.velocity() - a * its.velocity());
    gradients_.updateAll(flow_);
}

void Starts::fromNeighbours(const Checkpoint& nearer, const air::FreeStream& its, const Checkpoint& second,
                            const air::FreeStream& secondWind) {
    State& s = flow_.state;
    State before = s;
    scatterState(second, flow_.piece, before, ranks_);
    scatterState(nearer, flow_.piece, s, ranks_);
    const Vec3 way = its.velocity() - secondWind.velocity();
    const double share = (case_.wind.velocity() - its.velocity()).dot(way) / way.squaredNorm();
    for (std::size_t c = 0; c < s.p.size(); ++c) {
        s.U[c] += share * (s.U[c] - before.U[c]);
        s.p[c] += share * (s.p[c] - before.p[c]);
        changeAlike(s.first[c], before.first[c], s.first[c], share);
        changeAlike(s.second[c], before.second[c], s.second[c], share);
        changeAlike(s.nuT[c], before.nuT[c], s.nuT[c], share);
        if (flow_.gas) s.enthalpy[c] += share * (s.enthalpy[c] - before.enthalpy[c]);
    }
    if (flow_.gas) EnergyEquation::updateDensity(flow_);
    for (std::size_t f = 0; f < s.flux.size(); ++f) s.flux[f] += share * (s.flux[f] - before.flux[f]);
    addWind(case_.wind.velocity() - its.velocity() - share * way);
    gradients_.updateAll(flow_);
}

void Starts::followCoarser(const FlowChange& change) {
    const Piece& p = flow_.piece;
    State& s = flow_.state;
    const auto near = nearestPoints({&change.to, &change.from}, ownCentres(p), ranks_);
    const State &to = near[0].at, &from = near[1].at;
    std::vector<Vec3> dU(p.stored(), Vec3::Zero());
    for (std::size_t c = 0; c < static_cast<std::size_t>(p.cells); ++c) {
        dU[c] = to.U[c] - from.U[c];
        s.U[c] += dU[c];
        s.p[c] += to.p[c] - from.p[c];
        changeAlike(s.first[c], from.first[c], to.first[c]);
        changeAlike(s.second[c], from.second[c], to.second[c]);
        changeAlike(s.nuT[c], from.nuT[c], to.nuT[c]);
        if (flow_.gas) s.enthalpy[c] += to.enthalpy[c] - from.enthalpy[c];
    }
    exchangeAll(p, s);
    if (flow_.gas) EnergyEquation::updateDensity(flow_);
    p.halo.exchange(dU);
    gradients_.updateBoundary(flow_);
    for (std::size_t f = 0; f < p.faces(); ++f) {
        const auto P = static_cast<std::size_t>(p.P[f]);
        if (p.isBoundary(f))
            s.flux[f] = boundaries_.at(f).changedFlux(flow_, f, s.flux[f], dU[P]);
        else
            s.flux[f] +=
                densityAt(f) * (p.w[f] * dU[P] + (1.0 - p.w[f]) * dU[static_cast<std::size_t>(p.N[f])]).dot(p.S[f]);
    }
    continuity_.takeOutDivergence(flow_, gradients_.ofPressure());
    gradients_.updateAll(flow_);
}

void Starts::fromCoarser(const FlowCloud& part) {
    const Piece& p = flow_.piece;
    State& s = flow_.state;
    const FlowCloud coarse = std::move(nearestPoints({&part}, ownCentres(p), ranks_).front());
    const double V = case_.wind.speed;
    for (std::size_t c = 0; c < static_cast<std::size_t>(p.cells); ++c) {
        const Vec3 r = p.x[c] - coarse.x[c];
        // Along the slope, but no farther than half the wind from what the coarse cell knows.
        const Vec3 dU = coarse.gradU[c] * r;
        const double dp = coarse.gradP[c].dot(r), most = 0.5 * V;
        s.U[c] = coarse.at.U[c] + std::min(1.0, most / std::max(dU.norm(), 1e-300)) * dU;
        s.p[c] = coarse.at.p[c] + std::clamp(dp, -most * V, most * V);
        s.first[c] = coarse.at.first[c];
        s.second[c] = coarse.at.second[c];
        s.nuT[c] = coarse.at.nuT[c];
        if (flow_.gas) s.enthalpy[c] = coarse.at.enthalpy[c];
    }
    exchangeAll(p, s);
    if (flow_.gas) EnergyEquation::updateDensity(flow_);
    gradients_.updateBoundary(flow_);
    for (std::size_t f = 0; f < p.faces(); ++f) {
        const auto P = static_cast<std::size_t>(p.P[f]);
        if (p.isBoundary(f))
            s.flux[f] = boundaries_.at(f).changedFlux(flow_, f, 0.0, s.U[P]);
        else
            s.flux[f] =
                densityAt(f) * (p.w[f] * s.U[P] + (1.0 - p.w[f]) * s.U[static_cast<std::size_t>(p.N[f])]).dot(p.S[f]);
    }
    continuity_.takeOutDivergence(flow_, gradients_.ofPressure());
    gradients_.updateAll(flow_);
}

}  // namespace cvane::flow
