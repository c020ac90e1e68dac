#pragma once
#include "base/vec3.h"

namespace cvane::shape {

/// Closest point of triangle abc to p; correct for triangles shrunk to a segment or a point.
/// Source: C. Ericson, Real-Time Collision Detection, 2005, section 5.1.5 (Voronoi regions).
Vec3 closestPointOnTriangle(const Vec3& p, const Vec3& a, const Vec3& b, const Vec3& c);

/// True when the triangle and the closed box meet. Source: T. Akenine-Moller, Fast 3D Triangle-Box Overlap Testing,
/// 2001.
bool overlaps(const Box& box, const Vec3& a, const Vec3& b, const Vec3& c);

/// True when the open segment pq passes through the inside of triangle abc (touching an edge does not count).
bool pierces(const Vec3& p, const Vec3& q, const Vec3& a, const Vec3& b, const Vec3& c);

}  // namespace cvane::shape
