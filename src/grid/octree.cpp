#include "grid/octree.h"

#include <algorithm>
#include <bit>
#include <cmath>

#include "base/errors.h"
#include "shape/triangle.h"

namespace cvane::grid {

Octree::Octree(const Box& box, const Lattice& roots, const shape::TriangleTree& surface)
    : origin_(box.low), roots_(roots), surface_(&surface) {
    rootSize_ = box.size().cwiseQuotient(Vec3(roots[0], roots[1], roots[2]));
    for (std::int32_t k = 0; k < roots[2]; ++k)
        for (std::int32_t j = 0; j < roots[1]; ++j)
            for (std::int32_t i = 0; i < roots[0]; ++i) {
                Node n;
                n.at = {i, j, k};
                const auto first = facets_.size();
                const Box cell = reachOf(n);
                surface.forEachNear(cell, [&](std::int32_t f) {
                    const auto& c = surface.corners(f);
                    if (shape::overlaps(cell, c[0], c[1], c[2])) facets_.push_back(f);
                });
                n.cut = facets_.size() > first;
                nodes_.push_back(n);
                crossed_.push_back({first, facets_.size() - first});
            }
}

Box Octree::boxOf(const Node& n) const {
    const Vec3 h = cellSize(n.level);
    Box b;
    b.low = origin_ + h.cwiseProduct(Vec3(n.at[0], n.at[1], n.at[2]));
    b.high = origin_ + h.cwiseProduct(Vec3(n.at[0] + 1, n.at[1] + 1, n.at[2] + 1));
    return b;
}

Box Octree::reachOf(const Node& n) const {
    constexpr double kTouch = 1e-7;  // of a cell
    Box b = boxOf(n);
    const Vec3 more = kTouch * b.size();
    b.low -= more;
    b.high += more;
    return b;
}

void Octree::split(std::int32_t i) {
    splitAll({&i, 1});
}

void Octree::splitAll(std::span<const std::int32_t> leaves) {
    int deepest = 0;
    for (const auto i : leaves) deepest = std::max(deepest, node(i).level + 1);
    if (deepest > 30 || (std::int64_t{*std::max_element(roots_.begin(), roots_.end())} << deepest) > kMostAlong)
        throw base::InputError("cells would be smaller than two millionths of the tunnel's length.", "grid",
                               "Ask for larger cells, fewer levels, or a smaller tunnel.");
    // What each part of the leaves hands on: how many facets to each child, and which.
    struct Part {
        std::vector<std::int32_t> counts, facets;
    };
    constexpr std::size_t kPart = 256;
    std::vector<Part> parts((leaves.size() + kPart - 1) / kPart);
    const auto handOn = [&](std::size_t k) {
        Part& part = parts[k];
        for (std::size_t j = k * kPart; j < std::min(leaves.size(), (k + 1) * kPart); ++j) {
            const auto in = facetsIn(leaves[j]);
            for (int c = 0; c < 8 && !in.empty(); ++c) {
                const Box cell = reachOf(childOf(node(leaves[j]), c));
                const auto before = part.facets.size();
                for (const auto f : in) {
                    const auto& t = surface_->corners(f);
                    if (shape::overlaps(cell, t[0], t[1], t[2])) part.facets.push_back(f);
                }
                part.counts.push_back(static_cast<std::int32_t>(part.facets.size() - before));
            }
        }
    };
    const auto n = static_cast<std::ptrdiff_t>(parts.size());
#pragma omp parallel for schedule(dynamic, 1) if (n > 1)
    for (std::ptrdiff_t k = 0; k < n; ++k) handOn(static_cast<std::size_t>(k));
    for (std::size_t k = 0; k < parts.size(); ++k) {
        auto count = parts[k].counts.begin();
        auto own = facets_.size();
        facets_.insert(facets_.end(), parts[k].facets.begin(), parts[k].facets.end());
        for (std::size_t j = k * kPart; j < std::min(leaves.size(), (k + 1) * kPart); ++j) {
            const auto i = static_cast<std::size_t>(leaves[j]);
            const Node parent = nodes_[i];
            const bool crossed = crossed_[i].count > 0;
            crossed_[i].count = 0;
            nodes_[i].child = nodes();
            parents_.push_back(leaves[j]);
            deepest_ = std::max(deepest_, parent.level + 1);
            for (int c = 0; c < 8; ++c) {
                Node child = childOf(parent, c);
                const auto in = crossed ? static_cast<std::size_t>(*count++) : 0;
                child.cut = in > 0;
                nodes_.push_back(child);
                crossed_.push_back({own, in});
                own += in;
            }
        }
    }
}

Octree::Node Octree::childOf(const Node& parent, int c) {
    Node n;
    n.level = static_cast<std::uint8_t>(parent.level + 1);
    n.at = {2 * parent.at[0] + (c & 1), 2 * parent.at[1] + ((c >> 1) & 1), 2 * parent.at[2] + ((c >> 2) & 1)};
    return n;
}

bool Octree::inside(int level, const Lattice& at) const {
    for (std::size_t k = 0; k < 3; ++k)
        if (at[k] < 0 || (at[k] >> level) >= roots_[k]) return false;
    return true;
}

std::int32_t Octree::leafAt(const Vec3& place) const {
    const Vec3 h = cellSize(deepest_);
    Lattice at{};
    for (std::size_t k = 0; k < 3; ++k)
        at[k] = static_cast<std::int32_t>(
            std::floor((place[static_cast<Eigen::Index>(k)] - origin_[static_cast<Eigen::Index>(k)]) /
                       h[static_cast<Eigen::Index>(k)]));
    return find(deepest_, at);
}

std::int32_t Octree::descend(std::int32_t i, int steps, const Lattice& at) const {
    for (int l = steps - 1; l >= 0; --l) {
        const auto child = nodes_[static_cast<std::size_t>(i)].child;
        if (child < 0) break;
        i = child + ((at[0] >> l) & 1) + 2 * ((at[1] >> l) & 1) + 4 * ((at[2] >> l) & 1);
    }
    return i;
}

std::int32_t Octree::find(int level, const Lattice& at) const {
    return inside(level, at) ? descend(rootAt(level, at), level, at) : -1;
}

std::int32_t Octree::findFrom(std::int32_t i, int level, const Lattice& at) const {
    if (!inside(level, at)) return -1;
    const Node& n = node(i);
    const int below = level - n.level;
    std::uint32_t apart = 0;
    for (std::size_t k = 0; k < 3; ++k) apart |= static_cast<std::uint32_t>(n.at[k] ^ (at[k] >> below));
    const int up = std::bit_width(apart);
    if (up > n.level) return descend(rootAt(level, at), level, at);
    for (int l = 0; l < up; ++l) i = parent(i);
    return descend(i, below + up, at);
}

std::int32_t Octree::ensure(std::int32_t from, int level, const Lattice& at) {
    for (;;) {
        const auto i = findFrom(from, level, at);
        if (i < 0 || node(i).level >= level) return i;
        split(i);
        from = i;
    }
}

std::vector<std::int32_t> Octree::leavesInOrder() const {
    std::vector<std::int32_t> out, stack;
    for (std::int32_t r = 0; r < rootNodes(); ++r) {
        stack.assign(1, r);
        while (!stack.empty()) {
            const auto i = stack.back();
            stack.pop_back();
            if (node(i).child < 0) {
                out.push_back(i);
                continue;
            }
            for (int c = 7; c >= 0; --c) stack.push_back(node(i).child + c);
        }
    }
    return out;
}

}  // namespace cvane::grid
