#include "shape/triangle_tree.h"

#include <algorithm>
#include <cmath>
#include <numeric>

#include "shape/triangle.h"

namespace cvane::shape {

TriangleTree::TriangleTree(const Surface& s) {
    corners_.reserve(s.facets.size());
    for (std::size_t f = 0; f < s.facets.size(); ++f) corners_.push_back({s.corner(f, 0), s.corner(f, 1), s.corner(f, 2)});
    build();
}

TriangleTree::TriangleTree(std::vector<std::array<Vec3, 3>> triangles) : corners_(std::move(triangles)) { build(); }

void TriangleTree::build() {
    const std::size_t n = corners_.size();
    order_.resize(n);
    std::iota(order_.begin(), order_.end(), 0);
    if (n == 0) return;
    std::vector<Vec3> centre(n);
    for (std::size_t i = 0; i < n; ++i) centre[i] = (corners_[i][0] + corners_[i][1] + corners_[i][2]) / 3.0;
    nodes_.reserve(n);
    nodes_.push_back({});
    struct Work {
        std::int32_t node, first, last;
    };
    std::vector<Work> stack{{0, 0, static_cast<std::int32_t>(n)}};
    while (!stack.empty()) {
        const Work w = stack.back();
        stack.pop_back();
        Box box, centres;
        for (auto i = w.first; i < w.last; ++i) {
            const auto t = static_cast<std::size_t>(order_[static_cast<std::size_t>(i)]);
            for (const Vec3& p : corners_[t]) box.add(p);
            centres.add(centre[t]);
        }
        Node& node = nodes_[static_cast<std::size_t>(w.node)];
        node.box = box;
        if (w.last - w.first <= 4) {
            node.first = w.first;
            node.count = w.last - w.first;
            continue;
        }
        int axis = 0;
        centres.size().maxCoeff(&axis);
        const auto mid = (w.first + w.last) / 2;
        std::nth_element(order_.begin() + w.first, order_.begin() + mid, order_.begin() + w.last,
                         [&](auto a, auto b) { return centre[static_cast<std::size_t>(a)][axis] < centre[static_cast<std::size_t>(b)][axis]; });
        const auto child = static_cast<std::int32_t>(nodes_.size());
        node.first = child;
        node.count = 0;
        nodes_.push_back({});
        nodes_.push_back({});
        stack.push_back({child, w.first, mid});
        stack.push_back({child + 1, mid, w.last});
    }
}

TriangleTree::Nearest TriangleTree::nearest(const Vec3& p, double within) const {
    Nearest best;
    if (nodes_.empty()) return best;
    double d2 = within < 1e150 ? within * within : 1e300;
    struct Entry {
        std::int32_t node;
        double d2;
    };
    Entry stack[128];
    int top = 0;
    stack[top++] = {0, nodes_[0].box.distanceSquared(p)};
    while (top > 0) {
        const Entry e = stack[--top];
        if (e.d2 >= d2) continue;
        const Node& node = nodes_[static_cast<std::size_t>(e.node)];
        if (node.count > 0) {
            for (auto i = node.first; i < node.first + node.count; ++i) {
                const auto t = order_[static_cast<std::size_t>(i)];
                const auto& c = corners_[static_cast<std::size_t>(t)];
                const Vec3 q = closestPointOnTriangle(p, c[0], c[1], c[2]);
                const double dq = (q - p).squaredNorm();
                if (dq < d2) {
                    d2 = dq;
                    best = {q, 0.0, t};
                }
            }
            continue;
        }
        const double a = nodes_[static_cast<std::size_t>(node.first)].box.distanceSquared(p);
        const double b = nodes_[static_cast<std::size_t>(node.first + 1)].box.distanceSquared(p);
        // The nearer child goes on top, so that it shrinks the radius for the other.
        if (a < b) {
            if (b < d2) stack[top++] = {node.first + 1, b};
            if (a < d2) stack[top++] = {node.first, a};
        } else {
            if (a < d2) stack[top++] = {node.first, a};
            if (b < d2) stack[top++] = {node.first + 1, b};
        }
    }
    if (best.facet >= 0) best.distance = std::sqrt(d2);
    return best;
}

Box TriangleTree::boxOf(std::int32_t facet) const {
    Box box;
    for (const Vec3& c : corners(facet)) box.add(c);
    return box;
}

void TriangleTree::forEachNear(const Box& box, const std::function<void(std::int32_t)>& visit) const {
    if (nodes_.empty()) return;
    std::vector<std::int32_t> stack{0};
    while (!stack.empty()) {
        const Node& node = nodes_[static_cast<std::size_t>(stack.back())];
        stack.pop_back();
        if (!node.box.overlaps(box)) continue;
        if (node.count == 0) {
            stack.push_back(node.first);
            stack.push_back(node.first + 1);
            continue;
        }
        for (auto i = node.first; i < node.first + node.count; ++i) {
            const auto t = order_[static_cast<std::size_t>(i)];
            if (boxOf(t).overlaps(box)) visit(t);
        }
    }
}

}  // namespace cvane::shape
