#include "flow/gradients.h"

#include <algorithm>
#include <cmath>

#include "air/plate_layer.h"
#include "flow/ahead.h"

namespace cvane::flow {
namespace {
// The speed at the edge of a plate's layer is 2 Pi / kappa = 2.4 u_tau above the logarithm there (D. Coles, J. Fluid
// Mech. 1, 1956, Pi about 0.5), as much as the logarithm gains up to this multiple of its thickness.
constexpr double kWakeOfLayer = 2.7;
/// Second difference of the pressure between neighbours over four times their mean, as A. Jameson, W. Schmidt, E.
/// Turkel, AIAA 81-1259, tell shocks by: below the first a flow counts as smooth, above the second as a shock.
constexpr double kSmooth = 0.01, kShock = 0.05;
/// A shock has Mach 1 on one side of it, and the pressure rises along the flow. Below the first nothing counts as one;
/// an expansion counts for the second of what it would as a shock.
constexpr double kSlow = 0.9, kOfExpansion = 0.25;

/// What a wall's cell tells the law of the wall.
struct AtWall {
    double speed;    ///< along the wall, as it would be at the wall's density [m/s]
    double nu;       ///< kinematic viscosity at the wall [m2/s]
    double density;  ///< at the wall, over the free stream's
};

/// An adiabatic wall is as warm as the air that it has stopped, less a share that leaves by conduction; the law of the
/// wall then holds for van Driest's speed (E. R. van Driest, J. Aero. Sci. 18, 1951), u = sqrt(2 cp Tw / r) asin(u /
/// sqrt(2 cp Tw / r)), r: the recovery factor.
AtWall atWall(const Flow& flow, std::size_t P, double speed, bool turbulent) {
    if (!flow.gas) return {speed, flow.nu, 1.0};
    const GasLaw& g = *flow.gas;
    const double recovery = turbulent ? std::cbrt(g.prandtl) : std::sqrt(g.prandtl);
    const double Tw = flow.temperatureIn(P) + 0.5 * recovery * speed * speed / g.cp();
    const double density = g.densityOf(flow.state.p[P], Tw), most = std::sqrt(2.0 * g.cp() * Tw / recovery);
    return {most * std::asin(std::min(1.0, speed / most)), g.viscosityOf(Tw) / density, density};
}
}  // namespace

FlowGradients::FlowGradients(const Flow& flow, const Boundaries& boundaries, const Case& c, double groundBegins)
    : boundaries_(boundaries),
      frictionless_(c.settings.model == Model::Inviscid),
      windSpeed_(c.wind.speed),
      groundBegins_(groundBegins),
      velocityKnown_(boundaries.velocityKnown()),
      pressureKnown_(boundaries.pressureKnown()),
      ofVelocity_(flow.piece, velocityKnown_),
      ofPressure_(flow.piece, pressureKnown_),
      limitVelocity_(flow.piece, c.settings.limiter, true),
      limitPressure_(flow.piece, c.settings.limiter, false),
      noPressure_(flow.piece.faces() - flow.piece.linked, 0.0),
      nothingKnown_(noPressure_.size(), 0) {}

void FlowGradients::updateBoundary(Flow& flow) const {
    const Piece& p = flow.piece;
    for (std::size_t f = p.linked; f < p.faces(); ++f)
        flow.atBoundary[f - p.linked] = boundaries_.at(f).velocity(flow, f);
}

void FlowGradients::updateWalls(Flow& flow) const {
    const Piece& p = flow.piece;
    WallState& walls = flow.walls;
    for (std::size_t f = p.linked; f < p.faces(); ++f) {
        if (!boundaries_.at(f).sticks() || !(p.area[f] > 0.0)) continue;
        const auto i = f - p.linked;
        const PatchRole& role = boundaries_.role(f);
        const Vec3 n = p.S[f] / p.area[f];
        const Vec3 u = flow.state.U[static_cast<std::size_t>(p.P[f])] - flow.atBoundary[i];
        const double speed = (u - u.dot(n) * n).norm(), y = p.area[f] / p.gap[f];
        const auto [law, nu, density] = atWall(flow, static_cast<std::size_t>(p.P[f]), speed, turbulence_ != nullptr);
        const double viscosity = density * nu;
        // A ground's boundary layer is as thick as its run makes it, however thick the cell: beyond it the logarithm,
        // and the wake that tops it, rise no more.
        const double layer =
            role.ground == Ground::Held ? air::plateLayerThickness(p.xf[f].x() - groundBegins_, windSpeed_, nu) : 0.0;
        const double yLaw = layer > 0.0 ? std::min(y, kWakeOfLayer * layer) : y;
        if (turbulence_) {
            walls.uTau[i] = turbulence_->frictionVelocity(law, yLaw, nu, role.roughness);
            walls.nuWall[i] =
                speed > 1e-12 ? std::max(viscosity, density * walls.uTau[i] * walls.uTau[i] * y / speed) : viscosity;
        } else {
            walls.uTau[i] = std::sqrt(nu * speed / y);
            walls.nuWall[i] = viscosity;
        }
        walls.yPlus[i] = walls.uTau[i] * y / nu;
        walls.slopeShare[i] = 1.0;
        if (turbulence_ && walls.uTau[i] > 0.0)
            walls.slopeShare[i] = layer > 0.0 && y > layer
                                      ? 0.0
                                      : std::min(1.0, turbulence_->slopeOfLaw(law / walls.uTau[i], walls.yPlus[i],
                                                                              walls.uTau[i] * role.roughness / nu) *
                                                          walls.nuWall[i] / viscosity);
    }
}

void FlowGradients::updateVelocity(Flow& flow) const {
    const Piece& p = flow.piece;
    ofVelocity_(flow.state.U, flow.atBoundary, flow.gradU);
    if (frictionless_)
        // Along a curved wall the speed changes with the distance from it, so of what it is at the wall the gradient is
        // told only that nothing goes through.
        for (std::size_t f = p.linked; f < p.faces(); ++f) {
            if (!boundaries_.at(f).slides() || !boundaries_.role(f).onModel || !(p.area[f] > 0.0)) continue;
            const auto P = static_cast<std::size_t>(p.P[f]);
            const Vec3 n = p.S[f] / p.area[f], r = p.xf[f] - p.x[P];
            flow.gradU[P] -= n * (n.dot(flow.state.U[P] + flow.gradU[P] * r) / r.squaredNorm()) * r.transpose();
        }
    else
        flow.meanAtWalls = carryWallProfile(p, boundaries_.roles(), flow.state, flow.walls, flow.atBoundary,
                                            ofVelocity_, turbulence_ != nullptr, flow.gradU);
    // Looks at own cells alone, and hands the outcome to the other ranks.
    limitVelocity_(flow.state.U, flow.atBoundary, velocityKnown_, flow.gradU);
}

void FlowGradients::updateAll(Flow& flow) const {
    updateGas(flow);
    updateBoundary(flow);
    updateWalls(flow);
    updateVelocity(flow);
    ofPressure_(flow.state.p, noPressure_, flow.gradP);
    limitPressure_(flow.state.p, noPressure_, pressureKnown_, flow.gradP);
    updateShocks(flow);
    updatePressureForce(flow);
}

void FlowGradients::updateGas(Flow& flow) const {
    if (!flow.gas || frictionless_) return;
    flow.viscosity.resize(flow.piece.stored());
    for (std::size_t c = 0; c < flow.viscosity.size(); ++c)
        flow.viscosity[c] = flow.gas->viscosityOf(flow.temperatureIn(c));
}

void FlowGradients::updateShocks(Flow& flow) const {
    if (!flow.gas) return;
    const Piece& p = flow.piece;
    const auto &pressure = flow.state.p, &density = flow.state.density;
    const auto& U = flow.state.U;
    flow.shock.assign(p.stored(), 0.0);
    for (std::size_t f = 0; f < p.linked; ++f) {
        const auto P = static_cast<std::size_t>(p.P[f]), N = static_cast<std::size_t>(p.N[f]);
        const double atP = flow.gas->pressureOf(pressure[P]), atN = flow.gas->pressureOf(pressure[N]);
        const double mach2 =
            std::max(U[P].squaredNorm() * density[P] / atP, U[N].squaredNorm() * density[N] / atN) / flow.gas->gamma;
        if (mach2 < kSlow * kSlow) continue;
        const double difference = pressure[N] - pressure[P],
                     fast = std::min(1.0, (std::sqrt(mach2) - kSlow) / (1.0 - kSlow)),
                     rises = difference * (U[P] + U[N]).dot(p.d[f]) > 0.0 ? 1.0 : kOfExpansion,
                     scale = 0.5 * fast * rises / std::min(atP, atN);
        flow.shock[P] = std::max(flow.shock[P], scale * std::abs(difference - flow.gradP[P].dot(p.d[f])));
        if (f < p.inner)
            flow.shock[N] = std::max(flow.shock[N], scale * std::abs(difference - flow.gradP[N].dot(p.d[f])));
    }
    for (std::size_t c = 0; c < static_cast<std::size_t>(p.cells); ++c) {
        const double share = std::clamp((flow.shock[c] - kSmooth) / (kShock - kSmooth), 0.0, 1.0);
        flow.shock[c] = share * share * (3.0 - 2.0 * share);
    }
    p.halo.exchange(flow.shock);
    gradientOf(p, ofPressure_, flow.state.density, flow.gradDensity);
    // The density has a wall layer too.
    limitVelocity_(density, noPressure_, nothingKnown_, flow.gradDensity);
    for (std::size_t c = 0; c < p.stored(); ++c) flow.gradP[c] *= 1.0 - flow.shock[c];
}

void FlowGradients::updatePressureForce(Flow& flow) const {
    // Face pressures from both sides' linear reconstructions: the force on a cell is conservative, so that drag and
    // wake agree, and still exact for a linear pressure.
    const Piece& p = flow.piece;
    const State& s = flow.state;
    flow.pressureForce.assign(p.stored(), Vec3::Zero());
    for (std::size_t f = 0; f < p.faces(); ++f) {
        fetchNeighbourAhead(p, f, s.p, flow.gradP, p.x, flow.pressureForce);
        const auto P = static_cast<std::size_t>(p.P[f]);
        if (p.isBoundary(f)) {
            if (!pressureKnown_[f - p.linked])
                flow.pressureForce[P] += (s.p[P] + flow.gradP[P].dot(p.xf[f] - p.x[P])) * p.S[f];
            continue;
        }
        const auto N = static_cast<std::size_t>(p.N[f]);
        const double pf = betweenCells(p, f, s.p, flow.gradP);
        flow.pressureForce[P] += pf * p.S[f];
        if (f < p.inner) flow.pressureForce[N] -= pf * p.S[f];
    }
    for (std::size_t c = 0; c < static_cast<std::size_t>(p.cells); ++c) flow.pressureForce[c] /= p.V[c];
    p.halo.exchange(flow.pressureForce);
}

}  // namespace cvane::flow
