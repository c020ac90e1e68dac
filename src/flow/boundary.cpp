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
    return flow.effectiveIn(cellAt(flow, f)) * flow.piece.gap[f];
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

/// The air comes in along the wind with the free stream's total pressure (of incompressible air to first order in what
/// the body changes there): slower by p / V. With the speed held, what a blunt body holds back upstream would raise the
/// total pressure of all the air that meets it: by 2 % of q where a plate across the wind stands five of its heights
/// behind the inlet.
class FreeInlet : public Inlet {
  public:
    using Inlet::Inlet;
    Vec3 velocity(const Flow& flow, std::size_t f) const override { return share(flow, f) * wind_->velocity(); }
    BoundaryFlux flux(const Flow& flow, std::size_t f) const override {
        const double through = wind_->velocity().dot(flow.piece.S[f]), speed = wind_->speed();
        if (!flow.gas) return {share(flow, f) * through, std::max(-through, 0.0) / (speed * speed)};
        if (wind_->isFastThrough(-flow.normal(f))) return {through, 0.0};
        const GasLaw& g = *flow.gas;
        const double s = share(flow, f), a2 = g.gamma * g.R * slowedTemperature(flow, f);
        return {s * std::pow(slowedTemperature(flow, f) / g.T, 1.0 / (g.gamma - 1.0)) * through,
                std::max(-through, 0.0) / (speed * speed) * std::max(0.0, 1.0 - s * s * speed * speed / a2)};
    }
    double changedFlux(const Flow& flow, std::size_t f, double, const Vec3&) const override {
        return flux(flow, f).flux;
    }
    bool tiesPressure() const override { return true; }

  private:
    static double slowedTemperature(const Flow& flow, std::size_t f) {
        const GasLaw& g = *flow.gas;
        return g.T * std::pow(g.pressureOf(flow.state.p[cellAt(flow, f)]) / g.pressure(), (g.gamma - 1.0) / g.gamma);
    }
    // Bounded for the sake of starts.
    double share(const Flow& flow, std::size_t f) const {
        if (flow.gas) {
            if (wind_->isFastThrough(-flow.normal(f))) return 1.0;
            const double V2 = wind_->speed() * wind_->speed(),
                         slowed = V2 + 2.0 * flow.gas->cp() * (flow.gas->T - slowedTemperature(flow, f));
            return std::clamp(std::sqrt(std::max(slowed, 0.0) / V2), 0.5, 1.5);
        }
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
    static BoundaryFlux leaving(const Flow& flow, std::size_t f) {
        const auto P = cellAt(flow, f);
        const double volume = std::max(flow.state.U[P].dot(flow.piece.S[f]), 0.0);
        return {flow.state.densityIn(P) * volume, 0.0, volume / (flow.gas->R * flow.temperatureIn(P))};
    }
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
        const double volume = flow.state.U[P].dot(p.S[f]) -
                              flow.D[P] * p.gap[f] * (-flow.state.p[P] - flow.pressureForce[P].dot(d)),
                     density = flow.state.densityIn(P);
        return {density * volume, density * flow.Dcorrect[P] * p.gap[f]};
    }
    double changedFlux(const Flow& flow, std::size_t f, double before, const Vec3& dU) const override {
        return before + dU.dot(flow.piece.S[f]);
    }
    BoundaryForce force(const Flow& flow, std::size_t f) const override { return {Vec3::Zero(), carriedOut(flow, f)}; }
    bool holdsPressure() const override { return true; }
};

/// The far side of compressible plane flow, at any angle to the wind: the wind with its vortex passes, and beside it as
/// much as the pressure makes that differs from the vortex's own: along the wind as at a side of free air, against it
/// as at the inlet of free air.
class FarSide : public EitherWay {
  public:
    using EitherWay::EitherWay;
    Vec3 velocity(const Flow& flow, std::size_t f) const override {
        const State here(*this, flow, f);
        return here.wind + here.more * here.normal;
    }
    BoundaryMomentum momentum(const Flow& flow, std::size_t f) const override {
        return {std::max(-flow.state.flux[f], 0.0), atFace(flow, f)};
    }
    BoundaryFlux flux(const Flow& flow, std::size_t f) const override {
        const State here(*this, flow, f);
        const GasLaw& g = *flow.gas;
        const double A = flow.piece.area[f], through = here.wind.dot(flow.piece.S[f]) + here.more * A;
        const double density = std::pow(g.pressureOf(flow.state.p[cellAt(flow, f)]) / g.pressure(), 1.0 / g.gamma);
        return {density * through, density * here.slope * A};
    }
    double changedFlux(const Flow& flow, std::size_t f, double, const Vec3&) const override {
        return flux(flow, f).flux;
    }
    BoundaryForce force(const Flow& flow, std::size_t f) const override {
        return {-pressureOn(flow, f), carriedOut(flow, f)};
    }

