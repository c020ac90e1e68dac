#pragma once
#include <array>
#include <cstdint>
#include <string>
#include <vector>

#include "base/vec3.h"

namespace cvane::shape {

using Facet = std::array<std::int32_t, 3>;  ///< corners, counter-clockwise seen from the air

/// A named piece of the model on which the force is wanted separately.
struct Part {
    std::string name;
    bool inTheAir = true;     ///< false: hidden by the user, takes no part in grid, areas and forces
    std::string source = {};  ///< name that it came with, when it was given another; grids and runs know it by that
    const std::string& id() const { return source.empty() ? name : source; }
    bool operator==(const Part&) const = default;
};

/// A triangulated surface in the model frame [m], as it came: it may have holes, overlaps or flipped facets.
struct Surface {
    std::vector<Vec3> points;
    std::vector<Facet> facets;
    std::vector<std::int32_t> partOf;  ///< one per facet, index into parts
    std::vector<Part> parts;

    Box bounds() const;  ///< of the facets, not of unused points
    Vec3 corner(std::size_t facet, int k) const {
        return points[static_cast<std::size_t>(facets[facet][static_cast<std::size_t>(k)])];
    }
    /// Half the cross product of two edges: area [m2] times unit normal.
    Vec3 areaVector(std::size_t facet) const;
    double area() const;
    /// Enclosed volume [m3] by the divergence theorem; meaningful for closed surfaces.
    double volume() const;
};

bool shareCorner(const Facet& a, const Facet& b);

/// Only the parts that are in the air; part numbers are kept.
Surface withoutHiddenParts(const Surface& surface);

/// Joins points that agree to the last bit, as surface files repeat them for every facet.
void weld(Surface& surface);

/// Gives every connected piece (over shared points) a part of its own: "piece 1" is the largest. Where there are many,
/// those of a few facets only go into one part, "small pieces".
void splitByConnection(Surface& surface);

/// Turns facets round so that neighbours agree, and each closed piece faces the air. @return facets turned.
std::size_t orientFacets(Surface& surface);

}  // namespace cvane::shape
