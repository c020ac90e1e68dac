#include "grid/sealed_model.h"

#include <algorithm>
#include <cmath>

namespace cvane::grid {
namespace {

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

SealedModel::SealedModel(shape::Surface model, bool halfModel, double seam, double sealWidth)
    : surface_(std::move(model)),
      halfModel_(halfModel),
      sealWidth_(sealWidth),
      holes_(shape::closeHoles(surface_, seam, sealWidth, halfModel)),
      watertight_(!shape::canHoldAir(surface_, seam, halfModel)) {
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
    if (octree.roots() != lastRoots_ || octree.cellSize(0) != lastSize_) inside_.clear();
    Openings found = findOpenings(octree, tree_, mirrored_ ? *mirrored_ : tree_, inside_);
    inside_ = std::move(found.inside);
    lastRoots_ = octree.roots();
    lastSize_ = octree.cellSize(0);
    for (Opening& o : found.list) {
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
