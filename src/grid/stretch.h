#pragma once
#include "shape/surface.h"

namespace cvane::grid {

/// How many times longer than high cells may be along y and z where the surface turns that much less along them, as
/// along the span of a wing: a cell of the best shape is as long along an axis as the square root of the turn across
/// it over the turn along it. Along x the wind's own changes matter whatever the shape: 1.
/// @param surface  any; facets that hardly meet count as joined (kSeam)
/// @return factors from 1 to kMostStretch; the shorter of two axes always has 1
Vec3 stretchFor(const shape::Surface& surface);

/// The factors that are asked for, and those that suit the surface where 0 is.
Vec3 stretchFor(const shape::Surface& surface, const Vec3& asked);

}  // namespace cvane::grid
