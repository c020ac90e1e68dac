#include "flow/readings.h"

#include <algorithm>
#include <cmath>

#include "air/plate_layer.h"
#include "flow/momentum_balance.h"

namespace cvane::flow {

Load wholeModel(const Load& h) {
    const auto force = [](const Vec3& f) { return Vec3(2.0 * f.x(), 0.0, 2.0 * f.z()); };
    const auto moment = [](const Vec3& m) { return Vec3(0.0, 2.0 * m.y(), 0.0); };
    return {force(h.pressure), force(h.friction), moment(h.pressureMoment), moment(h.frictionMoment)};
}

std::vector<Load> Readings::loadsByPatch() const {
    if (averages_.isShown()) return averages_.loads();
    auto all = loads(flow_.piece, boundaries_.roles(), flow_.state, flow_.walls, flow_.gradP,
                     case_.reference.momentCentre, ranks_);
    const double rho = case_.wind.air.density;
    for (Load& l : all)
        for (Vec3* v : {&l.pressure, &l.friction, &l.pressureMoment, &l.frictionMoment}) *v *= rho;
    return all;
}

Vec3 Readings::forceFromOutside() const {
    return case_.wind.air.density * flow::forceFromOutside(flow_, boundaries_, devices_, ranks_);
}

air::Coefficients Readings::outsideDifference() const {
    Load gap{forceFromOutside(), Vec3::Zero(), Vec3::Zero(), Vec3::Zero()};
    for (const Load& l : loadsByPatch()) gap.pressure -= l.force();
    if (case_.tunnel.halfModel) gap = wholeModel(gap);
    return air::coefficients(gap.force(), Vec3::Zero(), case_.wind, case_.reference);
}

air::Coefficients Readings::coefficients() const {
    Load sum;
    for (const Load& l : loadsByPatch()) {
        sum.pressure += l.pressure;
        sum.friction += l.friction;
        sum.pressureMoment += l.pressureMoment;
        sum.frictionMoment += l.frictionMoment;
    }
    if (case_.tunnel.halfModel) sum = wholeModel(sum);
    return air::coefficients(sum.force(), sum.moment(), case_.wind, case_.reference);
}

std::vector<WallSample> Readings::wallSamples() const {
    return sampleWalls(flow_.piece, boundaries_.roles(), flow_.state, flow_.walls, flow_.gradP);
}

std::pair<double, double> Readings::yPlusRange() const {
    const Piece& p = flow_.piece;
    double low = 1e300, high = 0.0;
    forEachModelFace([&](std::size_t f) {
        if (!(p.area[f] > 0.0)) return;
        low = std::min(low, flow_.walls.yPlus[f - p.linked]);
        high = std::max(high, flow_.walls.yPlus[f - p.linked]);
    });
    low = -ranks_.max(-low);
    return {low < 1e300 ? low : 0.0, ranks_.max(high)};
}

double modelLength(const Piece& p, const Boundaries& boundaries, const Case& c, const Ranks& ranks) {
    Vec3 low = Vec3::Constant(1e300), high = Vec3::Constant(-1e300);
    for (std::size_t f = p.linked; f < p.faces(); ++f)
        if (boundaries.role(f).onModel) {
            low = low.cwiseMin(p.xf[f]);
            high = high.cwiseMax(p.xf[f]);
        }
    double longest = 0.0;
    for (int k = 0; k < 3; ++k) {
        const double from = -ranks.max(-low[k]), to = ranks.max(high[k]);
        longest = std::max(longest, to - (k == 1 && c.tunnel.halfModel ? -to : from));
    }
    return longest > 0.0 && longest < 1e200 ? longest : c.reference.length;
}

std::optional<double> Readings::groundDisplacement() const {
    const Piece& p = flow_.piece;
    double nose = 1e300;
    forEachModelFace([&](std::size_t f) { nose = std::min(nose, p.xf[f].x()); });
    nose = -ranks_.max(-nose);
    double sums[2] = {0.0, 0.0};
    for (std::size_t f = p.linked; f < p.faces(); ++f)
        if (boundaries_.role(f).ground == Ground::Held && p.xf[f].x() < nose) {
            const double uTau = flow_.walls.uTau[f - p.linked];
            sums[0] += p.area[f] * uTau * uTau;
            sums[1] += p.area[f];
        }
    ranks_.sum(std::span<double>(sums, 2));
    if (!(sums[1] > 0.0) || !isTurbulent(case_.settings.model)) return {};
    const double momentum = sums[0] / sums[1] / (case_.wind.speed * case_.wind.speed) * (nose - groundBegins_);
    return air::kDisplacementShare / air::kMomentumShare * momentum;
}

double Readings::referencePressure() const {
    if (!case_.tunnel.closed) return 0.0;
    const Piece& p = flow_.piece;
    double sums[2] = {0.0, 0.0};
    for (std::size_t f = p.linked; f < p.faces(); ++f)
        if (boundaries_.at(f).isInlet()) {
            sums[0] += p.area[f] * flow_.state.p[static_cast<std::size_t>(p.P[f])];
            sums[1] += p.area[f];
        }
    ranks_.sum(std::span<double>(sums, 2));
    return sums[1] > 0.0 ? sums[0] / sums[1] : 0.0;
}

double Readings::wakeTimeStep() const {
    constexpr double kStepsAcross = 10.0;
    const Vec3 wind = case_.wind.velocity().normalized();
    double area = 0.0;
    // Of a closed body half of the projected surface looks upwind.
    forEachModelFace([&](std::size_t f) { area += 0.5 * std::abs(flow_.piece.S[f].dot(wind)); });
    area = ranks_.sum(area) * (case_.tunnel.halfModel ? 2.0 : 1.0);
    return std::sqrt(4.0 * area / std::acos(-1.0)) / (kStepsAcross * case_.wind.speed);
}

double Readings::massImbalance() const {
    const Piece& p = flow_.piece;
    double sums[2] = {0.0, 0.0};
    for (std::size_t f = p.linked; f < p.faces(); ++f) {
        sums[0] += flow_.state.flux[f];
        sums[1] += std::max(-flow_.state.flux[f], 0.0);
    }
    ranks_.sum(std::span<double>(sums, 2));
    return sums[1] > 0.0 ? std::abs(sums[0]) / sums[1] : 0.0;
}

double Readings::highestMach() const {
    double most = 0.0;
    for (std::size_t c = 0; c < static_cast<std::size_t>(flow_.piece.cells); ++c)
        most = std::max(most, flow_.state.U[c].norm() / flow_.gas->soundSpeedAt(flow_.temperatureIn(c)));
    return ranks_.max(most);
}

double Readings::enthalpyImbalance() const {
    const Piece& p = flow_.piece;
    const double free = flow_.gas->totalEnthalpy();
    double sums[2] = {0.0, 0.0};
    for (std::size_t f = p.linked; f < p.faces(); ++f) {
        const double flux = flow_.state.flux[f];
        // What comes in has the free stream's.
        sums[0] += flux * (flux > 0.0 ? free + flow_.state.enthalpy[static_cast<std::size_t>(p.P[f])] : free);
        sums[1] += std::max(-flux, 0.0) * free;
    }
    ranks_.sum(std::span<double>(sums, 2));
    return sums[1] > 0.0 ? sums[0] / sums[1] : 0.0;
}

}  // namespace cvane::flow
