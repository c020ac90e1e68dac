#include "shape/triangle_tree.h"

#include <algorithm>
#include <cmath>
#include <numeric>

#include "shape/triangle.h"

namespace cvane::shape {

namespace {
// A node counts as one facet from this many times its reach on: to about 0.03 of a turn.
constexpr double kFar = 2.0;
}  // namespace

TriangleTree::TriangleTree(const Surface& s) {
    corners_.reserve(s.facets.size());
    for (std::size_t f = 0; f < s.facets.size(); ++f)
        corners_.push_back({s.corner(f, 0), s.corner(f, 1), s.corner(f, 2)});
    build();
}

TriangleTree::TriangleTree(std::vector<std::array<Vec3, 3>> triangles) : corners_(std::move(triangles)) {
    build();
}

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
        std::nth_element(order_.begin() + w.first, order_.begin() + mid, order_.begin() + w.last, [&](auto a, auto b) {
            return centre[static_cast<std::size_t>(a)][axis] < centre[static_cast<std::size_t>(b)][axis];
        });
        const auto child = static_cast<std::int32_t>(nodes_.size());
        node.first = child;
        node.count = 0;
        nodes_.push_back({});
        nodes_.push_back({});
        stack.push_back({child, w.first, mid});
        stack.push_back({child + 1, mid, w.last});
    }
    place_.resize(n);
    std::vector<std::array<Vec3, 3>> inOrder(n);
    for (std::size_t i = 0; i < n; ++i) {
        const auto t = static_cast<std::size_t>(order_[i]);
        place_[t] = static_cast<std::int32_t>(i);
        inOrder[i] = corners_[t];
    }
    corners_ = std::move(inOrder);
    // Children come after their parents.
    moments_.resize(nodes_.size());
    std::vector<double> weight(nodes_.size());
    for (std::size_t i = nodes_.size(); i-- > 0;) {
        const Node& node = nodes_[i];
        Moment m{Vec3::Zero(), Vec3::Zero(), 0.0};
        const auto add = [&](const Vec3& c, const Vec3& a, double w) {
            m.centre += w * c;
            m.area += a;
            weight[i] += w;
        };
        if (node.count > 0) {
            for (auto k = node.first; k < node.first + node.count; ++k) {
                const auto t = order_[static_cast<std::size_t>(k)];
                const Vec3 a = areaVector(t);
                add(centre[static_cast<std::size_t>(t)], a, a.norm());
            }
        } else {
            for (const auto c : {static_cast<std::size_t>(node.first), static_cast<std::size_t>(node.first) + 1})
                add(moments_[c].centre, moments_[c].area, weight[c]);
        }
        m.centre = weight[i] > 0.0 ? (m.centre / weight[i]).eval() : node.box.centre();
        m.reach = (m.centre - node.box.low).cwiseAbs().cwiseMax((node.box.high - m.centre).cwiseAbs()).norm();
        moments_[i] = m;
    }
}

double TriangleTree::winding(const Vec3& p) const {
    double w = 0.0;
    windings({&p, 1}, {&w, 1});
    return w;
}

