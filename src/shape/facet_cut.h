#pragma once
#include <array>
#include <cstdint>
#include <optional>
#include <span>
#include <vector>

namespace cvane::shape {

/// A place in a facet by its share of the way from corner 0 to corner 1 and to corner 2, in whole steps of the side:
/// what lies on an edge does so exactly, and on which side of a line a place is has no rounding.
struct FacetPlace {
    static constexpr std::int64_t kSide = std::int64_t{1} << 40;
    std::int64_t u = 0, v = 0;
    bool operator==(const FacetPlace&) const = default;
    /// On edge k, from corner k to corner k + 1.  @param along  0 .. kSide
    static FacetPlace onEdge(int k, std::int64_t along);
};

/// Cuts a facet so that given lines in it are edges.
/// @param places  0, 1, 2 are the facet's corners, then what lies on its edges and within
/// @param lines   pairs of places; they may meet at places only
/// @return triangles by numbers of places, turned as the facet is. Nothing where two places fall together or two lines
/// cross.
/// Source of the turning of edges until a line is one: S. W. Sloan, Comput. Struct. 47(3), 1993.
std::optional<std::vector<std::array<int, 3>>> cutFacet(std::span<const FacetPlace> places,
                                                        std::span<const std::array<int, 2>> lines);

}  // namespace cvane::shape
