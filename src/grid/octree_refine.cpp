#include <algorithm>
#include <cmath>

#include "grid/gaps.h"

namespace cvane::grid {
namespace {

// The normals in a cell spread wider than the angle about their mean. Both sides of a thin edge count as a wide spread.
bool turns(const shape::Surface& s, std::span<const std::int32_t> facets, double angle) {
    Vec3 mean = Vec3::Zero();
    double area = 0.0;
    for (const auto f : facets) {
        const Vec3 n = s.areaVector(static_cast<std::size_t>(f));
        mean += n;
        area += n.norm();
    }
    if (mean.norm() < 0.1 * area) return area > 0.0;
    mean.normalize();
    const double limit = std::cos(angle);
    for (const auto f : facets) {
        const Vec3 n = s.areaVector(static_cast<std::size_t>(f));
        const double l = n.norm();
        if (l > 1e-9 * area && n.dot(mean) < limit * l) return true;
    }
    return false;
}

// All positions within `reach` cells of the given ones, one axis after the other.
std::vector<std::uint64_t> dilated(std::vector<std::uint64_t> cells, const Octree& tree, int level, int reach) {
    for (std::size_t axis = 0; axis < 3; ++axis) {
        const auto end = tree.roots()[axis] << level;
        std::vector<std::uint64_t> grown;
        grown.reserve(cells.size() * 2);
        for (const auto k : cells) {
            Lattice a = unpack(k);
            const auto mid = a[axis];
            for (auto p = std::max(0, mid - reach); p <= std::min(end - 1, mid + reach); ++p) {
                a[axis] = p;
                grown.push_back(pack(a));
            }
        }
        std::sort(grown.begin(), grown.end());
        grown.erase(std::unique(grown.begin(), grown.end()), grown.end());
        cells = std::move(grown);
    }
    return cells;
}

bool tooMany(const Octree& tree, const Sizing& sizing) {
    return sizing.mostNodes > 0 && static_cast<std::size_t>(tree.nodes()) > sizing.mostNodes;
}

// Cells of one size about the surface's, and balance. @return false when it gave up
bool keepBuffers(Octree& tree, const Sizing& sizing) {
    for (int level = tree.deepest(); level > 0; --level) {
        std::vector<std::uint64_t> cut;
        for (std::int32_t i = 0; i < tree.nodes(); ++i)
            if (tree.node(i).cut && tree.node(i).level == level) cut.push_back(pack(tree.node(i).at));
        std::int32_t last = 0;
        for (const auto k : dilated(std::move(cut), tree, level, sizing.bufferCells))
            last = tree.ensure(last, level, unpack(k));
        if (tooMany(tree, sizing)) return false;
    }
    // A node with children has neighbours of its own size on all sides, corners included. Asked of its parent, for all
    // of its children at once: a neighbour of the parent that any of them touches must have children too.
    for (int level = tree.deepest() - 1; level > 0; --level) {
        const auto count = tree.nodes();
        for (std::int32_t i = 0; i < count; ++i) {
            const Octree::Node n = tree.node(i);
            if (n.level != level - 1 || n.child < 0) continue;
            unsigned split = 0;  // a bit for each child
            for (int c = 0; c < 8; ++c) split |= static_cast<unsigned>(tree.node(n.child + c).child >= 0) << c;
            if (split == 0) continue;
            constexpr unsigned kOnSide[3][3] = {{0x55, 0xff, 0xaa},
                                                {0x33, 0xff, 0xcc},
                                                {0x0f, 0xff, 0xf0}};  // children at the low side, all, at the high side
            for (int dz = -1; dz <= 1; ++dz)
                for (int dy = -1; dy <= 1; ++dy)
                    for (int dx = -1; dx <= 1; ++dx)
                        if (split & kOnSide[0][dx + 1] & kOnSide[1][dy + 1] & kOnSide[2][dz + 1])
                            tree.ensure(i, level, {2 * (n.at[0] + dx), 2 * (n.at[1] + dy), 2 * (n.at[2] + dz)});
        }
        if (tooMany(tree, sizing)) return false;
    }
    return true;
}

}  // namespace

bool refine(Octree& tree, const shape::Surface& surface, const Sizing& sizing) {
    const auto wantsFiner = [&](std::int32_t i) {
        const Octree::Node& n = tree.node(i);
        if (n.child >= 0) return false;
        int wanted = sizing.surfaceLevel;
        if (n.cut && !sizing.moreOnPart.empty())
            for (const auto f : tree.facetsIn(i))
                wanted = std::max(
                    wanted,
                    sizing.surfaceLevel +
                        sizing.moreOnPart[static_cast<std::size_t>(surface.partOf[static_cast<std::size_t>(f)])]);
        if (n.cut && (n.level < wanted || (n.level < sizing.surfaceLevel + sizing.extraLevels &&
                                           turns(surface, tree.facetsIn(i), sizing.turnAngle))))
            return true;
        if (n.cut && n.level < sizing.surfaceLevel + sizing.gapLevels &&
            narrowestGap(tree, i, sizing, Sizing::kGapCells).width < 1e299)
            return true;
        // Beyond that only what stays open: where walls close to nothing, as a wheel on the ground, cells would be
        // halved for ever.
        if (n.cut && n.level < sizing.surfaceLevel + sizing.openingLevels)
            if (const double width = narrowestGap(tree, i, sizing, Sizing::kOpenCells).width;
                width < 1e299 && width >= sizing.narrowestGap)
                return true;
        return std::any_of(sizing.regions.begin(), sizing.regions.end(),
                           [&](const auto& r) { return n.level < r.level && r.meets(tree.reachOf(n)); });
    };
    // Level by level: what a split makes is looked at in the next turn.
    for (std::int32_t first = 0, last = tree.nodes(); first < last; first = last, last = tree.nodes()) {
        std::vector<char> finer(static_cast<std::size_t>(last - first));
#pragma omp parallel for schedule(dynamic, 256)
        for (std::int32_t i = first; i < last; ++i) finer[static_cast<std::size_t>(i - first)] = wantsFiner(i);
        std::vector<std::int32_t> split;
        for (std::int32_t i = first; i < last; ++i)
            if (finer[static_cast<std::size_t>(i - first)]) split.push_back(i);
        if (sizing.mostNodes > 0 && static_cast<std::size_t>(last) + 8 * split.size() > sizing.mostNodes) return false;
        tree.splitAll(split);
    }
    return keepBuffers(tree, sizing);
}

bool refineAt(Octree& tree, const Sizing& sizing, std::span<const Vec3> places) {
    std::vector<std::int32_t> split;
    for (const Vec3& x : places) {
        const auto i = tree.leafAt(x);
        if (i < 0) continue;
        const Octree::Node& n = tree.node(i);
        const auto before = split.size();
        for (int dz = -1; dz <= 1; ++dz)
            for (int dy = -1; dy <= 1; ++dy)
                for (int dx = -1; dx <= 1; ++dx) {
                    const auto k = tree.findFrom(i, n.level, {n.at[0] + dx, n.at[1] + dy, n.at[2] + dz});
                    if (k >= 0 && tree.node(k).cut && tree.node(k).child < 0 && tree.node(k).level == n.level)
                        split.push_back(k);
                }
        if (split.size() == before) split.push_back(i);
    }
    std::sort(split.begin(), split.end());
    split.erase(std::unique(split.begin(), split.end()), split.end());
    tree.splitAll(split);
    return keepBuffers(tree, sizing);
}

}  // namespace cvane::grid
