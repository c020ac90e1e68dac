#pragma once
#include "shape/surface.h"

namespace cvane::shape {

/// The axle of a body of revolution such as a wheel.
struct Axle {
    Vec3 centre = Vec3::Zero();  ///< [m]
    Vec3 axis = Vec3::UnitY();   ///< unit vector with y >= 0
    double radius = 0.0;         ///< largest distance of the surface from the axis [m]
};

/// Axle of a part from its shape: of the three main directions of its surface the one across which the other two are
/// most alike; through the middle of what it spans. Throws InputError when the part has no facets.
Axle axleOf(const Surface& surface, std::size_t part);

}  // namespace cvane::shape
