#include "flow/continuity.h"

#include <algorithm>
#include <cmath>

#include "flow/ahead.h"
#include "flow/transport.h"

namespace cvane::flow {

Continuity::Continuity(const Flow& flow, const Case& c, const Boundaries& boundaries, CellMatrix& matrix,
                       const Ranks& ranks)
    : boundaries_(boundaries),
      matrix_(matrix),
      ranks_(ranks),
      windSpeed_(c.wind.speed),
      pressureFree_(!ranks.any(boundaries.tiesPressure())),
      law_(flow.piece.faces() - flow.piece.linked) {
    // The aggregates come from the geometry alone, so that a resumed run has the same ones as an uninterrupted one.
    fillWithLaplacian(flow.piece);
    multigrid_ = std::make_unique<Multigrid>(
        matrix_, flow.piece.halo, ranks_,
        Multigrid::Kind{c.settings.precision, c.compressible ? Symmetry::None : Symmetry::Full});
    if (c.compressible) density_.assign(flow.piece.linked, 1.0);
}

void Continuity::fillWithLaplacian(const Piece& p) {
    matrix_.clearDiagonal();
    for (std::size_t f = 0; f < p.linked; ++f) {
        matrix_.val[static_cast<std::size_t>(matrix_.atP[f])] = -p.gap[f];
        matrix_.diag[static_cast<std::size_t>(p.P[f])] += p.gap[f];
        if (f >= p.inner) continue;
        matrix_.val[static_cast<std::size_t>(matrix_.atN[f])] = -p.gap[f];
        matrix_.diag[static_cast<std::size_t>(p.N[f])] += p.gap[f];
    }
}

std::vector<double> Continuity::assemble(Flow& flow, const TimeLevels& time) {
    const Piece& p = flow.piece;
    State& s = flow.state;
    const auto &D = flow.D, &Dcorrect = flow.Dcorrect;
    const auto& pressureForce = flow.pressureForce;
    std::vector<double> b(p.stored(), 0.0);
    matrix_.clearDiagonal();
    for (std::size_t f = 0; f < p.faces(); ++f) {
        fetchNeighbourAhead(p, f, s.U, flow.gradU, p.x, D, Dcorrect, pressureForce, s.p, b, matrix_.diag);
        const auto P = static_cast<std::size_t>(p.P[f]);
        double& flux = s.flux[f];
        if (p.isBoundary(f)) {
            const BoundaryFlux law = law_[f - p.linked] = boundaries_.at(f).flux(flow, f);
            flux = law.flux;
            matrix_.diag[P] += law.slope + law.carried;
            b[P] -= flux;
            continue;
        }
        // Momentum-weighted interpolation (C. M. Rhie, W. L. Chow, AIAA J. 21, 1983): the face's own pressure
        // difference takes the place of the cells' mean gradient. a_P is taken before relaxation, so the settled flow
        // does not depend on the relaxation.
        const auto N = static_cast<std::size_t>(p.N[f]);
        const double w = p.w[f];
        const Vec3 Uf = flow.between(f);
        const double Df = w * D[P] + (1.0 - w) * D[N];
        const Vec3 gradf = w * pressureForce[P] + (1.0 - w) * pressureForce[N];
        flux = Uf.dot(p.S[f]) - Df * p.gap[f] * ((s.p[N] - s.p[P]) - gradf.dot(p.d[f]));
        // What the fluxes of earlier steps had beyond the cells' velocities has its inertia too: without it a flow at
        // rest would depend on the step.
        if (time.inTime())
            flux += Df * (w * s.densityIn(P) + (1.0 - w) * s.densityIn(N)) * time.fromBefore(&State::flux, f);
        double a = (w * Dcorrect[P] + (1.0 - w) * Dcorrect[N]) * p.gap[f];
        double carried = 0.0;  // with the pressure upwind, by the density that it makes
        if (flow.gas) {
            // `flux` is the volume's: it carries the density of the cell upwind, rebuilt as velocities are.
            const bool fromP = flux >= 0.0;
            const auto C = fromP ? P : N;
            const double beyond =
                beyondUpwind(p, f, fromP, s.density, flow.gradDensity, std::max(flow.shock[P], flow.shock[N]));
            density_[f] = std::max(s.density[C] + beyond, 0.2 * s.density[C]);
            carried = flux / (flow.gas->R * flow.temperatureIn(C));
            a *= density_[f];
            flux *= density_[f];
        }
        matrix_.val[static_cast<std::size_t>(matrix_.atP[f])] = -a + std::min(carried, 0.0);
        matrix_.diag[P] += a + std::max(carried, 0.0);
        b[P] -= flux;
        if (f >= p.inner) continue;
        matrix_.val[static_cast<std::size_t>(matrix_.atN[f])] = -a - std::max(carried, 0.0);
        matrix_.diag[N] += a - std::min(carried, 0.0);
        b[N] += flux;
    }
    if (flow.gas) addStorage(flow, time, b);
    return b;
}

void Continuity::addStorage(const Flow& flow, const TimeLevels& time, std::vector<double>& b) {
    const Piece& p = flow.piece;
    for (std::size_t c = 0; c < static_cast<std::size_t>(p.cells); ++c) {
        double perStep = flow.pseudo[c];
        if (time.inTime()) {
            perStep += p.V[c] * time.weight();
            b[c] -= p.V[c] * (time.weight() * flow.state.density[c] - time.fromBefore(&State::density, c));
        }
        matrix_.diag[c] += perStep / (flow.gas->R * flow.temperatureIn(c));
    }
}

double Continuity::correct(Flow& flow, const TimeLevels& time, double reduction, int mostCycles) {
    const Piece& p = flow.piece;
    const auto b = assemble(flow, time);
    double sums[2] = {0.0, 0.0};
    for (std::size_t c = 0; c < static_cast<std::size_t>(p.cells); ++c) {
        sums[0] += std::abs(b[c]);
        sums[1] += flow.section[c];
    }
    ranks_.sum(std::span<double>(sums, 2));
    std::vector<double> correction(p.stored(), 0.0);
    iterations_ = multigrid_->solve(matrix_, b, correction, reduction, mostCycles, pressureFree_).iterations;
    takeCorrection(flow, correction);
    return sums[0] / (sums[1] * windSpeed_);
}

void Continuity::takeCorrection(Flow& flow, const std::vector<double>& correction) const {
    // The cells' velocities follow the fluxes' corrections: the mean of a velocity over a cell is sum (x_f - x_P) F_f /
    // V. At walls nothing is corrected, so the thin cells on them get half of what their one-sided pressure slope would
    // give, and do not start to swing. The fluxes of a gas also carry the densities that the pressures change, which
    // the velocities do not follow.
    const Piece& p = flow.piece;
    State& s = flow.state;
    std::vector<double> perPressure;  // density, before the velocities change the temperature
    if (flow.gas)
        for (std::size_t c = 0; c < p.stored(); ++c) perPressure.push_back(1.0 / (flow.gas->R * flow.temperatureIn(c)));
    for (std::size_t f = 0; f < p.faces(); ++f) {
        fetchNeighbourAhead(p, f, s.U, p.x, flow.Dcorrect, correction, p.V);
        const auto P = static_cast<std::size_t>(p.P[f]);
        double change = 0.0;  // of the volume's flux
        if (p.isBoundary(f)) {
            const BoundaryFlux& law = law_[f - p.linked];
            s.flux[f] += (law.slope + law.carried) * correction[P];
            if (law.slope == 0.0) continue;
            change = law.slope * correction[P] / s.densityIn(P);
        } else {
            const auto N = static_cast<std::size_t>(p.N[f]);
            change = -(p.w[f] * flow.Dcorrect[P] + (1.0 - p.w[f]) * flow.Dcorrect[N]) * p.gap[f] *
                     (correction[N] - correction[P]);
            if (f < p.inner) s.U[N] -= change / p.V[N] * (p.xf[f] - p.x[N]);
            if (flow.gas) {
                const auto C = s.flux[f] >= 0.0 ? P : N;
                s.flux[f] += density_[f] * change + s.flux[f] / density_[f] * perPressure[C] * correction[C];
            } else {
                s.flux[f] += change;
            }
        }
        s.U[P] += change / p.V[P] * (p.xf[f] - p.x[P]);
    }
    p.halo.exchange(s.U);
    for (std::size_t c = 0; c < p.stored(); ++c) {
        // Of a gas no farther at once than half way to no pressure, or to twice of it.
        const double whole = flow.gas ? flow.gas->pressureOf(s.p[c]) : 0.0;
        s.p[c] += flow.gas ? std::clamp(correction[c], -0.5 * whole, whole) : correction[c];
    }
}

void Continuity::takeOutDivergence(Flow& flow, const Gradient& ofPressure) {
    // Laplace's equation for the potential that takes the wind's flux off the walls; U loses the potential's gradient.
    const Piece& p = flow.piece;
    State& s = flow.state;
    std::vector<double> b(p.stored(), 0.0), phi(p.stored(), 0.0);
    fillWithLaplacian(p);
    const auto isFree = [&](std::size_t f) { return p.isBoundary(f) && boundaries_.at(f).holdsPressure(); };
    for (std::size_t f = 0; f < p.faces(); ++f) {
        const auto P = static_cast<std::size_t>(p.P[f]);
        b[P] -= s.flux[f];
        if (f < p.inner) b[static_cast<std::size_t>(p.N[f])] += s.flux[f];
        if (isFree(f)) matrix_.diag[P] += p.gap[f];
    }
    multigrid_->solve(matrix_, b, phi, 1e-4, 60, pressureFree_);
    std::vector<Vec3> gradPhi;
    ofPressure(phi, std::vector<double>(p.faces() - p.linked, 0.0), gradPhi);
    for (std::size_t c = 0; c < p.stored(); ++c) s.U[c] -= gradPhi[c];
    for (std::size_t f = 0; f < p.faces(); ++f) {
        const auto P = static_cast<std::size_t>(p.P[f]);
        if (!p.isBoundary(f))
            s.flux[f] -= p.gap[f] * (phi[static_cast<std::size_t>(p.N[f])] - phi[P]);
        else if (isFree(f))
            s.flux[f] += p.gap[f] * phi[P];
    }
}

}  // namespace cvane::flow
