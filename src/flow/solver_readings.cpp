// What is read off a flow.
#include <algorithm>
#include <cmath>

#include "air/plate_layer.h"
#include "flow/momentum_balance.h"
#include "flow/solver.h"

namespace cvane::flow {

Load wholeModel(const Load& h) {
    const auto force = [](const Vec3& f) { return Vec3(2.0 * f.x(), 0.0, 2.0 * f.z()); };
    const auto moment = [](const Vec3& m) { return Vec3(0.0, 2.0 * m.y(), 0.0); };
    return {force(h.pressure), force(h.friction), moment(h.pressureMoment), moment(h.frictionMoment)};
}

std::vector<Load> Solver::loadsByPatch() const {
    if (showsMean_) {
        std::vector<Load> mean(meanLoads_.size() / kLoadNumbers);
        for (std::size_t i = 0; i < meanLoads_.size(); ++i)
            mean.data()->pressure.data()[i] = meanLoads_[i] / meanCount_;
        return mean;
    }
    auto all = loads(p_, roles_, s_, walls_, gradP_, case_.reference.momentCentre, ranks_);
    const double rho = case_.wind.air.density;
    for (Load& l : all)
        for (Vec3* v : {&l.pressure, &l.friction, &l.pressureMoment, &l.frictionMoment}) *v *= rho;
    return all;
}

Vec3 Solver::forceFromOutside() const {
    return case_.wind.air.density * flow::forceFromOutside(p_, roles_, s_, walls_, Ub_, gradU_, gradP_, devices_,
                                                           case_.wind.velocity(), nu_, ranks_);
}

air::Coefficients Solver::outsideDifference() const {
    Load gap{forceFromOutside(), Vec3::Zero(), Vec3::Zero(), Vec3::Zero()};
    for (const Load& l : loadsByPatch()) gap.pressure -= l.force();
    if (case_.tunnel.halfModel) gap = wholeModel(gap);
    return air::coefficients(gap.force(), Vec3::Zero(), case_.wind, case_.reference);
}

air::Coefficients Solver::coefficients() const {
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

std::vector<WallSample> Solver::wallSamples() const {
    return sampleWalls(p_, roles_, s_, walls_, gradP_);
}

std::pair<double, double> Solver::yPlusRange() const {
    double low = 1e300, high = 0.0;
    for (std::size_t f = p_.linked; f < p_.faces(); ++f) {
        if (!patchRole(f).onModel || !(p_.area[f] > 0.0)) continue;
        low = std::min(low, walls_.yPlus[f - p_.linked]);
        high = std::max(high, walls_.yPlus[f - p_.linked]);
    }
    low = -ranks_.max(-low);
    return {low < 1e300 ? low : 0.0, ranks_.max(high)};
}

double Solver::modelLength() const {
    Vec3 low = Vec3::Constant(1e300), high = Vec3::Constant(-1e300);
    for (std::size_t f = p_.linked; f < p_.faces(); ++f)
        if (patchRole(f).onModel) {
            low = low.cwiseMin(p_.xf[f]);
            high = high.cwiseMax(p_.xf[f]);
        }
    double longest = 0.0;
    for (int k = 0; k < 3; ++k) {
        const double from = -ranks_.max(-low[k]), to = ranks_.max(high[k]);
        longest = std::max(longest, to - (k == 1 && case_.tunnel.halfModel ? -to : from));
    }
    return longest > 0.0 && longest < 1e200 ? longest : case_.reference.length;
}

std::optional<double> Solver::groundDisplacement() const {
    double nose = 1e300;
    for (std::size_t f = p_.linked; f < p_.faces(); ++f)
        if (patchRole(f).onModel) nose = std::min(nose, p_.xf[f].x());
    nose = -ranks_.max(-nose);
    double sums[2] = {0.0, 0.0};
    for (std::size_t f = p_.linked; f < p_.faces(); ++f)
        if (patchRole(f).heldGround && p_.xf[f].x() < nose) {
            sums[0] += p_.area[f] * walls_.uTau[f - p_.linked] * walls_.uTau[f - p_.linked];
            sums[1] += p_.area[f];
        }
    ranks_.sum(std::span<double>(sums, 2));
    if (!(sums[1] > 0.0) || !turbulence_) return {};
    const double momentum = sums[0] / sums[1] / (case_.wind.speed * case_.wind.speed) * (nose - groundBegins_);
    return air::kDisplacementShare / air::kMomentumShare * momentum;
}

double Solver::referencePressure() const {
    if (!case_.tunnel.closed) return 0.0;
    double sums[2] = {0.0, 0.0};
    for (std::size_t f = p_.linked; f < p_.faces(); ++f)
        if (roleAt(f) == Role::Inflow) {
            sums[0] += p_.area[f] * s_.p[static_cast<std::size_t>(p_.P[f])];
            sums[1] += p_.area[f];
        }
    ranks_.sum(std::span<double>(sums, 2));
    return sums[1] > 0.0 ? sums[0] / sums[1] : 0.0;
}

double Solver::wakeTimeStep() const {
    constexpr double kStepsAcross = 10.0;
    const Vec3 wind = case_.wind.velocity().normalized();
    double area = 0.0;
    // Of a closed body half of the projected surface looks upwind.
    for (std::size_t f = p_.linked; f < p_.faces(); ++f)
        if (patchRole(f).onModel) area += 0.5 * std::abs(p_.S[f].dot(wind));
    area = ranks_.sum(area) * (case_.tunnel.halfModel ? 2.0 : 1.0);
    return std::sqrt(4.0 * area / std::acos(-1.0)) / (kStepsAcross * case_.wind.speed);
}

double Solver::massImbalance() const {
    double sums[2] = {0.0, 0.0};
    for (std::size_t f = p_.linked; f < p_.faces(); ++f) {
        sums[0] += s_.flux[f];
        sums[1] += std::max(-s_.flux[f], 0.0);
    }
    ranks_.sum(std::span<double>(sums, 2));
    return sums[1] > 0.0 ? std::abs(sums[0]) / sums[1] : 0.0;
}

}  // namespace cvane::flow
