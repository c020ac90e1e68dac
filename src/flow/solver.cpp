#include "flow/solver.h"

#include <algorithm>
#include <cmath>
#include <nanoflann.hpp>

#include "air/plate_layer.h"
#include "flow/ahead.h"
#include "flow/momentum_balance.h"
#include "flow/transport.h"

namespace cvane::flow {
namespace {
// The speed at the edge of a plate's layer is 2 Pi / kappa = 2.4 u_tau above the logarithm there (D. Coles, J. Fluid Mech. 1, 1956, Pi about 0.5), as much as the
// logarithm gains up to this multiple of its thickness.
constexpr double kWakeOfLayer = 2.7;
constexpr double kDamping = 0.1;        ///< share of a value that alternates from cell to cell, frictionless flow only
constexpr const char* kSlipAhead = "ground ahead";  ///< the part of the ground that lets the air slip
// The ground's faces ahead of where its boundary layer begins, as a patch of their own.
Piece withGroundParted(Piece p, const Case& c) {
    if (c.tunnel.floor == grid::Floor::None || !c.groundLayerFrom) return p;
    const auto ground = std::find_if(p.patches.begin(), p.patches.end(), [](const grid::Patch& patch) { return patch.kind == grid::PatchKind::Side && patch.side == 4; });
    if (ground == p.patches.end()) return p;
    const auto old = static_cast<std::int32_t>(ground - p.patches.begin()), added = static_cast<std::int32_t>(p.patches.size());
    grid::Patch ahead = *ground;
    ahead.name = kSlipAhead;
    p.patches.push_back(ahead);
    for (std::size_t f = p.linked; f < p.faces(); ++f)
        if (p.patchOf[f - p.linked] == old && p.xf[f].x() < *c.groundLayerFrom) p.patchOf[f - p.linked] = added;
    return p;
}
constexpr double kLeastThrough = 0.02;  ///< of the wind through a cell's section: less counts as this much in a_P
}  // namespace

Load wholeModel(const Load& h) {
    const auto force = [](const Vec3& f) { return Vec3(2.0 * f.x(), 0.0, 2.0 * f.z()); };
    const auto moment = [](const Vec3& m) { return Vec3(0.0, 2.0 * m.y(), 0.0); };
    return {force(h.pressure), force(h.friction), moment(h.pressureMoment), moment(h.frictionMoment)};
}

Solver::Solver(const grid::Grid& grid, const grid::Geometry& geometry, const Case& c, const Ranks& ranks) : Solver(cutPiece(grid, geometry, ranks.rank(), ranks.size()), c, ranks) {}

Solver::Solver(Piece piece, const Case& c, const Ranks& ranks)
    : case_(c),
      ranks_(ranks),
      p_(withGroundParted(std::move(piece), c)),
      roles_(rolesFor(p_.patches, c.tunnel, c.wind, c.moving, c.rough)),
      matrix_(p_),
      limitU_(p_, c.settings.limiter, true),
      limitP_(p_, c.settings.limiter, false),
      relaxation_(c.settings.relaxation),
      devices_(p_, c.discs, c.blocks, c.wind.air.density, c.settings.model == Model::Inviscid ? 0.0 : c.wind.air.kinematicViscosity(), c.tunnel.halfModel, ranks) {
    if (c.settings.model == Model::Inviscid)
        for (PatchRole& r : roles_)
            if (r.role == Role::Wall) r.role = Role::Slip;
    for (std::size_t i = 0; i < roles_.size(); ++i)
        if (p_.patches[i].name == kSlipAhead && p_.patches[i].kind == grid::PatchKind::Side) roles_[i].role = Role::Slip;
    if (c.givenVelocity)
        for (PatchRole& r : roles_) r.role = Role::Inflow;
    nu_ = c.settings.model == Model::Inviscid ? 0.0 : c.wind.air.kinematicViscosity();
    const std::size_t nb = p_.faces() - p_.linked, stored = p_.stored();
    velocityKnown_.resize(nb);
    pressureKnown_.resize(nb);
    bool outlet = false;
    for (std::size_t i = 0; i < nb; ++i) {
        const Role r = roleAt(p_.linked + i);
        velocityKnown_[i] = !passesEitherWay(r) && !slidesOnModel(p_.linked + i);
        pressureKnown_[i] = r == Role::Outflow;
        outlet = outlet || passesEitherWay(r);
    }
    pressureFree_ = !ranks.any(outlet);
    gradientU_ = std::make_unique<Gradient>(p_, velocityKnown_);
    gradientP_ = std::make_unique<Gradient>(p_, pressureKnown_);

    s_.U.assign(stored, Vec3::Zero());
    s_.p.assign(stored, 0.0);
    s_.first.assign(stored, 0.0);
    s_.second.assign(stored, 0.0);
    s_.nuT.assign(stored, 0.0);
    s_.flux.assign(p_.faces(), 0.0);
    walls_.nuWall.assign(nb, nu_);
    walls_.uTau.assign(nb, 0.0);
    walls_.yPlus.assign(nb, 0.0);
    walls_.slopeShare.assign(nb, 1.0);
    Ub_.assign(nb, Vec3::Zero());
    pb_.assign(nb, 0.0);
    zero_.assign(nb, 0.0);
    D_.assign(stored, 0.0);
    Dcorrect_.assign(stored, 0.0);

    through_.resize(static_cast<std::size_t>(p_.cells));
    for (std::size_t c = 0; c < through_.size(); ++c) through_[c] = std::pow(p_.V[c], 2.0 / 3.0);

    groundBegins_ = 1e300;
    for (std::size_t f = p_.linked; f < p_.faces(); ++f) groundBegins_ = std::min(groundBegins_, p_.xf[f].x());
    groundBegins_ = c.groundLayerFrom.value_or(-ranks.max(-groundBegins_));

    // The aggregates come from the geometry alone, so that a resumed run has the same ones as an uninterrupted one.
    fillWithLaplacian();
    multigrid_ = std::make_unique<Multigrid>(matrix_, p_.halo, ranks_, c.settings.precision);

    if (isTurbulent(c.settings.model)) {
        auto distance = p_.wallDistance;
        // The ground is a wall where it holds the air or moves against it; one that moves with the air is felt by no model beyond the
        // cells next to it, but by them beside the model.
        if (c.tunnel.floor != grid::Floor::None)
            for (std::size_t i = 0; i < distance.size(); ++i) {
                const double ahead = c.groundLayerFrom ? std::max(0.0, *c.groundLayerFrom - p_.x[i].x()) : 0.0;
                distance[i] = std::min(distance[i], std::hypot(ahead, p_.x[i].z() - p_.lowest));
            }
        turbulence_ = makeTurbulence(c.settings.model, {p_, *gradientP_, *gradientU_, Ub_, matrix_, std::move(distance), nu_, roles_, freeTurbulenceOf(c.settings, c.wind.speed, modelLength()), timeStep_});
        const auto free = turbulence_->freeStream();
        s_.first.assign(stored, free[0]);
        s_.second.assign(stored, free[1]);
        s_.nuT.assign(stored, free[2]);
    }
}

void Solver::fillWithLaplacian() {
    matrix_.clearDiagonal();
    for (std::size_t f = 0; f < p_.linked; ++f) {
        matrix_.val[static_cast<std::size_t>(matrix_.atP[f])] = -p_.gap[f];
        matrix_.diag[static_cast<std::size_t>(p_.P[f])] += p_.gap[f];
        if (f >= p_.inner) continue;
        matrix_.val[static_cast<std::size_t>(matrix_.atN[f])] = -p_.gap[f];
        matrix_.diag[static_cast<std::size_t>(p_.N[f])] += p_.gap[f];
    }
}

void Solver::updateBoundaryValues() {
    for (std::size_t f = p_.linked; f < p_.faces(); ++f) {
        const auto i = f - p_.linked;
        const auto c = static_cast<std::size_t>(p_.P[f]);
        const PatchRole& r = patchRole(f);
        switch (r.role) {
            case Role::Wall: {
                // The surface moves in itself; what a facet's tilt would make it blow through the wall is left out.
                const Vec3 u = r.velocityAt(p_.xf[f]), n = p_.area[f] > 0.0 ? Vec3(p_.S[f] / p_.area[f]) : Vec3::Zero();
                Ub_[i] = u - u.dot(n) * n;
                break;
            }
            case Role::Inflow: Ub_[i] = inflowAt(f); break;
            case Role::Outflow:
            case Role::Open: Ub_[i] = s_.U[c]; break;
            case Role::Slip: {
                const Vec3 n = p_.area[f] > 0.0 ? Vec3(p_.S[f] / p_.area[f]) : Vec3::Zero();
                Ub_[i] = s_.U[c] - s_.U[c].dot(n) * n;
                break;
            }
        }
    }
}

void Solver::updateWalls() {
    for (std::size_t f = p_.linked; f < p_.faces(); ++f) {
        if (roleAt(f) != Role::Wall || !(p_.area[f] > 0.0)) continue;
        const auto i = f - p_.linked;
        const Vec3 n = p_.S[f] / p_.area[f];
        const Vec3 u = s_.U[static_cast<std::size_t>(p_.P[f])] - Ub_[i];
        const double speed = (u - u.dot(n) * n).norm(), y = p_.area[f] / p_.gap[f];
        // A ground's boundary layer is as thick as its run makes it, however thick the cell: beyond it the logarithm, and the wake that tops it, rise no more.
        const double layer = patchRole(f).heldGround ? air::plateLayerThickness(p_.xf[f].x() - groundBegins_, case_.wind.speed, nu_) : 0.0;
        const double yLaw = layer > 0.0 ? std::min(y, kWakeOfLayer * layer) : y;
        if (turbulence_) {
            walls_.uTau[i] = turbulence_->frictionVelocity(speed, yLaw, nu_, patchRole(f).roughness);
            walls_.nuWall[i] = speed > 1e-12 ? std::max(nu_, walls_.uTau[i] * walls_.uTau[i] * y / speed) : nu_;
        } else {
            walls_.uTau[i] = std::sqrt(nu_ * speed / y);
            walls_.nuWall[i] = nu_;
        }
        walls_.yPlus[i] = walls_.uTau[i] * y / nu_;
        walls_.slopeShare[i] = 1.0;
        if (turbulence_ && walls_.uTau[i] > 0.0)
            walls_.slopeShare[i] = layer > 0.0 && y > layer ? 0.0 : std::min(1.0, turbulence_->slopeOfLaw(speed / walls_.uTau[i], walls_.yPlus[i], walls_.uTau[i] * patchRole(f).roughness / nu_) * walls_.nuWall[i] / nu_);
    }
}

void Solver::updateVelocityGradient() {
    (*gradientU_)(s_.U, Ub_, gradU_);
    if (case_.settings.model == Model::Inviscid)
        // Along a curved wall the speed changes with the distance from it, so of what it is at the wall the gradient is told only that
        // nothing goes through.
        for (std::size_t f = p_.linked; f < p_.faces(); ++f) {
            if (!slidesOnModel(f) || !(p_.area[f] > 0.0)) continue;
            const auto P = static_cast<std::size_t>(p_.P[f]);
            const Vec3 n = p_.S[f] / p_.area[f], r = p_.xf[f] - p_.x[P];
            gradU_[P] -= n * (n.dot(s_.U[P] + gradU_[P] * r) / r.squaredNorm()) * r.transpose();
        }
    else
        meanAtWalls_ = carryWallProfile(p_, roles_, s_, walls_, Ub_, *gradientU_, turbulence_ != nullptr, gradU_);
    // Looks at own cells alone, and hands the outcome to the other ranks.
    limitU_(s_.U, Ub_, velocityKnown_, gradU_);
}

void Solver::updateGradients() {
    updateBoundaryValues();
    updateWalls();
    updateVelocityGradient();
    (*gradientP_)(s_.p, pb_, gradP_);
    limitP_(s_.p, pb_, pressureKnown_, gradP_);
    updatePressureForce();
}

void Solver::updatePressureForce() {
    // Face pressures from both sides' linear reconstructions: the force on a cell is conservative, so that drag and wake
    // agree, and still exact for a linear pressure.
    const Piece& p = p_;
    pressureForce_.assign(p.stored(), Vec3::Zero());
    for (std::size_t f = 0; f < p.faces(); ++f) {
        fetchNeighbourAhead(p, f, s_.p, gradP_, p.x, pressureForce_);
        const auto P = static_cast<std::size_t>(p.P[f]);
        const double fromP = s_.p[P] + gradP_[P].dot(p.xf[f] - p.x[P]);
        if (p.isBoundary(f)) {
            pressureForce_[P] += (roleAt(f) == Role::Outflow ? 0.0 : fromP) * p.S[f];
            continue;
        }
        const auto N = static_cast<std::size_t>(p.N[f]);
        const double pf = p.w[f] * fromP + (1.0 - p.w[f]) * (s_.p[N] + gradP_[N].dot(p.xf[f] - p.x[N]));
        pressureForce_[P] += pf * p.S[f];
        if (f < p.inner) pressureForce_[N] -= pf * p.S[f];
    }
    for (std::size_t c = 0; c < static_cast<std::size_t>(p.cells); ++c) pressureForce_[c] /= p.V[c];
    p.halo.exchange(pressureForce_);
}

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

namespace {
/// What nanoflann asks of a set of points.
struct Points {
    const std::vector<Vec3>& x;
    std::size_t kdtree_get_point_count() const { return x.size(); }
    double kdtree_get_pt(std::size_t i, std::size_t axis) const { return x[i][static_cast<Eigen::Index>(axis)]; }
    template <class Box>
    bool kdtree_get_bbox(Box&) const {
        return false;
    }
};
}  // namespace

void Solver::startFromCoarser(const FlowCloud& coarse) {
    const Points points{coarse.x};
    const nanoflann::KDTreeSingleIndexAdaptor<nanoflann::L2_Simple_Adaptor<double, Points>, Points, 3, std::size_t> tree(3, points);
    const double V = case_.wind.speed;
    for (std::size_t c = 0; c < static_cast<std::size_t>(p_.cells); ++c) {
        std::size_t near = 0;
        double squared = 0.0;
        tree.knnSearch(p_.x[c].data(), 1, &near, &squared);
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
            s_.flux[f] = roleAt(f) == Role::Inflow || roleAt(f) == Role::Outflow ? Ub_[f - p_.linked].dot(p_.S[f]) : roleAt(f) == Role::Open ? openFlux(f) : 0.0;
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
    setTimeStep(c.timeStep);
    meanCount_ = meanSum_.empty() ? 0.0 : static_cast<double>(c.history.size() - c.averagedFrom);
    updateGradients();
}

Checkpoint Solver::checkpoint() const {
    auto c = gatherState(p_, s_, ranks_);
    c.relaxation = relaxation_.memory();
    c.timeStep = timeStep_;
    if (meanCount_ > 0.0) {
        c.meanData = ranks_.gatherAtRoot(meanSum_);
        c.meanLoads = meanLoads_;
    }
    return c;
}

void Solver::restore(const State& state) {
    s_ = state;
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

double Solver::solveMomentum() {
    const Piece& p = p_;
    const auto n = static_cast<std::size_t>(p.cells);
    std::vector<double> gamma(p.stored());
    for (std::size_t c = 0; c < p.stored(); ++c) gamma[c] = nu_ + s_.nuT[c];
    std::vector<Vec3> b(p.stored(), Vec3::Zero());
    matrix_.clearDiagonal();
    const SeriesViscosity* between = turbulence_ ? turbulence_->viscosityBetweenCells(s_) : nullptr;
    const auto add = [&]<Scheme scheme>() {
        if (between)
            addTransport<scheme, true>(p, s_.flux, gamma, s_.U, gradU_, matrix_, b, *between);
        else if (turbulence_)
            addTransport<scheme, true>(p, s_.flux, gamma, s_.U, gradU_, matrix_, b);
        else
            addTransport<scheme>(p, s_.flux, gamma, s_.U, gradU_, matrix_, b);
    };
    if (case_.settings.secondOrder)
        add.template operator()<Scheme::SecondOrder>();
    else
        add.template operator()<Scheme::FirstOrder>();
    if (case_.settings.secondOrder && case_.settings.model == Model::Inviscid) addDamping(p, kDamping, s_.flux, s_.U, gradU_, matrix_, b);
    if (case_.givenForce)
        for (std::size_t c = 0; c < n; ++c) b[c] += p.V[c] * case_.givenForce(p.x[c]);
    std::vector<double> outside(n, 0.0);  // part of the diagonal that belongs to no neighbour
    devices_.update(s_.U);
    devices_.forEachCell([&](std::size_t c, const Vec3& force, const Vec3& resistance) {
        // The matrix has one diagonal for the three components: it takes the largest resistance, and the others give back.
        const double most = resistance.maxCoeff();
        b[c] += force + (Vec3::Constant(most) - resistance).cwiseProduct(s_.U[c]);
        matrix_.diag[c] += most;
        outside[c] += most;
    });
    for (std::size_t f = p.linked; f < p.faces(); ++f) {
        const auto P = static_cast<std::size_t>(p.P[f]);
        const auto i = f - p.linked;
        double c = 0.0;
        Vec3 value = Ub_[i];
        switch (roleAt(f)) {
            case Role::Wall: {
                if (!(p.area[f] > 0.0)) break;
                const Vec3 normal = p.S[f] / p.area[f];
                c = walls_.nuWall[i] * p.gap[f];
                value = Ub_[i] + (s_.U[P] - Ub_[i]).dot(normal) * normal;
                break;
            }
            case Role::Slip: c = gamma[P] * p.gap[f]; break;
            case Role::Inflow:
                c = std::max(-s_.flux[f], 0.0) + gamma[P] * p.gap[f];
                // Where a given velocity leads out, what leaves is rebuilt from inside, as between cells.
                if (s_.flux[f] > 0.0) b[P] -= s_.flux[f] * (gradU_[P] * (p.xf[f] - p.x[P]));
                break;
            case Role::Outflow:
            case Role::Open:
                c = std::max(-s_.flux[f], 0.0);
                value = case_.wind.velocity();
                break;
        }
        outside[P] += c;
        matrix_.diag[P] += c;
        b[P] += c * value;
    }
    // In steps of time the residual follows the wake and says nothing about caution.
    const double relax = timeStep_ > 0.0 ? relaxation_.most() : relaxation_.now();
    double scale = 0.0;
    for (std::size_t c = 0; c < n; ++c) {
        // At a stagnation point nothing flows through a cell and, without friction, a falls to zero.
        const double a = std::max(matrix_.diag[c], kLeastThrough * case_.wind.speed * through_[c]), relaxed = std::max(a / relax, timeStep_ > 0.0 ? a + p.V[c] / timeStep_ : 0.0);
        D_[c] = p.V[c] / a;
        // SIMPLEC: the neighbours' corrections move along with the cell's own.
        Dcorrect_[c] = p.V[c] / (relaxed - (matrix_.diag[c] - outside[c]));
        // What damps a pressure that alternates from cell to cell must not outdo what the correction counts with.
        if (timeStep_ > 0.0) D_[c] = std::min(D_[c], Dcorrect_[c]);
        b[c] -= p.V[c] * pressureForce_[c];
        b[c] += (relaxed - matrix_.diag[c]) * s_.U[c];
        matrix_.diag[c] = relaxed;
        scale += relaxed;
    }
    p.halo.exchange(D_);
    p.halo.exchange(Dcorrect_);
    double r[2] = {residual(matrix_, b, s_.U), scale * case_.wind.speed};
    ranks_.sum(std::span<double>(r, 2));
    for (int sweep = 0; sweep < 2; ++sweep) {
        gaussSeidel(matrix_, b, s_.U, sweep % 2 == 0);
        p.halo.exchange(s_.U);
    }
    return r[0] / r[1];
}

double Solver::correctPressure(double reduction, int mostSweeps) {
    const Piece& p = p_;
    std::vector<double> b(p.stored(), 0.0), correction(p.stored(), 0.0);
    matrix_.clearDiagonal();
    for (std::size_t f = 0; f < p.faces(); ++f) {
        fetchNeighbourAhead(p, f, s_.U, gradU_, p.x, D_, Dcorrect_, pressureForce_, s_.p, b, matrix_.diag);
        const auto P = static_cast<std::size_t>(p.P[f]);
        double& flux = s_.flux[f];
        if (p.isBoundary(f)) {
            const Role role = roleAt(f);
            if (role == Role::Outflow) {
                const Vec3 d = p.xf[f] - p.x[P];
                flux = s_.U[P].dot(p.S[f]) - D_[P] * p.gap[f] * (-s_.p[P] - pressureForce_[P].dot(d));
                matrix_.diag[P] += Dcorrect_[P] * p.gap[f];
            } else if (role == Role::Open) {
                flux = openFlux(f);
                matrix_.diag[P] += openness(f);
            } else {
                flux = role == Role::Inflow ? Ub_[f - p.linked].dot(p.S[f]) : 0.0;
            }
            b[P] -= flux;
            continue;
        }
        // Momentum-weighted interpolation (C. M. Rhie, W. L. Chow, AIAA J. 21, 1983): the face's own pressure difference
        // takes the place of the cells' mean gradient. a_P is taken before relaxation, so the settled flow does not depend
        // on the relaxation.
        const auto N = static_cast<std::size_t>(p.N[f]);
        const double w = p.w[f];
        const Vec3 Uf = w * (s_.U[P] + gradU_[P] * (p.xf[f] - p.x[P])) + (1.0 - w) * (s_.U[N] + gradU_[N] * (p.xf[f] - p.x[N]));
        const double Df = w * D_[P] + (1.0 - w) * D_[N];
        const Vec3 gradf = w * pressureForce_[P] + (1.0 - w) * pressureForce_[N];
        flux = Uf.dot(p.S[f]) - Df * p.gap[f] * ((s_.p[N] - s_.p[P]) - gradf.dot(p.d[f]));
        const double a = (w * Dcorrect_[P] + (1.0 - w) * Dcorrect_[N]) * p.gap[f];
        matrix_.val[static_cast<std::size_t>(matrix_.atP[f])] = -a;
        matrix_.diag[P] += a;
        b[P] -= flux;
        if (f >= p.inner) continue;
        matrix_.val[static_cast<std::size_t>(matrix_.atN[f])] = -a;
        matrix_.diag[N] += a;
        b[N] += flux;
    }
    double sums[2] = {0.0, 0.0};
    for (std::size_t c = 0; c < static_cast<std::size_t>(p.cells); ++c) {
        sums[0] += std::abs(b[c]);
        sums[1] += through_[c];
    }
    ranks_.sum(std::span<double>(sums, 2));
    const auto outcome = multigrid_->solve(matrix_, b, correction, reduction, mostSweeps, pressureFree_);
    pressureIterations_ = outcome.iterations;
    // The cells' velocities follow the fluxes' corrections: the mean of a velocity over a cell is sum (x_f - x_P) F_f / V. At
    // walls nothing is corrected, so the thin cells on them get half of what their one-sided pressure slope would give, and
    // do not start to swing.
    for (std::size_t f = 0; f < p.faces(); ++f) {
        fetchNeighbourAhead(p, f, s_.U, p.x, Dcorrect_, correction, p.V);
        const auto P = static_cast<std::size_t>(p.P[f]);
        double change = 0.0;
        if (p.isBoundary(f)) {
            if (!passesEitherWay(roleAt(f))) continue;
            change = (roleAt(f) == Role::Open ? openness(f) : Dcorrect_[P] * p.gap[f]) * correction[P];
        } else {
            const auto N = static_cast<std::size_t>(p.N[f]);
            change = -(p.w[f] * Dcorrect_[P] + (1.0 - p.w[f]) * Dcorrect_[N]) * p.gap[f] * (correction[N] - correction[P]);
            if (f < p.inner) s_.U[N] -= change / p.V[N] * (p.xf[f] - p.x[N]);
        }
        s_.flux[f] += change;
        s_.U[P] += change / p.V[P] * (p.xf[f] - p.x[P]);
    }
    p.halo.exchange(s_.U);
    for (std::size_t c = 0; c < p.stored(); ++c) s_.p[c] += correction[c];
    return sums[0] / (sums[1] * case_.wind.speed);
}

Residuals Solver::iterate() {
    Residuals r;
    showsMean_ = false;
    r.momentum = solveMomentum();
    updateBoundaryValues();
    updateVelocityGradient();
    r.mass = correctPressure(0.03, 25);
    relaxation_.take(r.momentum + r.mass);
    updateGradients();
    if (turbulence_) {
        const auto exchange = [&] {
            for (auto& [cell, mean] : meanAtWalls_) std::swap(gradU_[cell], mean);
        };
        exchange();
        const auto left = turbulence_->advance(s_, walls_, gradU_, ranks_);
        exchange();
        r.first = left[0];
        r.second = left[1];
    }
    return r;
}

void Solver::closeContinuity() {
    correctPressure(1e-8, 200);
    updateGradients();
}

std::vector<Load> Solver::loadsByPatch() const {
    if (showsMean_) {
        std::vector<Load> mean(meanLoads_.size() / kLoadNumbers);
        for (std::size_t i = 0; i < meanLoads_.size(); ++i) mean.data()->pressure.data()[i] = meanLoads_[i] / meanCount_;
        return mean;
    }
    auto all = loads(p_, roles_, s_, walls_, gradP_, case_.reference.momentCentre, ranks_);
    const double rho = case_.wind.air.density;
    for (Load& l : all)
        for (Vec3* v : {&l.pressure, &l.friction, &l.pressureMoment, &l.frictionMoment}) *v *= rho;
    return all;
}

Vec3 Solver::forceFromOutside() const {
    return case_.wind.air.density * flow::forceFromOutside(p_, roles_, s_, walls_, Ub_, gradU_, gradP_, devices_, case_.wind.velocity(), nu_, ranks_);
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

std::vector<WallSample> Solver::wallSamples() const { return sampleWalls(p_, roles_, s_, walls_, gradP_); }

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
    constexpr double kStepsAcross = 20.0;
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
