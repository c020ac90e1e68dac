#pragma once
#include <vector>

#include "air/free_stream.h"
#include "wing/aircraft.h"

namespace cvane::lifting {

/// What propellers add to the air about them, each by itself: the even disc of momentum theory, whose tube of faster
/// air narrows as it is sped up, and turns behind the disc with the torque of an ideal one. Source: H. Glauert, in W.
/// F. Durand (ed.), Aerodynamic Theory IV, 1935, div. L; the speed along the tube is that on the axis of an even
/// cylinder of vortices (B. W. McCormick, Aerodynamics of V/STOL Flight, 1967, ch. 4). The tube is straight, along the
/// mean of the wind and of the air in the disc.
class Slipstream {
  public:
    Slipstream() = default;
    /// @param propellers  with the images of mirrored ones (wing::propellersOf)
    Slipstream(const std::vector<wing::Propeller>& propellers, const air::FreeStream& wind);
    bool empty() const { return tubes_.empty(); }
    Vec3 at(const Vec3& place) const;  ///< beside the wind [m/s]

  private:
    struct Tube {
        Vec3 centre, axis;  ///< of the disc; unit, the way in which it pushes
        Vec3 along;         ///< unit, in which the tube lies
        double radius, hub;
        double far;     ///< speed of the wind along the axis [m/s]
        double added;   ///< in the disc [m/s]; half of what it is far behind
        double turned;  ///< about the axis behind the disc [m/s]
    };
    std::vector<Tube> tubes_;
};

/// Speed that an even disc adds to the air in itself [m/s]: T = 2 rho A (V + v) v. @param V  axial speed far ahead
/// [m/s], not below 0; T [N], A [m2], rho [kg/m3]. A disc that brakes takes no more than half of the speed.
double addedSpeed(double T, double V, double A, double rho);

}  // namespace cvane::lifting
