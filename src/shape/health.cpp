#include "shape/health.h"

#include <fmt/format.h>

#include <algorithm>
#include <set>

#include "shape/edges.h"
#include "shape/triangle.h"
#include "shape/triangle_tree.h"

namespace cvane::shape {
namespace {
void note(Fault& fault, const Vec3& place) {
    ++fault.count;
    if (fault.places.size() < 1000) fault.places.push_back(place);
}
bool cross(const std::array<Vec3, 3>& s, const std::array<Vec3, 3>& t) {
    for (std::size_t k = 0; k < 3; ++k)
        if (pierces(s[k], s[(k + 1) % 3], t[0], t[1], t[2]) || pierces(t[k], t[(k + 1) % 3], s[0], s[1], s[2]))
            return true;
    return false;
}
}  // namespace

namespace {
double distanceToLine(const Vec3& p, const Vec3& a, const Vec3& b) {
    const double length2 = (b - a).squaredNorm();
    const double t = length2 > 0.0 ? std::clamp((p - a).dot(b - a) / length2, 0.0, 1.0) : 0.0;
    return (p - a - t * (b - a)).norm();
}

// Whether an edge of another facet runs along this one, as that of a neighbour does in any surface: near its middle
// alone one passes in any heap.
bool hasNeighbour(const TriangleTree& tree, std::int32_t facet, const Vec3& a, const Vec3& b) {
    constexpr double kNear = 0.05;  // of its length
    const Vec3 first = 0.75 * a + 0.25 * b, last = 0.25 * a + 0.75 * b;
    const double reach = kNear * (b - a).norm();
    Box near;
    near.add(first - Vec3::Constant(reach));
    near.add(first + Vec3::Constant(reach));
    bool found = false;
    tree.forEachNear(near, [&](std::int32_t g) {
        if (found || g == facet) return;
        const auto& t = tree.corners(g);
        for (std::size_t k = 0; k < 3; ++k)
            found = found || (distanceToLine(first, t[k], t[(k + 1) % 3]) <= reach &&
                              distanceToLine(last, t[k], t[(k + 1) % 3]) <= reach);
    });
    return found;
}
}  // namespace

bool isSoup(const Surface& s) {
    constexpr std::size_t kLeast = 50, kMostLookedAt = 2000;
    if (s.facets.size() < kLeast) return false;
    const auto edges = edgesOf(s);
    const auto isOpen = [](const Edge& e) { return e.uses.size() == 1; };
    const auto open = static_cast<std::size_t>(std::count_if(edges.begin(), edges.end(), isOpen));
    if (2 * open < edges.size()) return false;
    const TriangleTree tree(s);
    const std::size_t stride = std::max<std::size_t>(1, edges.size() / kMostLookedAt);
    std::size_t looked = 0, alone = 0;
    for (std::size_t i = 0; i < edges.size(); i += stride) {
        const Edge& e = edges[i];
        if (!isOpen(e)) continue;
        ++looked;
        alone += !hasNeighbour(tree, e.uses[0].facet, s.points[static_cast<std::size_t>(e.a)],
                               s.points[static_cast<std::size_t>(e.b)]);
    }
    return 2 * alone > looked;
}

Health checkHealth(const Surface& s, const base::Progress& progress) {
    Health h;
    base::report(progress, 0.0, "looking at edges");
    const auto middle = [&](std::size_t f) -> Vec3 { return (s.corner(f, 0) + s.corner(f, 1) + s.corner(f, 2)) / 3.0; };
    for (const Edge& e : edgesOf(s)) {
        const Vec3 place = 0.5 * (s.points[static_cast<std::size_t>(e.a)] + s.points[static_cast<std::size_t>(e.b)]);
        if (e.uses.size() == 1) note(h.openEdges, place);
        if (e.uses.size() > 2) note(h.nonManifoldEdges, place);
        if (e.uses.size() == 2 && e.uses[0].forward == e.uses[1].forward) note(h.flippedFacets, place);
    }
    std::set<Facet> seen;
    for (std::size_t f = 0; f < s.facets.size(); ++f) {
        const Vec3 a = s.corner(f, 0), b = s.corner(f, 1), c = s.corner(f, 2);
        const double longest = std::max({(b - a).squaredNorm(), (c - b).squaredNorm(), (a - c).squaredNorm()});
        if (s.areaVector(f).norm() <= 1e-12 * longest) note(h.degenerateFacets, middle(f));
        Facet key = s.facets[f];
        std::sort(key.begin(), key.end());
        if (!seen.insert(key).second) note(h.doubledFacets, middle(f));
    }
    const TriangleTree tree(s);
    for (std::size_t f = 0; f < s.facets.size(); ++f) {
        if (f % 4096 == 0)
            base::report(progress, 0.2 + 0.8 * static_cast<double>(f) / static_cast<double>(s.facets.size()),
                         "looking for overlaps");
        const auto& t = tree.corners(static_cast<std::int32_t>(f));
        bool found = false;
        tree.forEachNear(tree.boxOf(static_cast<std::int32_t>(f)), [&](std::int32_t g) {
            if (found || g <= static_cast<std::int32_t>(f)) return;
            if (!shareCorner(s.facets[f], s.facets[static_cast<std::size_t>(g)]) && cross(t, tree.corners(g)))
                found = true;
        });
        if (found) note(h.overlaps, middle(f));
    }
    return h;
}

std::string Health::sentence() const {
    std::string text;
    const auto add = [&](const Fault& f, const char* one, const char* many) {
        if (f.count > 0) text += fmt::format("{}{} {}", text.empty() ? "" : ", ", f.count, f.count == 1 ? one : many);
    };
    add(openEdges, "open edge", "open edges");
    add(nonManifoldEdges, "non-manifold edge", "non-manifold edges");
    add(flippedFacets, "edge with a flipped facet", "edges with a flipped facet");
    add(degenerateFacets, "facet without area", "facets without area");
    add(doubledFacets, "doubled facet", "doubled facets");
    add(overlaps, "facet that overlaps another", "facets that overlap others");
    return text.empty() ? "clean and closed" : (closed() ? "closed, " : "") + text;
}

}  // namespace cvane::shape
