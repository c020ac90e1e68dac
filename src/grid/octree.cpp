#include "grid/octree.h"

#include <bit>

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
                const Box cell = boxOf(n);
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

void Octree::split(std::int32_t i) {
    const auto first = nodes();
    const Crossed in = crossed_[static_cast<std::size_t>(i)];
    crossed_[static_cast<std::size_t>(i)].count = 0;
    const Node parent = node(i);
    nodes_[static_cast<std::size_t>(i)].child = first;
    parents_.push_back(i);
    deepest_ = std::max(deepest_, parent.level + 1);
    for (int c = 0; c < 8; ++c) {
        Node n;
        n.level = static_cast<std::uint8_t>(parent.level + 1);
        n.at = {2 * parent.at[0] + (c & 1), 2 * parent.at[1] + ((c >> 1) & 1), 2 * parent.at[2] + ((c >> 2) & 1)};
        const auto own = facets_.size();
        if (in.count > 0) {
            const Box cell = boxOf(n);
            for (std::size_t k = in.first; k < in.first + in.count; ++k) {
                const auto f = facets_[k];
                const auto& t = surface_->corners(f);
                if (shape::overlaps(cell, t[0], t[1], t[2])) facets_.push_back(f);
            }
        }
        n.cut = facets_.size() > own;
        nodes_.push_back(n);
        crossed_.push_back({own, facets_.size() - own});
    }
}

bool Octree::inside(int level, const Lattice& at) const {
    for (std::size_t k = 0; k < 3; ++k)
        if (at[k] < 0 || (at[k] >> level) >= roots_[k]) return false;
    return true;
}

std::int32_t Octree::descend(std::int32_t i, int steps, const Lattice& at) const {
    for (int l = steps - 1; l >= 0; --l) {
        const auto child = nodes_[static_cast<std::size_t>(i)].child;
        if (child < 0) break;
        i = child + ((at[0] >> l) & 1) + 2 * ((at[1] >> l) & 1) + 4 * ((at[2] >> l) & 1);
    }
    return i;
}

std::int32_t Octree::find(int level, const Lattice& at) const { return inside(level, at) ? descend(rootAt(level, at), level, at) : -1; }

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
