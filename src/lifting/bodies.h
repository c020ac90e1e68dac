#pragma once
#include "air/free_stream.h"
#include "wing/aircraft.h"

namespace cvane::lifting {

/// What a body adds in its own: no wing beside it is felt, and none feels it.
struct BodyLoad {
    Vec3 force = Vec3::Zero(), moment = Vec3::Zero();  ///< [N], [N m] about the moment centre
    double friction = 0.0;                             ///< drag of its wetted area [N]
    double wetted = 0.0;                               ///< [m2]
};

/// Both images of a mirrored body. Across the wind by slender-body theory, force per length = 2 q times the angle times
/// the growth of the section's area; along it by a plate's turbulent friction with the form factor of a body of
/// revolution. Sources: M. M. Munk, NACA Report 184, 1924; S. F. Hoerner, Fluid-Dynamic Drag, 1965, ch. VI.
BodyLoad loadOf(const wing::Body& body, const air::FreeStream& wind, const Vec3& momentCentre);

}  // namespace cvane::lifting
