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
      noPressure_(flow.piece.faces() - flow.piece.linked, 0.0) {}

void FlowGradients::updateBoundary(Flow& flow) const {
    const Piece& p = flow.piece;
    for (std::size_t f = p.linked; f < p.faces(); ++f)
        flow.atBoundary[f - p.linked] = boundaries_.at(f).velocity(flow, f);
}

void FlowGradients::updateWalls(Flow& flow) const {
    const Piece& p = flow.piece;
    WallState& walls = flow.walls;
    const double nu = flow.nu;
    for (std::size_t f = p.linked; f < p.faces(); ++f) {
        if (!boundaries_.at(f).sticks() || !(p.area[f] > 0.0)) continue;
        const auto i = f - p.linked;
        const PatchRole& role = boundaries_.role(f);
        const Vec3 n = p.S[f] / p.area[f];
        const Vec3 u = flow.state.U[static_cast<std::size_t>(p.P[f])] - flow.atBoundary[i];
        const double speed = (u - u.dot(n) * n).norm(), y = p.area[f] / p.gap[f];
        // A ground's boundary layer is as thick as its run makes it, however thick the cell: beyond it the logarithm,
        // and the wake that tops it, rise no more.
        const double layer =
            role.ground == Ground::Held ? air::plateLayerThickness(p.xf[f].x() - groundBegins_, windSpeed_, nu) : 0.0;
        const double yLaw = layer > 0.0 ? std::min(y, kWakeOfLayer * layer) : y;
        if (turbulence_) {
            walls.uTau[i] = turbulence_->frictionVelocity(speed, yLaw, nu, role.roughness);
            walls.nuWall[i] = speed > 1e-12 ? std::max(nu, walls.uTau[i] * walls.uTau[i] * y / speed) : nu;
        } else {
            walls.uTau[i] = std::sqrt(nu * speed / y);
            walls.nuWall[i] = nu;
        }
        walls.yPlus[i] = walls.uTau[i] * y / nu;
        walls.slopeShare[i] = 1.0;
        if (turbulence_ && walls.uTau[i] > 0.0)
            walls.slopeShare[i] = layer > 0.0 && y > layer
                                      ? 0.0
                                      : std::min(1.0, turbulence_->slopeOfLaw(speed / walls.uTau[i], walls.yPlus[i],
                                                                              walls.uTau[i] * role.roughness / nu) *
                                                          walls.nuWall[i] / nu);
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
    updateBoundary(flow);
    updateWalls(flow);
    updateVelocity(flow);
    ofPressure_(flow.state.p, noPressure_, flow.gradP);
    limitPressure_(flow.state.p, noPressure_, pressureKnown_, flow.gradP);
    updatePressureForce(flow);
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
