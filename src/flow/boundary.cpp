#include "flow/boundary.h"

#include <algorithm>
#include <cmath>

#include "flow/flow.h"

namespace cvane::flow {
namespace {

std::size_t cellAt(const Flow& flow, std::size_t f) {
    return static_cast<std::size_t>(flow.piece.P[f]);
}
const Vec3& atFace(const Flow& flow, std::size_t f) {
    return flow.atBoundary[f - flow.piece.linked];
}
double diffusion(const Flow& flow, std::size_t f) {
    return (flow.nu + flow.state.nuT[cellAt(flow, f)]) * flow.piece.gap[f];
}
Vec3 pressureOn(const Flow& flow, std::size_t f) {
    const Piece& p = flow.piece;
    const auto P = cellAt(flow, f);
    return (flow.state.p[P] + flow.gradP[P].dot(p.xf[f] - p.x[P])) * p.S[f];
}

/// A surface that the air sticks to, which may move in itself.
class Wall : public Boundary {
  public:
    Wall(const Vec3& velocity, const Vec3& spin, const Vec3& centre)
        : velocity_(velocity), spin_(spin), centre_(centre) {}
    Vec3 velocity(const Flow& flow, std::size_t f) const override {
        // What a facet's tilt would make it blow through the wall is left out.
        const Vec3 u = velocity_ + spin_.cross(flow.piece.xf[f] - centre_), n = flow.normal(f);
        return u - u.dot(n) * n;
    }
    BoundaryMomentum momentum(const Flow& flow, std::size_t f) const override {
        if (!(flow.piece.area[f] > 0.0)) return {0.0, atFace(flow, f)};
        const Vec3 n = flow.normal(f), &wall = atFace(flow, f);
        return {flow.walls.nuWall[f - flow.piece.linked] * flow.piece.gap[f],
                wall + (flow.state.U[cellAt(flow, f)] - wall).dot(n) * n};
    }
    BoundaryForce force(const Flow& flow, std::size_t f) const override {
        const Vec3 u = atFace(flow, f) - flow.state.U[cellAt(flow, f)], n = flow.normal(f);
        return {-pressureOn(flow, f),
                flow.walls.nuWall[f - flow.piece.linked] * flow.piece.gap[f] * (u - u.dot(n) * n)};
    }
    bool sticks() const override { return true; }

  private:
    Vec3 velocity_, spin_, centre_;
};

class Slip : public Boundary {
  public:
    Vec3 velocity(const Flow& flow, std::size_t f) const override {
        const Vec3 &u = flow.state.U[cellAt(flow, f)], n = flow.normal(f);
        return u - u.dot(n) * n;
    }
    BoundaryMomentum momentum(const Flow& flow, std::size_t f) const override {
        return {diffusion(flow, f), atFace(flow, f)};
    }
    BoundaryForce force(const Flow& flow, std::size_t f) const override {
        return {-pressureOn(flow, f), diffusion(flow, f) * (atFace(flow, f) - flow.state.U[cellAt(flow, f)])};
    }
    bool velocityIsKnown(bool onModel) const override { return !onModel; }
    bool slides() const override { return true; }
};

class Inlet : public Boundary {
  public:
    explicit Inlet(std::shared_ptr<const FarWind> wind) : wind_(std::move(wind)) {}
    Vec3 velocity(const Flow& flow, std::size_t f) const override { return wind_->at(flow.piece.xf[f]); }
    BoundaryMomentum momentum(const Flow& flow, std::size_t f) const override {
        const Piece& p = flow.piece;
        const auto P = cellAt(flow, f);
        const double flux = flow.state.flux[f];
        BoundaryMomentum out{std::max(-flux, 0.0) + diffusion(flow, f), atFace(flow, f)};
        // Where a given velocity leads out, what leaves is rebuilt from inside, as between cells.
        if (flux > 0.0) out.source = -flux * (flow.gradU[P] * (p.xf[f] - p.x[P]));
        return out;
    }
    BoundaryFlux flux(const Flow& flow, std::size_t f) const override {
        return {atFace(flow, f).dot(flow.piece.S[f]), 0.0};
    }
    double changedFlux(const Flow& flow, std::size_t f, double, const Vec3&) const override {
        return wind_->at(flow.piece.xf[f]).dot(flow.piece.S[f]);
    }
    double inflow(double flux, double diffusion) const override { return std::max(-flux, 0.0) + diffusion; }
    BoundaryForce force(const Flow& flow, std::size_t f) const override {
        const Piece& p = flow.piece;
        const auto P = cellAt(flow, f);
        const double flux = flow.state.flux[f], g = diffusion(flow, f);
        const Vec3 &at = atFace(flow, f), &U = flow.state.U[P];
        const Vec3 leaving = flux > 0.0 ? Vec3(U + flow.gradU[P] * (p.xf[f] - p.x[P])) : at;
        return {-pressureOn(flow, f), -(flux * (leaving - wind_->velocity()) - g * (at - U))};
    }
    bool isInlet() const override { return true; }

