#include "flow/momentum.h"

#include <algorithm>

#include "flow/transport.h"

namespace cvane::flow {
namespace {
constexpr double kDamping = 0.1;  ///< share of a value that alternates from cell to cell, frictionless flow only
/// Of the sound through a face, in shocks: what leaves a shock of 10 deg at Mach 2 (pressure ratio 1.7) an overshoot of
/// 2 % in place of 4; without it the limiter changes nothing of that.
constexpr double kShockViscosity = 0.5;
constexpr double kLeastThrough = 0.02;  ///< of the wind through a cell's section: less counts as this much in a_P
}  // namespace

MomentumEquation::MomentumEquation(const Case& c, const Boundaries& boundaries, Devices& devices, CellMatrix& matrix,
                                   const Ranks& ranks)
    : case_(c), boundaries_(boundaries), devices_(devices), matrix_(matrix), ranks_(ranks) {}

void MomentumEquation::assemble(const Flow& flow) {
    const Piece& p = flow.piece;
    const auto n = static_cast<std::size_t>(p.cells);
    b_.assign(p.stored(), Vec3::Zero());
    matrix_.clearDiagonal();
    addTransportTerms(flow);
    if (case_.givenForce)
        for (std::size_t c = 0; c < n; ++c) b_[c] += p.V[c] * case_.givenForce(p.x[c]);
    outside_.assign(n, 0.0);
    devices_.update(flow.state.U);
    devices_.forEachCell([&](std::size_t c, const Vec3& force, const Vec3& resistance) {
        // The matrix has one diagonal for the three components: it takes the largest resistance, and the others give
        // back.
        const double most = resistance.maxCoeff();
        b_[c] += force + (Vec3::Constant(most) - resistance).cwiseProduct(flow.state.U[c]);
        matrix_.diag[c] += most;
        outside_[c] += most;
    });
    addBoundaries(flow);
}

void MomentumEquation::addTransportTerms(const Flow& flow) {
    const Piece& p = flow.piece;
    const State& s = flow.state;
    std::vector<double> gamma(p.stored());
    for (std::size_t c = 0; c < p.stored(); ++c) gamma[c] = flow.effectiveIn(c);
    const SeriesViscosity* between = turbulence_ ? turbulence_->viscosityBetweenCells(s) : nullptr;
    const auto add = [&]<Scheme scheme>() {
        if (between)
            addTransport<scheme, true>(p, s.flux, gamma, s.U, flow.gradU, matrix_, b_, *between);
        else if (turbulence_ || (flow.gas && flow.nu > 0.0))
            addTransport<scheme, true>(p, s.flux, gamma, s.U, flow.gradU, matrix_, b_, {}, flow.shock);
        else if (flow.gas)
            addTransport<scheme>(p, s.flux, gamma, s.U, flow.gradU, matrix_, b_, {}, flow.shock);
        else
            addTransport<scheme>(p, s.flux, gamma, s.U, flow.gradU, matrix_, b_);
    };
    if (flow.gas && flow.nu > 0.0) addCompressionStress(p, gamma, dilatationOf(flow), b_);
    if (case_.settings.secondOrder && flow.gas)
        add.template operator()<Scheme::LimitedInShocks>();
    else if (case_.settings.secondOrder)
        add.template operator()<Scheme::SecondOrder>();
    else
        add.template operator()<Scheme::FirstOrder>();
    if (flow.gas) {
        std::vector<double> sound(p.stored());
        for (std::size_t c = 0; c < p.stored(); ++c)
            sound[c] = s.density[c] * flow.gas->soundSpeedAt(flow.temperatureIn(c));
        addShockViscosity(p, kShockViscosity, flow.shock, sound, matrix_);
    }
    if (case_.settings.secondOrder && case_.settings.model == Model::Inviscid)
        addDamping(p, kDamping, s.flux, s.U, flow.gradU, matrix_, b_);
}

void MomentumEquation::addBoundaries(const Flow& flow) {
    const Piece& p = flow.piece;
    for (std::size_t f = p.linked; f < p.faces(); ++f) {
        const auto P = static_cast<std::size_t>(p.P[f]);
        const BoundaryMomentum m = boundaries_.at(f).momentum(flow, f);
        b_[P] += m.source;
        outside_[P] += m.coefficient;
        matrix_.diag[P] += m.coefficient;
        b_[P] += m.coefficient * m.value;
    }
}

std::vector<Vec3> MomentumEquation::residual(const Flow& flow) const {
    const Piece& p = flow.piece;
    std::vector<Vec3> left(static_cast<std::size_t>(p.cells));
    for (std::size_t c = 0; c < left.size(); ++c) {
        Vec3 r = b_[c] - p.V[c] * flow.pressureForce[c] - matrix_.diag[c] * flow.state.U[c];
        for (auto k = matrix_.rowStart[c]; k < matrix_.rowStart[c + 1]; ++k) r -= matrix_.term(k, flow.state.U);
        left[c] = r / p.V[c];
    }
    return left;
}

double MomentumEquation::relax(Flow& flow, const RelaxationControl& relaxation, const TimeLevels& time) {
    const Piece& p = flow.piece;
    const double share = time.inTime() ? relaxation.most() : relaxation.now(), V = case_.wind.speed;
    double scale = 0.0;
    for (std::size_t c = 0; c < static_cast<std::size_t>(p.cells); ++c) {
        // At a stagnation point nothing flows through a cell and, without friction, a falls to zero.
        const double a = std::max(matrix_.diag[c], kLeastThrough * V * flow.section[c]),
                     density = flow.state.densityIn(c), inTime = time.inTime() ? density * p.V[c] * time.weight() : 0.0,
                     relaxed = (a + inTime) / share;
        flow.D[c] = p.V[c] / (a + inTime);
        // SIMPLEC: the neighbours' corrections move along with the cell's own.
        flow.Dcorrect[c] = p.V[c] / (relaxed - (matrix_.diag[c] - outside_[c]));
        if (flow.gas) flow.pseudo[c] = (relaxed - inTime - matrix_.diag[c]) / density;
        if (time.inTime()) b_[c] += density * p.V[c] * time.fromBefore(&State::U, c);
        b_[c] -= p.V[c] * flow.pressureForce[c];
        b_[c] += (relaxed - inTime - matrix_.diag[c]) * flow.state.U[c];
        matrix_.diag[c] = relaxed;
        scale += relaxed;
    }
    p.halo.exchange(flow.D);
    p.halo.exchange(flow.Dcorrect);
    return scale;
}

double MomentumEquation::advance(Flow& flow, const RelaxationControl& relaxation, const TimeLevels& time) {
    const double scale = relax(flow, relaxation, time);
    std::vector<Vec3>& U = flow.state.U;
    double r[2] = {flow::residual(matrix_, b_, U), scale * case_.wind.speed};
    ranks_.sum(std::span<double>(r, 2));
    for (int sweep = 0; sweep < 2; ++sweep) {
        gaussSeidel(matrix_, b_, U, sweep % 2 == 0);
        flow.piece.halo.exchange(U);
    }
    return r[0] / r[1];
}

}  // namespace cvane::flow
