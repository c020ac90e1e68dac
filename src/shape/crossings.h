#pragma once
#include <array>
#include <vector>

#include "shape/surface.h"
#include "shape/triangle_tree.h"

namespace cvane::shape {

/// Place where an edge of one facet passes through another facet. The same edge and facet give the same bits, whichever
/// of the edge's facets asks.
struct Pierce {
    std::int32_t a = 0, b = 0;  ///< points of the edge, a < b
    std::int32_t facet = 0;     ///< passed through
    double along = 0.0;         ///< 0 at a, 1 at b
    Vec3 place = Vec3::Zero();
    bool samePlace(const Pierce& o) const { return a == o.a && b == o.b && facet == o.facet; }
};

/// Two facets that cross each other do so along a segment, whose ends are pierces.
struct Crossing {
    std::int32_t facets[2];
    std::array<Pierce, 2> ends;
};

/// All pairs of facets without a common corner that cross at an angle of at least `angle` [rad], in order of the
/// facets. Pairs that only touch, or lie in one plane, have no segment and are left out.
std::vector<Crossing> crossingsOf(const Surface& surface, const TriangleTree& tree, double angle);

}  // namespace cvane::shape
