#include "flow/solver.h"

#include <algorithm>
#include <cmath>

#include "air/plate_layer.h"
#include "flow/ahead.h"
#include "flow/transport.h"

namespace cvane::flow {
namespace {
// The speed at the edge of a plate's layer is 2 Pi / kappa = 2.4 u_tau above the logarithm there (D. Coles, J. Fluid
// Mech. 1, 1956, Pi about 0.5), as much as the logarithm gains up to this multiple of its thickness.
constexpr double kWakeOfLayer = 2.7;
constexpr double kDamping = 0.1;        ///< share of a value that alternates from cell to cell, frictionless flow only
constexpr double kLeastThrough = 0.02;  ///< of the wind through a cell's section: less counts as this much in a_P
constexpr const char* kSlipAhead = "ground ahead";  ///< the part of the ground that lets the air slip
// The ground's faces ahead of where its boundary layer begins, as a patch of their own.
Piece withGroundParted(Piece p, const Case& c) {
    if (c.tunnel.floor == grid::Floor::None || !c.groundLayerFrom) return p;
    const auto ground = std::find_if(p.patches.begin(), p.patches.end(), [](const grid::Patch& patch) {
        return patch.kind == grid::PatchKind::Side && patch.side == 4;
    });
    if (ground == p.patches.end()) return p;
    const auto old = static_cast<std::int32_t>(ground - p.patches.begin()),
               added = static_cast<std::int32_t>(p.patches.size());
    grid::Patch ahead = *ground;
    ahead.name = kSlipAhead;
    p.patches.push_back(ahead);
    for (std::size_t f = p.linked; f < p.faces(); ++f)
        if (p.patchOf[f - p.linked] == old && p.xf[f].x() < *c.groundLayerFrom) p.patchOf[f - p.linked] = added;
    return p;
}
}  // namespace

Solver::Solver(const grid::Grid& grid, const grid::Geometry& geometry, const Case& c, const Ranks& ranks)
    : Solver(cutPiece(grid, geometry, ranks.rank(), ranks.size()), c, ranks) {}

Solver::Solver(Piece piece, const Case& c, const Ranks& ranks)
    : case_(c),
      ranks_(ranks),
      p_(withGroundParted(std::move(piece), c)),
      roles_(rolesFor(p_.patches, c.tunnel, c.wind, c.moving, c.rough)),
      matrix_(p_),
      limitU_(p_, c.settings.limiter, true),
      limitP_(p_, c.settings.limiter, false),
      relaxation_(c.settings.relaxation),
      devices_(p_, c.discs, c.blocks, c.wind.air.density,
               c.settings.model == Model::Inviscid ? 0.0 : c.wind.air.kinematicViscosity(), c.tunnel.halfModel, ranks) {
    if (c.settings.model == Model::Inviscid)
        for (PatchRole& r : roles_)
            if (r.role == Role::Wall) r.role = Role::Slip;
    for (std::size_t i = 0; i < roles_.size(); ++i)
        if (p_.patches[i].name == kSlipAhead && p_.patches[i].kind == grid::PatchKind::Side)
            roles_[i].role = Role::Slip;
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
        // A moving ground counts too: under a model it moves against the air, and where both move alike the models'
        // near-wall terms are nothing.
        if (c.tunnel.floor != grid::Floor::None)
            for (std::size_t i = 0; i < distance.size(); ++i) {
                const double ahead = c.groundLayerFrom ? std::max(0.0, *c.groundLayerFrom - p_.x[i].x()) : 0.0;
                distance[i] = std::min(distance[i], std::hypot(ahead, p_.x[i].z() - p_.lowest));
            }
        turbulence_ = makeTurbulence(c.settings.model,
                                     {p_, *gradientP_, *gradientU_, Ub_, matrix_, std::move(distance), nu_, roles_,
                                      freeTurbulenceOf(c.settings, c.wind.speed, modelLength()), time_});
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
            case Role::Inflow:
                Ub_[i] = inflowAt(f);
                break;
            case Role::Outflow:
            case Role::Open:
                Ub_[i] = s_.U[c];
                break;
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
        // A ground's boundary layer is as thick as its run makes it, however thick the cell: beyond it the logarithm,
        // and the wake that tops it, rise no more.
        const double layer = patchRole(f).heldGround
                                 ? air::plateLayerThickness(p_.xf[f].x() - groundBegins_, case_.wind.speed, nu_)
                                 : 0.0;
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
            walls_.slopeShare[i] =
                layer > 0.0 && y > layer
                    ? 0.0
                    : std::min(1.0, turbulence_->slopeOfLaw(speed / walls_.uTau[i], walls_.yPlus[i],
                                                            walls_.uTau[i] * patchRole(f).roughness / nu_) *
                                        walls_.nuWall[i] / nu_);
    }
}

