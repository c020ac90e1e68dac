#pragma once
#include <string>
#include <vector>

#include "base/progress.h"
#include "shape/surface.h"

namespace cvane::shape {

/// One kind of fault of a surface: how many, and where the first of them are [m, model frame].
struct Fault {
    std::size_t count = 0;
    std::vector<Vec3> places;  ///< at most 1000
};

/// Faults that a surface may have. None forbids a grid: they say what to look at.
struct Health {
    Fault openEdges;         ///< used by one facet: a hole or a free rim
    Fault nonManifoldEdges;  ///< used by three facets or more
    Fault flippedFacets;     ///< neighbours that run along their common edge in the same direction
    Fault degenerateFacets;  ///< area below 1e-12 of the longest edge squared
    Fault doubledFacets;     ///< the same three corners again
    Fault overlaps;          ///< facets that another one, with no common corner, passes through
    bool closed() const { return openEdges.count == 0; }
    std::string sentence() const;  ///< "closed, 2 flipped facets, ..." or "clean and closed"
};

/// Whether facets bound nothing: most of their edges are open, and most of those have no edge of another facet
/// along them, which those of a careless export do.
bool isSoup(const Surface& surface);

Health checkHealth(const Surface& surface, const base::Progress& progress = {});

}  // namespace cvane::shape