  private:
    struct State {
        Vec3 wind, normal;
        double slope, more;  ///< speed out of the side over pressure, and that which the pressure makes
        State(const FarSide& side, const Flow& flow, std::size_t f) {
            const GasLaw& g = *flow.gas;
            wind = side.wind_->at(flow.piece.xf[f]);
            normal = flow.normal(f);
            const double V = side.wind_->speed(), M2 = V * V / (g.gamma * g.R * g.T),
                         head = std::min(0.0, normal.dot(side.wind_->velocity())) / V;
            slope = (side.wind_->steepness() * std::sqrt(std::max(0.0, 1.0 - head * head)) -
                     std::max(0.0, 1.0 - M2) * head) /
                    V;
            const double still = g.isentropicPressure(g.temperatureOf(wind, 0.0));
            more = slope * (flow.state.p[cellAt(flow, f)] - still);
        }
    };
};

class FastOutlet : public EitherWay {
  public:
    using EitherWay::EitherWay;
    BoundaryFlux flux(const Flow& flow, std::size_t f) const override { return leaving(flow, f); }
    double changedFlux(const Flow& flow, std::size_t f, double before, const Vec3& dU) const override {
        return before + dU.dot(flow.piece.S[f]);
    }
    BoundaryForce force(const Flow& flow, std::size_t f) const override {
        return {-pressureOn(flow, f), carriedOut(flow, f)};
    }
};

/// The flux is the wind's, and as much of a speed p / V as the pressure there makes. To a wave along the side, whose
/// pressure p and speed p / V through it belong together, the side is as good as not there. In compressible air they
/// belong together as p sqrt|1 - M^2| / V, by the rule of Prandtl and Glauert below Mach 1 and by that of J. Ackeret,
/// Z. Flugtechn. Motorluftsch. 16 (1925), above, where no wave comes back from the side.
class Open : public EitherWay {
  public:
    using EitherWay::EitherWay;
    BoundaryFlux flux(const Flow& flow, std::size_t f) const override {
        const double through = wind_->velocity().dot(flow.piece.S[f]),
                     slope = wind_->steepness() * flow.piece.area[f] / wind_->speed();
        const auto P = cellAt(flow, f);
        if (!flow.gas) return {through + slope * flow.state.p[P], slope};
        if (wind_->isFastThrough(-flow.normal(f))) return {through, 0.0};
        if (wind_->isFastThrough(flow.normal(f))) return leaving(flow, f);
        // What passes has the free stream's entropy, or leaves with its own.
        const double volume = through + slope * flow.state.p[P], density = flow.state.densityIn(P);
        return {density * volume, density * slope, std::max(volume, 0.0) / (flow.gas->R * flow.temperatureIn(P))};
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
    : velocity_(c.wind.velocity()), speed_(c.wind.speed), vortexAt_(c.vortexAt), given_(c.givenVelocity) {
    if (!c.compressible) return;
    constexpr double kLeastSteepness = 0.2;
    soundSpeed_ = c.wind.air.soundSpeed;
    const double mach = c.wind.mach();
    steepness_ = std::max(kLeastSteepness, std::sqrt(std::abs(1.0 - mach * mach)));
}

Vec3 FarWind::at(const Vec3& x) const {
    if (given_) return given_(x);
    if (!vortexAt_) return velocity_;
    // Clockwise in x, z, which lifts: speed circulation / (2 pi r), in compressible air stretched across the wind by
    // the rule of Prandtl and Glauert.
    const Vec3 d = x - *vortexAt_, w = velocity_ / speed_;
    const double b = speed_ < soundSpeed_ ? steepness_ : 1.0, across = d.dot(Vec3(-w.z(), 0.0, w.x()));
    const double r2 = d.x() * d.x() + d.z() * d.z() - (1.0 - b * b) * across * across;
    return velocity_ + circulation_ * b / (6.283185307179586 * r2) * Vec3(d.z(), 0.0, -d.x());
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
std::shared_ptr<const Boundary> farSideBoundary(std::shared_ptr<const FarWind> wind) {
    return std::make_shared<FarSide>(std::move(wind));
}
std::shared_ptr<const Boundary> fastOutletBoundary(std::shared_ptr<const FarWind> wind) {
    return std::make_shared<FastOutlet>(std::move(wind));
}
std::shared_ptr<const Boundary> openBoundary(std::shared_ptr<const FarWind> wind) {
    return std::make_shared<Open>(std::move(wind));
}

}  // namespace cvane::flow