void Solver::updateVelocityGradient() {
    (*gradientU_)(s_.U, Ub_, gradU_);
    if (case_.settings.model == Model::Inviscid)
        // Along a curved wall the speed changes with the distance from it, so of what it is at the wall the gradient is
        // told only that nothing goes through.
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
    // Face pressures from both sides' linear reconstructions: the force on a cell is conservative, so that drag and
    // wake agree, and still exact for a linear pressure.
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
    if (case_.settings.secondOrder && case_.settings.model == Model::Inviscid)
        addDamping(p, kDamping, s_.flux, s_.U, gradU_, matrix_, b);
    if (case_.givenForce)
        for (std::size_t c = 0; c < n; ++c) b[c] += p.V[c] * case_.givenForce(p.x[c]);
    std::vector<double> outside(n, 0.0);  // part of the diagonal that belongs to no neighbour
    devices_.update(s_.U);
    devices_.forEachCell([&](std::size_t c, const Vec3& force, const Vec3& resistance) {
        // The matrix has one diagonal for the three components: it takes the largest resistance, and the others give
        // back.
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
            case Role::Slip:
                c = gamma[P] * p.gap[f];
                break;
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
    const double relax = time_.inTime() ? relaxation_.most() : relaxation_.now();
    double scale = 0.0;
    for (std::size_t c = 0; c < n; ++c) {
        // At a stagnation point nothing flows through a cell and, without friction, a falls to zero.
        const double a = std::max(matrix_.diag[c], kLeastThrough * case_.wind.speed * through_[c]),
                     inTime = time_.inTime() ? p.V[c] * time_.weight() : 0.0, relaxed = (a + inTime) / relax;
        D_[c] = p.V[c] / (a + inTime);
        // SIMPLEC: the neighbours' corrections move along with the cell's own.
        Dcorrect_[c] = p.V[c] / (relaxed - (matrix_.diag[c] - outside[c]));
        if (time_.inTime()) b[c] += p.V[c] * time_.fromBefore(time_.U, c);
        b[c] -= p.V[c] * pressureForce_[c];
        b[c] += (relaxed - inTime - matrix_.diag[c]) * s_.U[c];
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
        // Momentum-weighted interpolation (C. M. Rhie, W. L. Chow, AIAA J. 21, 1983): the face's own pressure
        // difference takes the place of the cells' mean gradient. a_P is taken before relaxation, so the settled flow
        // does not depend on the relaxation.
        const auto N = static_cast<std::size_t>(p.N[f]);
        const double w = p.w[f];
        const Vec3 Uf = betweenCells(f);
        const double Df = w * D_[P] + (1.0 - w) * D_[N];
        const Vec3 gradf = w * pressureForce_[P] + (1.0 - w) * pressureForce_[N];
        flux = Uf.dot(p.S[f]) - Df * p.gap[f] * ((s_.p[N] - s_.p[P]) - gradf.dot(p.d[f]));
        // What the fluxes of earlier steps had beyond the cells' velocities has its inertia too: without it a flow at
        // rest would depend on the step.
        if (time_.inTime()) flux += Df * time_.fromBefore(time_.excess, f);
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
    // The cells' velocities follow the fluxes' corrections: the mean of a velocity over a cell is sum (x_f - x_P) F_f /
    // V. At walls nothing is corrected, so the thin cells on them get half of what their one-sided pressure slope would
    // give, and do not start to swing.
    for (std::size_t f = 0; f < p.faces(); ++f) {
        fetchNeighbourAhead(p, f, s_.U, p.x, Dcorrect_, correction, p.V);
        const auto P = static_cast<std::size_t>(p.P[f]);
        double change = 0.0;
        if (p.isBoundary(f)) {
            if (!passesEitherWay(roleAt(f))) continue;
            change = (roleAt(f) == Role::Open ? openness(f) : Dcorrect_[P] * p.gap[f]) * correction[P];
        } else {
            const auto N = static_cast<std::size_t>(p.N[f]);
            change =
                -(p.w[f] * Dcorrect_[P] + (1.0 - p.w[f]) * Dcorrect_[N]) * p.gap[f] * (correction[N] - correction[P]);
            if (f < p.inner) s_.U[N] -= change / p.V[N] * (p.xf[f] - p.x[N]);
        }
        s_.flux[f] += change;
        s_.U[P] += change / p.V[P] * (p.xf[f] - p.x[P]);
    }
    p.halo.exchange(s_.U);
    for (std::size_t c = 0; c < p.stored(); ++c) s_.p[c] += correction[c];
    return sums[0] / (sums[1] * case_.wind.speed);
}

std::vector<double> Solver::excessFluxes() const {
    std::vector<double> excess(p_.faces(), 0.0);
    for (std::size_t f = 0; f < p_.linked; ++f) excess[f] = s_.flux[f] - betweenCells(f).dot(p_.S[f]);
    return excess;
}

Residuals Solver::iterate(double share, int most) {
    if (!time_.inTime()) return iterateOnce();
    time_.begin(s_, excessFluxes());
    Residuals r = iterateOnce();
    const double enough = share * r.momentum;
    for (int i = 1; i < most && r.momentum > enough; ++i) r = iterateOnce();
    return r;
}

Residuals Solver::iterateOnce() {
    Residuals r;
    showsMean_ = false;
    r.momentum = solveMomentum();
    updateBoundaryValues();
    updateVelocityGradient();
    r.mass = correctPressure(0.03, 25);
    // In steps of time the residual follows the wake and says nothing about caution.
    if (!time_.inTime()) relaxation_.take(r.momentum + r.mass);
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

}  // namespace cvane::flow
