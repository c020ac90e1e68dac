#pragma once
#include <vector>

#include "shape/surface.h"

namespace cvane::shape {

/// A surface whose open edges have been joined, and what has become of each facet that it was made from.
struct Joined {
    Surface surface;
    std::vector<Facet> cornersOf;  ///< per old facet, in points of the new surface
    std::vector<std::int32_t>
        facetOf;  ///< per old facet: the new one; doubled ones share it, -1 for one that became a line
};

/// Joins points of open edges that are closer than `tolerance` [m], and leaves out facets that this makes degenerate or
/// double: a sound copy of a careless export. Closed parts stay as they are.
Joined joinedWithin(const Surface& surface, double tolerance);

/// Turns facets round as orientFacets(Surface&) does, with points of open edges taken for one that are closer than
/// `tolerance` [m]: a careless export, whose facets do not quite meet, has neighbours too. Points stay; facets that lie
/// on another one run as that one does. @return facets turned
std::size_t orientFacets(Surface& surface, double tolerance);

/// A hole that has been closed.
struct ClosedHole {
    Vec3 place = Vec3::Zero();  ///< middle of its rim [m]
    double width = 0.0;         ///< root of the area that closes it [m]
};

/// Adds facets over the holes of a surface whose facets agree in their orientation: over each ring of open edges,
/// points closer than `tolerance` [m] taken for one, that spans no more than `widest` [m]. Wider ones are taken for
/// meant. Rims in the mirror plane of a half model stay open. @return the holes, widest first
std::vector<ClosedHole> closeHoles(Surface& surface, double tolerance, double widest, bool halfModel);

/// Whether some piece of the surface, points of open edges closer than `tolerance` [m] taken for one, has an opening
/// (outside the mirror plane of a half model) and facets enough to hold air: a loose sheet of a few facets holds none.
bool canHoldAir(const Surface& surface, double tolerance, bool halfModel);

}  // namespace cvane::shape
