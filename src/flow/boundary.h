#pragma once
#include <memory>
#include <vector>

#include "flow/case.h"
#include "flow/piece.h"

namespace cvane::flow {

struct Flow;

/// What a boundary face gives to the momentum of its cell: coefficient (value - U_P) + source. [m3/s], [m/s], [m4/s2]
struct BoundaryMomentum {
    double coefficient = 0.0;
    Vec3 value = Vec3::Zero(), source = Vec3::Zero();
};
/// What flows out through a boundary face, mass over the free stream's density, and how that changes with the
/// correction of its cell's pressure.
struct BoundaryFlux {
    double flux = 0.0;     ///< [m3/s]
    double slope = 0.0;    ///< by the speed through the face [m s]
    double carried = 0.0;  ///< by the density that leaves, in compressible air [m s]
};
/// What goes through a boundary face that is not the model's: its part of the force on the model [m4/s2].
struct BoundaryForce {
    Vec3 pressure = Vec3::Zero(), momentum = Vec3::Zero();
};

/// What one kind of boundary does to the flow, face by face. The equations ask it and know no kinds: another one is a
/// class here or in a file of its own, and a patch that rolesFor gives it to.
class Boundary {
  public:
    virtual ~Boundary() = default;
    /// Velocity at the face [m/s].
    virtual Vec3 velocity(const Flow& flow, std::size_t f) const = 0;
    virtual BoundaryMomentum momentum(const Flow& flow, std::size_t f) const = 0;
    /// Of the pressure correction.
    virtual BoundaryFlux flux(const Flow&, std::size_t) const { return {}; }
    /// Flux after the cells' velocities have been changed by dU, where it was `before`: of starts [m3/s].
    virtual double changedFlux(const Flow&, std::size_t, double /*before*/, const Vec3& /*dU*/) const { return 0.0; }
    /// What a variable that the free stream brings along gets: coefficient (free value - phi_P) [m3/s].
    /// @param diffusion  the variable's diffusivity times Piece::gap
    virtual double inflow(double /*flux*/, double /*diffusion*/) const { return 0.0; }
    virtual BoundaryForce force(const Flow& flow, std::size_t f) const = 0;

    /// The law of the wall holds there.
    virtual bool sticks() const { return false; }
    /// The wind comes in there.
    virtual bool isInlet() const { return false; }
    /// The free stream's static pressure is held there.
    virtual bool holdsPressure() const { return false; }
    /// Pressure at the face is tied to that of the free stream somehow, so that its level is not free.
    virtual bool tiesPressure() const { return false; }
    /// Gradients may take velocity() as known.
    virtual bool velocityIsKnown(bool /*onModel*/) const { return true; }
    /// Air slides along: nothing is known of the velocity but that none goes through.
    virtual bool slides() const { return false; }
};

/// The wind far away, which inlets bring.
class FarWind {
  public:
    explicit FarWind(const Case& c);
    Vec3 at(const Vec3& x) const;
    const Vec3& velocity() const { return velocity_; }  ///< of the undisturbed stream [m/s]
    double speed() const { return speed_; }
    /// Of compressible air: sqrt|1 - M^2|, not below what keeps a side open at Mach 1; 1 of incompressible.
    double steepness() const { return steepness_; }
    /// Compressible air that passes a face with this normal at Mach 1 or more.
    bool isFastThrough(const Vec3& normal) const { return soundSpeed_ > 0.0 && normal.dot(velocity_) > soundSpeed_; }
    /// Of the vortex at Case::vortexAt [m2/s], clockwise in x, z, which lifts.
    void setCirculation(double circulation) { circulation_ = circulation; }

  private:
    Vec3 velocity_;
    double speed_, circulation_ = 0.0;
    double steepness_ = 1.0, soundSpeed_ = 0.0;  ///< 0: incompressible
    std::optional<Vec3> vortexAt_;
    std::function<Vec3(const Vec3&)> given_;
};

std::shared_ptr<const Boundary> wallBoundary(const Vec3& velocity, const Vec3& spin, const Vec3& centre);
std::shared_ptr<const Boundary> slipBoundary();
std::shared_ptr<const Boundary> inletBoundary(std::shared_ptr<const FarWind> wind);
/// The same of free air, whose total pressure is held in place of its speed.
std::shared_ptr<const Boundary> freeInletBoundary(std::shared_ptr<const FarWind> wind);
std::shared_ptr<const Boundary> outletBoundary(std::shared_ptr<const FarWind> wind);
/// Of compressible plane flow with a vortex (Case::vortexAt): the wind with its vortex, at any angle to the side.
std::shared_ptr<const Boundary> farSideBoundary(std::shared_ptr<const FarWind> wind);
/// Air leaves faster than sound: nothing is known there but what comes from inside.
std::shared_ptr<const Boundary> fastOutletBoundary(std::shared_ptr<const FarWind> wind);
/// A side of free air along the wind: air passes either way, by the wind through the side and by the pressure there. A
/// slip wall would hold the flow together there and an outlet would let it go too freely; in between their errors
/// cancel for the most part, and nothing jumps as the wind turns through the side's plane.
std::shared_ptr<const Boundary> openBoundary(std::shared_ptr<const FarWind> wind);

}  // namespace cvane::flow
