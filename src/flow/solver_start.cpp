// How a flow begins, is kept and taken up again, and its means.
#include <algorithm>
#include <cmath>

#include "base/nearest_point.h"
#include "flow/solver.h"

namespace cvane::flow {

void Solver::addWind(const Vec3& dU) {
    for (std::size_t f = 0; f < p_.faces(); ++f) {
        const Role r = p_.isBoundary(f) ? roleAt(f) : Role::Outflow;
        if (r != Role::Wall && r != Role::Slip) s_.flux[f] += dU.dot(p_.S[f]);
        if (p_.isBoundary(f) && r == Role::Inflow) s_.flux[f] = inflowAt(f).dot(p_.S[f]);
        if (p_.isBoundary(f) && r == Role::Open) s_.flux[f] = openFlux(f);
        if (p_.isBoundary(f) && (r == Role::Wall || r == Role::Slip)) s_.flux[f] = 0.0;
    }
    for (Vec3& u : s_.U) u += dU;
    takeOutDivergence();
}

void Solver::takeOutDivergence() {
    // Laplace's equation for the potential that takes the wind's flux off the walls; U loses the potential's gradient.
    std::vector<double> b(p_.stored(), 0.0), phi(p_.stored(), 0.0);
    fillWithLaplacian();
    for (std::size_t f = 0; f < p_.faces(); ++f) {
        const auto P = static_cast<std::size_t>(p_.P[f]);
        b[P] -= s_.flux[f];
        if (f < p_.inner) b[static_cast<std::size_t>(p_.N[f])] += s_.flux[f];
        if (p_.isBoundary(f) && roleAt(f) == Role::Outflow) matrix_.diag[P] += p_.gap[f];
    }
    multigrid_->solve(matrix_, b, phi, 1e-4, 60, pressureFree_);
    std::vector<Vec3> gradPhi;
    (*gradientP_)(phi, zero_, gradPhi);
    for (std::size_t c = 0; c < p_.stored(); ++c) s_.U[c] -= gradPhi[c];
    for (std::size_t f = 0; f < p_.faces(); ++f) {
        const auto P = static_cast<std::size_t>(p_.P[f]);
        if (!p_.isBoundary(f))
            s_.flux[f] -= p_.gap[f] * (phi[static_cast<std::size_t>(p_.N[f])] - phi[P]);
        else if (roleAt(f) == Role::Outflow)
            s_.flux[f] += p_.gap[f] * phi[P];
    }
}

void Solver::startFromPotentialFlow() {
    addWind(case_.wind.velocity());
    const double V2 = case_.wind.speed * case_.wind.speed;
    // Bernoulli, cut off where a sharp edge sends the potential speed to infinity.
    for (std::size_t c = 0; c < p_.stored(); ++c) s_.p[c] = 0.5 * (V2 - std::min(s_.U[c].squaredNorm(), 3.0 * V2));
    updateGradients();
}

void Solver::startFromNeighbour(const Checkpoint& settled, const air::FreeStream& its) {
    scatterState(settled, p_, s_, ranks_);
    const double a = case_.wind.speed / its.speed;
    const auto powers = turbulence_ ? turbulence_->powersOfSpeed() : std::array<double, 2>{0.0, 0.0};
    const double turned[2] = {std::pow(a, powers[0]), std::pow(a, powers[1])};
    for (std::size_t c = 0; c < p_.stored(); ++c) {
        s_.U[c] *= a;
        s_.p[c] *= a * a;
        s_.first[c] *= turned[0];
        s_.second[c] *= turned[1];
        s_.nuT[c] *= a;
    }
    for (double& f : s_.flux) f *= a;
    addWind(case_.wind.velocity() - a * its.velocity());
    updateGradients();
}

namespace {
/// A start's turbulence changes by this factor at most: near walls a coarse cell knows little of it.
constexpr double kMostChange = 5.0;

/// Changes a turbulent quantity as another has changed, to the power `share`.
void changeAlike(double& value, double from, double to, double share = 1.0) {
    if (from > 0.0 && to > 0.0) value *= std::clamp(std::pow(to / from, share), 1.0 / kMostChange, kMostChange);
}
}  // namespace

void Solver::startFromNeighbours(const Checkpoint& nearer, const air::FreeStream& its, const Checkpoint& second,
                                 const air::FreeStream& secondWind) {
    State before = s_;
    scatterState(second, p_, before, ranks_);
    scatterState(nearer, p_, s_, ranks_);
    const Vec3 way = its.velocity() - secondWind.velocity();
    const double share = (case_.wind.velocity() - its.velocity()).dot(way) / way.squaredNorm();
    for (std::size_t c = 0; c < p_.stored(); ++c) {
        s_.U[c] += share * (s_.U[c] - before.U[c]);
        s_.p[c] += share * (s_.p[c] - before.p[c]);
        changeAlike(s_.first[c], before.first[c], s_.first[c], share);
        changeAlike(s_.second[c], before.second[c], s_.second[c], share);
        changeAlike(s_.nuT[c], before.nuT[c], s_.nuT[c], share);
    }
    for (std::size_t f = 0; f < s_.flux.size(); ++f) s_.flux[f] += share * (s_.flux[f] - before.flux[f]);
    addWind(case_.wind.velocity() - its.velocity() - share * way);
    updateGradients();
}

FlowCloud Solver::cloud() const {
    constexpr std::size_t kWidth = 22;
    std::vector<double> mine;
    mine.reserve(kWidth * static_cast<std::size_t>(p_.cells));
    const auto put = [&](const auto& m) { mine.insert(mine.end(), m.data(), m.data() + m.size()); };
    for (std::size_t c = 0; c < static_cast<std::size_t>(p_.cells); ++c) {
        put(p_.x[c]);
        put(s_.U[c]);
        mine.insert(mine.end(), {s_.p[c], s_.first[c], s_.second[c], s_.nuT[c]});
        put(gradU_[c]);
        put(gradP_[c]);
    }
    const auto all = ranks_.gather(mine);
    FlowCloud out;
    for (const double* v = all.data(); v != all.data() + all.size(); v += kWidth) {
        out.x.push_back(Eigen::Map<const Vec3>(v));
        out.U.push_back(Eigen::Map<const Vec3>(v + 3));
        out.p.push_back(v[6]);
        out.first.push_back(v[7]);
        out.second.push_back(v[8]);
        out.nuT.push_back(v[9]);
        out.gradU.push_back(Eigen::Map<const Mat3>(v + 10));
        out.gradP.push_back(Eigen::Map<const Vec3>(v + 19));
    }
    return out;
}

void Solver::followCoarser(const FlowChange& change) {
    const base::NearestPoint nearest(change.to.x);
    std::vector<Vec3> dU(p_.stored(), Vec3::Zero());
    for (std::size_t c = 0; c < static_cast<std::size_t>(p_.cells); ++c) {
        const std::size_t near = nearest(p_.x[c]);
        dU[c] = change.to.U[near] - change.from.U[near];
        s_.U[c] += dU[c];
        s_.p[c] += change.to.p[near] - change.from.p[near];
        changeAlike(s_.first[c], change.from.first[near], change.to.first[near]);
        changeAlike(s_.second[c], change.from.second[near], change.to.second[near]);
        changeAlike(s_.nuT[c], change.from.nuT[near], change.to.nuT[near]);
    }
    for (auto* field : {&s_.p, &s_.first, &s_.second, &s_.nuT}) p_.halo.exchange(*field);
    p_.halo.exchange(s_.U);
    p_.halo.exchange(dU);
    updateBoundaryValues();
    for (std::size_t f = 0; f < p_.faces(); ++f) {
        const auto P = static_cast<std::size_t>(p_.P[f]);
        if (!p_.isBoundary(f))
            s_.flux[f] += (p_.w[f] * dU[P] + (1.0 - p_.w[f]) * dU[static_cast<std::size_t>(p_.N[f])]).dot(p_.S[f]);
        else if (roleAt(f) == Role::Outflow)
            s_.flux[f] += dU[P].dot(p_.S[f]);
        else if (roleAt(f) == Role::Open)
            s_.flux[f] = openFlux(f);
    }
    takeOutDivergence();
    updateGradients();
}

void Solver::startFromCoarser(const FlowCloud& coarse) {
    const base::NearestPoint nearest(coarse.x);
    const double V = case_.wind.speed;
    for (std::size_t c = 0; c < static_cast<std::size_t>(p_.cells); ++c) {
        const std::size_t near = nearest(p_.x[c]);
        const Vec3 r = p_.x[c] - coarse.x[near];
        // Along the slope, but no farther than half the wind from what the coarse cell knows.
        const Vec3 dU = coarse.gradU[near] * r;
        const double dp = coarse.gradP[near].dot(r), most = 0.5 * V;
        s_.U[c] = coarse.U[near] + std::min(1.0, most / std::max(dU.norm(), 1e-300)) * dU;
        s_.p[c] = coarse.p[near] + std::clamp(dp, -most * V, most * V);
        s_.first[c] = coarse.first[near];
        s_.second[c] = coarse.second[near];
        s_.nuT[c] = coarse.nuT[near];
    }
    for (auto* field : {&s_.p, &s_.first, &s_.second, &s_.nuT}) p_.halo.exchange(*field);
    p_.halo.exchange(s_.U);
    updateBoundaryValues();
    for (std::size_t f = 0; f < p_.faces(); ++f) {
        const auto P = static_cast<std::size_t>(p_.P[f]);
        if (!p_.isBoundary(f))
            s_.flux[f] = (p_.w[f] * s_.U[P] + (1.0 - p_.w[f]) * s_.U[static_cast<std::size_t>(p_.N[f])]).dot(p_.S[f]);
        else
            s_.flux[f] = roleAt(f) == Role::Inflow || roleAt(f) == Role::Outflow ? Ub_[f - p_.linked].dot(p_.S[f])
                         : roleAt(f) == Role::Open                               ? openFlux(f)
                                                                                 : 0.0;
    }
    takeOutDivergence();
    updateGradients();
}

void Solver::resume(const Checkpoint& c) {
    scatterState(c, p_, s_, ranks_);
    relaxation_.remember(c.relaxation);
    meanSum_ = handOutRows(c.meanData, p_, ranks_);
    meanLoads_ = c.meanLoads;
    showsMean_ = false;
    time_.set(c.timeStep);
    if (ranks_.any(!c.lastStep.empty()))
        time_.remember(handOutRows(c.lastStep, p_, ranks_), p_.stored(), handOutFaces(c.lastExcess, p_, ranks_));
    meanCount_ = meanSum_.empty() ? 0.0 : static_cast<double>(c.history.size() - c.averagedFrom);
    updateGradients();
}

Checkpoint Solver::checkpoint() const {
    auto c = gatherState(p_, s_, ranks_);
    c.relaxation = relaxation_.memory();
    c.timeStep = time_.step();
    if (time_.known() > 0) {
        c.lastStep = ranks_.gatherAtRoot(time_.kept(static_cast<std::size_t>(p_.cells)));
        c.lastExcess = gatherFaces(time_.excess.last, p_, ranks_);
    }
    if (meanCount_ > 0.0) {
        c.meanData = ranks_.gatherAtRoot(meanSum_);
        c.meanLoads = meanLoads_;
    }
    return c;
}

void Solver::restore(const State& state) {
    s_ = state;
    time_.set(time_.step());  // earlier steps were not those of this state
    showsMean_ = false;
    updateGradients();
}

void Solver::startMean() {
    meanSum_.clear();
    meanLoads_.clear();
    meanCount_ = 0.0;
}

void Solver::addToMean() {
    const auto now = cellRows(p_, s_);
    meanSum_.resize(now.size(), 0.0);
    for (std::size_t i = 0; i < now.size(); ++i) meanSum_[i] += now[i];
    const auto loads = loadsByPatch();
    meanLoads_.resize(kLoadNumbers * loads.size(), 0.0);
    for (std::size_t i = 0; i < meanLoads_.size(); ++i) meanLoads_[i] += loads.data()->pressure.data()[i];
    meanCount_ += 1.0;
}

void Solver::takeMean() {
    if (!(meanCount_ > 0.0)) return;
    auto mean = meanSum_;
    for (double& v : mean) v /= meanCount_;
    takeCellRows(mean, p_, s_);
    showsMean_ = true;
    updateGradients();
}

}  // namespace cvane::flow
