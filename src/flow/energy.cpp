#include "flow/energy.h"

#include <cmath>

#include "flow/transport.h"

namespace cvane::flow {
namespace {
constexpr double kRelaxation = 0.95, kTurbulentPrandtl = 0.9;

double conductivityIn(const Flow& flow, std::size_t c) {
    return flow.viscosityIn(c) / flow.gas->prandtl + flow.state.density[c] * flow.state.nuT[c] / kTurbulentPrandtl;
}
}  // namespace

void EnergyEquation::updateDensity(Flow& flow) {
    for (std::size_t c = 0; c < flow.piece.stored(); ++c)
        flow.state.density[c] = flow.gas->densityOf(flow.state.p[c], flow.temperatureIn(c));
}

// The heat that is conducted follows h = H - U^2 / 2, and friction does work: both in full what the transport of H by g
// lacks.
void EnergyEquation::addFriction(const Flow& flow, std::vector<double>& b) const {
    const Piece& p = flow.piece;
    const State& s = flow.state;
    const auto dilatation = dilatationOf(flow);
    for (std::size_t f = 0; f < p.linked; ++f) {
        const auto P = static_cast<std::size_t>(p.P[f]), N = static_cast<std::size_t>(p.N[f]);
        const double w = p.w[f], mu = w * flow.effectiveIn(P) + (1.0 - w) * flow.effectiveIn(N),
                     g = w * conductivityIn(flow, P) + (1.0 - w) * conductivityIn(flow, N);
        const Vec3 U = w * s.U[P] + (1.0 - w) * s.U[N];
        const Mat3 grad = w * flow.gradU[P] + (1.0 - w) * flow.gradU[N];
        const Vec3 along = (s.U[N] - s.U[P]) * p.gap[f];  // (grad U) S, as the momentum equations have it
        const double work = (mu - g) * U.dot(along) + mu * (grad * U).dot(p.S[f]) -
                            2.0 / 3.0 * mu * (w * dilatation[P] + (1.0 - w) * dilatation[N]) * U.dot(p.S[f]);
        b[P] += work;
        if (f < p.inner) b[N] -= work;
    }
    // A wall that moves along does work, one at rest none; neither lets heat through.
    for (std::size_t f = p.linked; f < p.faces(); ++f) {
        if (!boundaries_.at(f).sticks()) continue;
        const Vec3& wall = flow.atBoundary[f - p.linked];
        const auto P = static_cast<std::size_t>(p.P[f]);
        b[P] += flow.walls.nuWall[f - p.linked] * p.gap[f] * wall.dot(wall - s.U[P]);
    }
}

double EnergyEquation::advance(Flow& flow, const TimeLevels& time) {
    const Piece& p = flow.piece;
    State& s = flow.state;
    auto& H = s.enthalpy;
    std::vector<Vec3> grad;
    gradientOf(p, gradient_, H, grad);
    std::vector<double> gamma(p.stored(), 0.0), b(p.stored(), 0.0);
    if (flow.nu > 0.0)
        for (std::size_t c = 0; c < gamma.size(); ++c) gamma[c] = conductivityIn(flow, c);
    matrix_.clearDiagonal();
    addTransport<Scheme::Limited>(p, s.flux, gamma, H, grad, matrix_, b);
    for (std::size_t f = p.linked; f < p.faces(); ++f) {
        const auto P = static_cast<std::size_t>(p.P[f]);
        matrix_.diag[P] += boundaries_.at(f).inflow(s.flux[f], gamma[P] * p.gap[f]);  // of the free stream's, 0
    }
    if (flow.nu > 0.0) addFriction(flow, b);
    devices_.forEachCell([&](std::size_t c, const Vec3& force, const Vec3&) { b[c] += force.dot(s.U[c]); });
    double scale = 0.0;
    const double all = flow.gas->totalEnthalpy();
    for (std::size_t c = 0; c < static_cast<std::size_t>(p.cells); ++c) {
        if (time.inTime()) {
            // The pressure's own change in time is what the enthalpy takes up: rho dH/dt = dp/dt.
            const double weight = p.V[c] * time.weight();
            matrix_.diag[c] += s.density[c] * weight;
            b[c] += s.density[c] * p.V[c] * time.fromBefore(&State::enthalpy, c);
            b[c] += weight * s.p[c] - p.V[c] * time.fromBefore(&State::p, c);
        }
        const double held = (1.0 - kRelaxation) / kRelaxation * matrix_.diag[c] + 1e-300;
        b[c] += held * H[c];
        matrix_.diag[c] += held;
        scale += matrix_.diag[c] * all;
    }
    double r[2] = {residual(matrix_, b, H), scale};
    ranks_.sum(std::span<double>(r, 2));
    for (int sweep = 0; sweep < 2; ++sweep) {
        gaussSeidel(matrix_, b, H, sweep % 2 == 0);
        p.halo.exchange(H);
    }
    updateDensity(flow);
    return r[1] > 0.0 ? r[0] / r[1] : 0.0;
}

}  // namespace cvane::flow
