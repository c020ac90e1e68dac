#pragma once
#include "shape/surface.h"
#include "vehicle/outline.h"

namespace cvane::vehicle {

/// The closed surface of an outline, facets facing the air: a part for the body, each wheel and each plate. The body is
/// its side profile drawn out across to the half widths of its plan, with its edges rounded. Throws InputError as
/// check.
shape::Surface skinOf(const Outline& outline);

/// A profile drawn out across from y = -w to w, its edges rounded by arcs, as a new part.
/// @param profile     closed, turning to the left in (x, z)
/// @param halfWidth   of its plan, corners from small to large x; a single one: everywhere
/// @param edge        radius of its edges [m]
/// @param place       of x = z = 0, and y of its middle [m];  @param turn  about y, nose up [rad]
/// Throws InputError: the edge has no room.
void addDrawnOut(shape::Surface& surface, const std::string& part, const std::vector<Corner>& profile,
                 const std::vector<Corner>& halfWidth, double edge, const Vec3& place, double turn);

/// Around the body's corners and half widths, z from the ground [m].
Box bodyBox(const Outline& outline);

/// Profile as it is drawn: turned to the left, with the diffuser, z from the ground [m].
std::vector<Corner> profileOf(const Outline& outline);

}  // namespace cvane::vehicle
