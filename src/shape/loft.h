#pragma once
#include <string>
#include <vector>

#include "shape/surface.h"

namespace cvane::shape {

/// Adds a skin through rings of equally many points (each ring closed by itself, no repeated point) as a new part.
/// `capFirst`, `capLast`: close the end by a fan about the ring's middle. Facets face away from the rings' middles when
/// the rings turn counter-clockwise seen against the direction in which they follow each other.
void addLoft(Surface& surface, const std::string& part, const std::vector<std::vector<Vec3>>& rings, bool capFirst,
             bool capLast);

/// Closed sphere of about 2 n^2 facets as a new part.
void addSphere(Surface& surface, const std::string& part, const Vec3& centre, double radius, int n);

}  // namespace cvane::shape
