#pragma once
#include <array>
#include <span>
#include <vector>

#include "base/vec3.h"

namespace cvane::shape {

/// Cuts a polygon into triangles of its corners, turned the way it is, ear after ear in the plane that fits it best;
/// what has no ear any more (it crosses itself) is fanned out. Corners may repeat; fewer than three make nothing.
/// @return for each triangle three numbers of corners
/// Source: G. H. Meisters, Polygons have ears, Am. Math. Mon. 82, 1975.
std::vector<std::array<std::size_t, 3>> trianglesOf(std::span<const Vec3> corners);

}  // namespace cvane::shape
