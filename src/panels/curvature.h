#pragma once
#include <vector>

#include "shape/surface.h"

namespace cvane::panels {

/// How long edges of panels shall be at a place, direction by direction: an edge e has the length 1 where
/// e . M e = 1 (M in [1/m2]).
using Metric = Mat3;

/// One for each point, from how the surface bends there: lengths go with the root of the radius of curvature, so that
/// chords stand off it by the same everywhere, and from one direction to the other by no more than `stretch`. Bends of
/// more than 35 degrees at one edge are features and do not count; beside them lengths are half of what they were.
/// Lengths grow by at most 0.35 of the way from one point to the next. Source: D. Cohen-Steiner and J.-M. Morvan, SoCG
/// 2003 (curvature from edges).
/// @param count  of triangles that the whole surface shall have of it
std::vector<Metric> panelMetrics(const shape::Surface& surface, std::size_t count, double stretch);

}  // namespace cvane::panels
