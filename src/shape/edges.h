#pragma once
#include <algorithm>
#include <vector>

#include "shape/surface.h"

namespace cvane::shape {

/// One edge of the surface with every facet that uses it.
struct Edge {
    struct Use {
        std::int32_t facet;
        bool forward;  ///< the facet runs from a to b
    };
    std::int32_t a, b;  ///< point numbers, a < b
    std::vector<Use> uses;
};

/// All edges, sorted by (a, b); facets with a repeated corner contribute nothing.
inline std::vector<Edge> edgesOf(const Surface& s) {
    struct Half {
        std::int32_t a, b, facet;
        bool forward;
    };
    std::vector<Half> halves;
    halves.reserve(3 * s.facets.size());
    for (std::size_t f = 0; f < s.facets.size(); ++f) {
        const Facet& t = s.facets[f];
        if (t[0] == t[1] || t[1] == t[2] || t[2] == t[0]) continue;
        for (std::size_t k = 0; k < 3; ++k) {
            const auto p = t[k], q = t[(k + 1) % 3];
            halves.push_back({std::min(p, q), std::max(p, q), static_cast<std::int32_t>(f), p < q});
        }
    }
    std::sort(halves.begin(), halves.end(), [](const Half& x, const Half& y) {
        return x.a != y.a ? x.a < y.a : x.b != y.b ? x.b < y.b : x.facet < y.facet;
    });
    std::vector<Edge> edges;
    edges.reserve(halves.size() / 2);
    for (const Half& h : halves) {
        if (edges.empty() || edges.back().a != h.a || edges.back().b != h.b) edges.push_back({h.a, h.b, {}});
        edges.back().uses.push_back({h.facet, h.forward});
    }
    return edges;
}

}  // namespace cvane::shape
