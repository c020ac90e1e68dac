#include "grid/sealed_model.h"

#include <algorithm>
#include <cmath>

#include "shape/edges.h"

namespace cvane::grid {
namespace {

// Every edge has two facets, but for those in the mirror plane. Air cannot get into such a surface.
bool isWatertight(const shape::Surface& s, bool halfModel) {
    const double tiny = 1e-6 * s.bounds().size().maxCoeff();
    const auto inPlane = [&](std::int32_t p) { return halfModel && std::abs(s.points[static_cast<std::size_t>(p)].y()) < tiny; };
    const auto edges = shape::edgesOf(s);
    return std::all_of(edges.begin(), edges.end(), [&](const shape::Edge& e) { return e.uses.size() > 1 || (inPlane(e.a) && inPlane(e.b)); });
}

// With the mirror image of what reaches to starboard of y = 0, so that a half model open at the plane is closed.
shape::TriangleTree withMirrorImage(const shape::Surface& s) {
    std::vector<std::array<Vec3, 3>> facets;
    const auto mirror = [](const Vec3& p) { return Vec3(p.x(), -p.y(), p.z()); };
    for (std::size_t f = 0; f < s.facets.size(); ++f) {
        const Vec3 a = s.corner(f, 0), b = s.corner(f, 1), c = s.corner(f, 2);
        if (std::max({a.y(), b.y(), c.y()}) <= 0.0) continue;
        facets.push_back({a, b, c});
        facets.push_back({mirror(a), mirror(c), mirror(b)});
    }
    return shape::TriangleTree(std::move(facets));
}

}  // namespace

SealedModel::SealedModel(shape::Surface model, bool halfModel, double sealWidth)
    : surface_(std::move(model)), halfModel_(halfModel), sealWidth_(sealWidth), watertight_(isWatertight(surface_, halfModel)) {
    remake();
}

void SealedModel::remake() {
    tree_ = shape::TriangleTree(surface_);
    if (halfModel_ && !watertight_) mirrored_ = withMirrorImage(surface_);
}

bool SealedModel::closeLeaks(const Octree& octree) {
    open_.clear();
    if (watertight_) return false;
    bool added = false;
    for (Opening& o : findOpenings(octree, tree_, mirrored_ ? *mirrored_ : tree_)) {
        o.leak.sealed = o.leak.width <= sealWidth_;
        if (!o.leak.sealed) {
            open_.push_back(std::move(o.leak));
            continue;
        }
        const auto part = surface_.partOf[static_cast<std::size_t>(tree_.nearest(o.leak.place).facet)];
        for (const auto& t : o.seal) {
            const auto first = static_cast<std::int32_t>(surface_.points.size());
            surface_.points.insert(surface_.points.end(), t.begin(), t.end());
            surface_.facets.push_back({first, first + 1, first + 2});
            surface_.partOf.push_back(part);
        }
        closed_.push_back(std::move(o.leak));
        added = true;
    }
    if (added) remake();
    return added;
}

}  // namespace cvane::grid
