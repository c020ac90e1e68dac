#pragma once
#include <array>

#include "base/vec3.h"

namespace cvane::panels {

/// A flat triangle, corners counter-clockwise seen from the air [m].
using Triangle = std::array<Vec3, 3>;

/// What a triangle of unit strength makes at a place: integrals of 1 / (4 pi r) and of its derivative along the
/// triangle's normal, which is that of the place seen from the triangle.
struct Potentials {
    double source = 0.0;   ///< [m]
    double doublet = 0.0;  ///< 1/2 just above the triangle, -1/2 just below
};
/// Exact. In the triangle's own plane the doublet's is 0. Source: A. van Oosterom and J. Strackee, IEEE Trans. Biomed.
/// Eng. 30(2), 1983 (solid angle); D. R. Wilton et al., IEEE Trans. Antennas Propag. 32(3), 1984 (1 / r).
Potentials potentialsAt(const Vec3& place, const Triangle& triangle);

/// The doublet's alone.
double doubletAt(const Vec3& place, const Triangle& triangle);

/// What doublets make whose strength grows from none at the triangle's middle by 1 [1/m] along each axis [m]: its plane
/// takes part alone. Exact: height times in-plane distance over r^3 is a gradient, whose integral is one along the
/// edges.
Vec3 growingDoubletAt(const Vec3& place, const Triangle& triangle);

/// Gradients of the two.
struct Velocities {
    Vec3 source = Vec3::Zero();   ///< [-]
    Vec3 doublet = Vec3::Zero();  ///< [1/m]
};
/// @param core  within which the ring's velocity falls to 0 at the triangle's edges [m]
Velocities velocitiesAt(const Vec3& place, const Triangle& triangle, double core);

}  // namespace cvane::panels
