#pragma once
#include <vector>

#include "section/outline/spline.h"

namespace cvane::section {

/// Upper half of a symmetric section, from the nose (0, 0) to the tail (1, 0), whose speed at zero lift rises gently
/// and steadily along a roof to `lowestPressureAt` [chords] and falls from there to the tail: the pressure falls as
/// far, which holds a boundary layer laminar.
///
/// The section is the image of the unit circle, dz/dzeta = (1 - 1/zeta)^(1-e) exp(sum a_n zeta^-n), with a trailing
/// edge of angle e pi; on the circle the speed is q = V exp(a_0) 2 sin(phi) / |dz/dzeta|, so that the even function
/// G(phi) = sum a_n cos(n phi) is ln of what the wanted speed lacks. It closes where a_1 = 1 - e, which sets how far
/// the speed falls; the radius of the nose sets the thickness. The place x of each phi is found with the map by turns.
/// Source of the method: M. J. Lighthill, ARC R&M 2112, 1945.
///
/// @param thickness 0.04 .. 0.24, @param lowestPressureAt 0.2 .. 0.7. Throws InputError outside, and where no section
/// has both.
std::vector<Vec2> laminarForm(double thickness, double lowestPressureAt);

}  // namespace cvane::section