  protected:
    std::shared_ptr<const FarWind> wind_;
};

/// The air comes in along the wind with the free stream's total pressure, to first order in what the body changes
/// there: slower by p / V. With the speed held, what a blunt body holds back upstream would raise the total pressure of
/// all the air that meets it: by 2 % of q where a plate across the wind stands five of its heights behind the inlet.
class FreeInlet : public Inlet {
  public:
    using Inlet::Inlet;
    Vec3 velocity(const Flow& flow, std::size_t f) const override { return share(flow, f) * wind_->velocity(); }
    BoundaryFlux flux(const Flow& flow, std::size_t f) const override {
        const double through = wind_->velocity().dot(flow.piece.S[f]), speed = wind_->speed();
        return {share(flow, f) * through, std::max(-through, 0.0) / (speed * speed)};
    }
    double changedFlux(const Flow& flow, std::size_t f, double, const Vec3&) const override {
        return flux(flow, f).flux;
    }
    bool tiesPressure() const override { return true; }

  private:
    // Bounded for the sake of starts.
    double share(const Flow& flow, std::size_t f) const {
        return std::clamp(1.0 - flow.state.p[cellAt(flow, f)] / (wind_->speed() * wind_->speed()), 0.5, 1.5);
    }
};

/// Air leaves with what it has, and comes in with what the free stream has.
class EitherWay : public Boundary {
  public:
    explicit EitherWay(std::shared_ptr<const FarWind> wind) : wind_(std::move(wind)) {}
    Vec3 velocity(const Flow& flow, std::size_t f) const override { return flow.state.U[cellAt(flow, f)]; }
    BoundaryMomentum momentum(const Flow& flow, std::size_t f) const override {
        return {std::max(-flow.state.flux[f], 0.0), wind_->velocity()};
    }
    double inflow(double flux, double) const override { return std::max(-flux, 0.0); }
    bool tiesPressure() const override { return true; }
    bool velocityIsKnown(bool) const override { return false; }

  protected:
    Vec3 carriedOut(const Flow& flow, std::size_t f) const {
        const double flux = flow.state.flux[f];
        return flux > 0.0 ? Vec3(-flux * (flow.state.U[cellAt(flow, f)] - wind_->velocity())) : Vec3(Vec3::Zero());
    }
    std::shared_ptr<const FarWind> wind_;
};

/// The free stream's pressure is held there.
class Outlet : public EitherWay {
  public:
    using EitherWay::EitherWay;
    BoundaryFlux flux(const Flow& flow, std::size_t f) const override {
        const Piece& p = flow.piece;
        const auto P = cellAt(flow, f);
        const Vec3 d = p.xf[f] - p.x[P];
        return {flow.state.U[P].dot(p.S[f]) - flow.D[P] * p.gap[f] * (-flow.state.p[P] - flow.pressureForce[P].dot(d)),
                flow.Dcorrect[P] * p.gap[f]};
    }
    double changedFlux(const Flow& flow, std::size_t f, double before, const Vec3& dU) const override {
        return before + dU.dot(flow.piece.S[f]);
    }
    BoundaryForce force(const Flow& flow, std::size_t f) const override { return {Vec3::Zero(), carriedOut(flow, f)}; }
    bool holdsPressure() const override { return true; }
};

/// The flux is the wind's, and as much of a speed p / V as the pressure there makes. To a wave along the side, whose
/// pressure p and speed p / V through it belong together, the side is as good as not there.
class Open : public EitherWay {
  public:
    using EitherWay::EitherWay;
    BoundaryFlux flux(const Flow& flow, std::size_t f) const override {
        const double slope = flow.piece.area[f] / wind_->speed();
        return {wind_->velocity().dot(flow.piece.S[f]) + slope * flow.state.p[cellAt(flow, f)], slope};
    }
    double changedFlux(const Flow& flow, std::size_t f, double, const Vec3&) const override {
        return flux(flow, f).flux;
    }
    BoundaryForce force(const Flow& flow, std::size_t f) const override {
        return {-pressureOn(flow, f), carriedOut(flow, f)};
    }
};
}  // namespace

FarWind::FarWind(const Case& c)
    : velocity_(c.wind.velocity()), speed_(c.wind.speed), vortexAt_(c.vortexAt), given_(c.givenVelocity) {}

Vec3 FarWind::at(const Vec3& x) const {
    if (given_) return given_(x);
    if (!vortexAt_) return velocity_;
    // Clockwise in x, z, which lifts: speed circulation / (2 pi r).
    const Vec3 d = x - *vortexAt_;
    const double r2 = d.x() * d.x() + d.z() * d.z();
    return velocity_ + circulation_ / (6.283185307179586 * r2) * Vec3(d.z(), 0.0, -d.x());
}

std::shared_ptr<const Boundary> wallBoundary(const Vec3& velocity, const Vec3& spin, const Vec3& centre) {
    return std::make_shared<Wall>(velocity, spin, centre);
}
std::shared_ptr<const Boundary> slipBoundary() {
    return std::make_shared<Slip>();
}
std::shared_ptr<const Boundary> inletBoundary(std::shared_ptr<const FarWind> wind) {
    return std::make_shared<Inlet>(std::move(wind));
}
std::shared_ptr<const Boundary> freeInletBoundary(std::shared_ptr<const FarWind> wind) {
    return std::make_shared<FreeInlet>(std::move(wind));
}
std::shared_ptr<const Boundary> outletBoundary(std::shared_ptr<const FarWind> wind) {
    return std::make_shared<Outlet>(std::move(wind));
}
std::shared_ptr<const Boundary> openBoundary(std::shared_ptr<const FarWind> wind) {
    return std::make_shared<Open>(std::move(wind));
}

}  // namespace cvane::flow