void TriangleTree::windings(std::span<const Vec3> points, std::span<double> out) const {
    std::fill(out.begin(), out.end(), 0.0);
    if (nodes_.empty() || points.empty()) return;
    Box box;
    for (const Vec3& p : points) box.add(p);
    // What is far from all points counts as one facet each; the tree is walked once for all of them.
    std::vector<double> far;  // centre and area vector
    struct Near {
        const std::array<Vec3, 3>* corners;
        Vec3 middle, area;
        double far2;  // squared distance from which on its middle stands for it
    };
    std::vector<Near> near;
    std::int32_t stack[128];
    int top = 0;
    stack[top++] = 0;
    while (top > 0) {
        const auto i = static_cast<std::size_t>(stack[--top]);
        const Node& node = nodes_[i];
        const Moment& m = moments_[i];
        if (box.distanceSquared(m.centre) > kFar * kFar * m.reach * m.reach) {
            far.insert(far.end(), {m.centre.x(), m.centre.y(), m.centre.z(), m.area.x(), m.area.y(), m.area.z()});
        } else if (node.count == 0) {
            stack[top++] = node.first;
            stack[top++] = node.first + 1;
        } else {
            for (auto k = node.first; k < node.first + node.count; ++k) {
                const auto t = order_[static_cast<std::size_t>(k)];
                const auto& c = corners(t);
                const Vec3 middle = (c[0] + c[1] + c[2]) / 3.0;
                const double reach2 = std::max(
                    {(c[0] - middle).squaredNorm(), (c[1] - middle).squaredNorm(), (c[2] - middle).squaredNorm()});
                near.push_back({&c, middle, areaVector(t), kFar * kFar * reach2});
            }
        }
    }
    for (std::size_t k = 0; k < points.size(); ++k) {
        const Vec3& p = points[k];
        const double x = p.x(), y = p.y(), z = p.z();
        double sum = 0.0;
        for (std::size_t i = 0; i < far.size(); i += 6) {
            const double rx = far[i] - x, ry = far[i + 1] - y, rz = far[i + 2] - z, d2 = rx * rx + ry * ry + rz * rz;
            sum += (far[i + 3] * rx + far[i + 4] * ry + far[i + 5] * rz) / (d2 * std::sqrt(d2));
        }
        for (const Near& t : near) {
            const Vec3 r = t.middle - p;
            const double d2 = r.squaredNorm();
            if (d2 > t.far2) {
                sum += t.area.dot(r) / (d2 * std::sqrt(d2));
                continue;
            }
            const auto& c = *t.corners;
            // Solid angle of a triangle: A. van Oosterom, J. Strackee, IEEE Trans. Biomed. Eng. 30(2), 1983.
            const Vec3 a = c[0] - p, b = c[1] - p, e = c[2] - p;
            const double la = a.norm(), lb = b.norm(), le = e.norm();
            sum += 2.0 * std::atan2(a.dot(b.cross(e)), la * lb * le + a.dot(b) * le + b.dot(e) * la + e.dot(a) * lb);
        }
        out[k] = sum / (4.0 * std::acos(-1.0));
    }
}

TriangleTree::Nearest TriangleTree::nearest(const Vec3& p, double within, std::int32_t guess) const {
    Nearest best;
    if (nodes_.empty()) return best;
    double d2 = within < 1e150 ? within * within : 1e300;
    const auto look = [&](std::size_t i) {
        const auto& c = corners_[i];
        const Vec3 q = closestPointOnTriangle(p, c[0], c[1], c[2]);
        const double dq = (q - p).squaredNorm();
        if (dq >= d2) return;
        d2 = dq;
        best = {q, 0.0, order_[i]};
    };
    if (guess >= 0) look(static_cast<std::size_t>(place_[static_cast<std::size_t>(guess)]));
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
            for (auto i = node.first; i < node.first + node.count; ++i) look(static_cast<std::size_t>(i));
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

bool TriangleTree::closerThan(const Vec3& p, double distance) const {
    if (nodes_.empty()) return false;
    const double d2 = distance * distance;
    std::int32_t stack[128];
    int top = 0;
    stack[top++] = 0;
    while (top > 0) {
        const Node& node = nodes_[static_cast<std::size_t>(stack[--top])];
        if (node.box.distanceSquared(p) >= d2) continue;
        if (node.count == 0) {
            stack[top++] = node.first;
            stack[top++] = node.first + 1;
            continue;
        }
        for (auto i = static_cast<std::size_t>(node.first); i < static_cast<std::size_t>(node.first + node.count); ++i)
            if ((closestPointOnTriangle(p, corners_[i][0], corners_[i][1], corners_[i][2]) - p).squaredNorm() < d2)
                return true;
    }
    return false;
}

Box TriangleTree::boxOf(std::int32_t facet) const {
    Box box;
    for (const Vec3& c : corners(facet)) box.add(c);
    return box;
}

void TriangleTree::forEachNear(const Box& box, const std::function<void(std::int32_t)>& visit) const {
    if (nodes_.empty()) return;
    std::int32_t stack[128];
    int top = 0;
    stack[top++] = 0;
    while (top > 0) {
        const Node& node = nodes_[static_cast<std::size_t>(stack[--top])];
        if (!node.box.overlaps(box)) continue;
        if (node.count == 0) {
            stack[top++] = node.first;
            stack[top++] = node.first + 1;
            continue;
        }
        for (auto i = node.first; i < node.first + node.count; ++i) {
            const auto t = order_[static_cast<std::size_t>(i)];
            if (boxOf(t).overlaps(box)) visit(t);
        }
    }
}

}  // namespace cvane::shape
