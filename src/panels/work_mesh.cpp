#include "panels/work_mesh.h"

#include <algorithm>
#include <cmath>

#include "shape/edges.h"

namespace cvane::panels {
namespace {
using Index = WorkMesh::Index;
constexpr double kMostTurn = 0.5;  // cosine of the angle by which one operation may turn a triangle
std::size_t at(Index i) {
    return static_cast<std::size_t>(i);
}
Vec3 areaOf(const Vec3& a, const Vec3& b, const Vec3& c) {
    return 0.5 * (b - a).cross(c - a);
}
}  // namespace

WorkMesh::WorkMesh(const shape::Surface& s, std::vector<Metric> m, double feature)
    : points(s.points), metric(std::move(m)), around_(s.points.size()), closed_(s.points.size(), 0) {
    for (std::size_t f = 0; f < s.facets.size(); ++f) {
        const auto& t = s.facets[f];
        if (t[0] == t[1] || t[1] == t[2] || t[2] == t[0]) continue;
        for (const auto p : t) around_[at(p)].push_back(static_cast<Index>(triangles_.size()));
        triangles_.push_back(t);
        partOf_.push_back(s.partOf[f]);
    }
    living_ = triangles_.size();
    for (const auto& e : shape::edgesOf(s)) {
        bool is = e.uses.size() != 2;
        if (!is) {
            const auto f = static_cast<std::size_t>(e.uses[0].facet), g = static_cast<std::size_t>(e.uses[1].facet);
            const Vec3 n = s.areaVector(f), k = s.areaVector(g);
            is = s.partOf[f] != s.partOf[g] || std::atan2(n.cross(k).norm(), n.dot(k)) > feature;
        }
        if (is) features_.insert({e.a, e.b});
    }
}

Vec3 WorkMesh::areaVector(Index t) const {
    const auto& c = triangle(t);
    return areaOf(points[at(c[0])], points[at(c[1])], points[at(c[2])]);
}
Vec3 WorkMesh::normalAt(Index p) const {
    Vec3 n = Vec3::Zero();
    for (const auto t : trianglesOf(p)) n += areaVector(t);
    return n.normalized();
}
double WorkMesh::length(Index a, Index b) const {
    const Vec3 e = points[at(b)] - points[at(a)];
    return 0.5 * (std::sqrt(e.dot(metric[at(a)] * e)) + std::sqrt(e.dot(metric[at(b)] * e)));
}

std::vector<WorkMesh::Edge> WorkMesh::edges() const {
    std::vector<Edge> out;
    out.reserve(2 * triangles_.size());
    for (Index t = 0; t < static_cast<Index>(triangles_.size()); ++t) {
        if (!alive(t)) continue;
        const auto& c = triangle(t);
        for (std::size_t k = 0; k < 3; ++k) out.push_back(edge(c[k], c[(k + 1) % 3]));
    }
    std::sort(out.begin(), out.end());
    out.erase(
        std::unique(out.begin(), out.end(), [](const Edge& x, const Edge& y) { return x.a == y.a && x.b == y.b; }),
        out.end());
    return out;
}

std::vector<Index> WorkMesh::trianglesAt(Edge e) const {
    std::vector<Index> out;
    for (const auto t : trianglesOf(e.a)) {
        const auto& c = triangle(t);
        if (c[0] == e.b || c[1] == e.b || c[2] == e.b) out.push_back(t);
    }
    return out;
}

std::vector<WorkMesh::Edge> WorkMesh::featuresOf(Index p) const {
    std::vector<Edge> out;
    for (const auto t : trianglesOf(p))
        for (const auto q : triangle(t))
            if (q != p && isFeature(edge(p, q))) out.push_back(edge(p, q));
    std::sort(out.begin(), out.end());
    out.erase(
        std::unique(out.begin(), out.end(), [](const Edge& x, const Edge& y) { return x.a == y.a && x.b == y.b; }),
        out.end());
    return out;
}

bool WorkMesh::isCorner(Index p) const {
    const auto lines = featuresOf(p);
    if (lines.empty()) return false;
    if (lines.size() != 2) return true;
    const auto other = [&](const Edge& e) { return points[at(e.a == p ? e.b : e.a)]; };
    const Vec3 in = points[at(p)] - other(lines[0]), out = other(lines[1]) - points[at(p)];
    return in.dot(out) < 0.7 * in.norm() * out.norm();
}

void WorkMesh::drop(Index t) {
    for (const auto p : triangle(t)) {
        auto& list = around_[at(p)];
        list.erase(std::find(list.begin(), list.end(), t));
    }
    triangles_[at(t)] = {-1, -1, -1};
    --living_;
}

void WorkMesh::split(Edge e, const Vec3& place, const Metric& m) {
    const auto sides = trianglesAt(e);
    const auto p = static_cast<Index>(points.size());
    points.push_back(place);
    metric.push_back(m);
    around_.emplace_back();
    closed_.push_back(isFeature(e) && closed(e.a) && closed(e.b));
    for (const auto t : sides) {
        // The triangle keeps its a, the new one takes b.
        auto second = triangle(t);
        for (auto& c : triangles_[at(t)])
            if (c == e.b) c = p;
        for (auto& c : second)
            if (c == e.a) c = p;
        const auto n = static_cast<Index>(triangles_.size());
        triangles_.push_back(second);
        partOf_.push_back(partOf_[at(t)]);
        ++living_;
        auto& atB = around_[at(e.b)];
        *std::find(atB.begin(), atB.end(), t) = n;
        around_[at(p)].push_back(t);
        for (const auto c : second)
            if (c != e.b) around_[at(c)].push_back(n);
    }
    if (const auto found = features_.find(e); found != features_.end()) {
        features_.erase(found);
        features_.insert(edge(e.a, p));
        features_.insert(edge(p, e.b));
    }
}

bool WorkMesh::collapse(Index gone, Index kept, double longest) {
    const bool line = !featuresOf(gone).empty();
    if (line && (!isFeature(edge(gone, kept)) || isCorner(gone) || closed(gone) != closed(kept))) return false;
    return join(gone, kept, points[at(kept)], longest, true);
}

bool WorkMesh::close(Index gone, Index kept, double longest) {
    if (!join(gone, kept, 0.5 * (points[at(gone)] + points[at(kept)]), longest, false)) return false;
    closed_[at(kept)] = 1;
    return true;
}

bool WorkMesh::join(Index gone, Index kept, const Vec3& place, double longest, bool careful) {
    const Edge e = edge(gone, kept);
    const auto lines = featuresOf(gone);
    const auto shared = trianglesAt(e);
    // Of the points that both know only those of the triangles between them: else the surface would be pinched.
    const auto known = [&](Index p) {
        std::set<Index> out;
        for (const auto t : trianglesOf(p))
            for (const auto q : triangle(t))
                if (q != p) out.insert(q);
        return out;
    };
    const auto ofGone = known(gone), ofKept = known(kept);
    std::size_t common = 0;
    for (const auto q : ofGone) common += ofKept.count(q);
    if (common != shared.size()) return false;
    for (const Index moved : {gone, kept})
        for (const auto t : trianglesOf(moved)) {
            if (std::find(shared.begin(), shared.end(), t) != shared.end() ||
                (moved == kept && place == points[at(kept)]))
                continue;
            std::array<Vec3, 3> c;
            for (std::size_t k = 0; k < 3; ++k) c[k] = triangle(t)[k] == moved ? place : points[at(triangle(t)[k])];
            const Vec3 before = areaVector(t), after = areaOf(c[0], c[1], c[2]);
            if (after.norm() <= 1e-9 * (c[1] - c[0]).squaredNorm()) return false;
            // What is closed between two lines may turn as it likes before it is gone.
            if (before.dot(after) < (careful ? kMostTurn : -0.2) * before.norm() * after.norm()) return false;
            if (careful && quality(c, metric[at(kept)]) < 0.05) return false;
        }
    for (const auto q : ofGone)
        if (q != kept && length(kept, q) > longest) return false;
    for (const auto& l : lines) {
        features_.erase(l);
        const Index far = l.a == gone ? l.b : l.a;
        if (far != kept) features_.insert(edge(far, kept));
    }
    for (const auto t : shared) drop(t);
    for (const auto t : trianglesOf(gone)) {
        for (auto& c : triangles_[at(t)])
            if (c == gone) c = kept;
        around_[at(kept)].push_back(t);
    }
    around_[at(gone)].clear();
    points[at(kept)] = place;
    return true;
}

double WorkMesh::quality(const std::array<Vec3, 3>& c, const Metric& m) const {
    // 1 where all three sides are equally long in the metric.
    double sides = 0.0;
    for (std::size_t k = 0; k < 3; ++k) {
        const Vec3 e = c[(k + 1) % 3] - c[k];
        sides += e.dot(m * e);
    }
    const Vec3 e = c[1] - c[0], f = c[2] - c[0];
    const double ee = e.dot(m * e), ff = f.dot(m * f), ef = e.dot(m * f);
    return 2.0 * std::sqrt(3.0) * std::sqrt(std::max(ee * ff - ef * ef, 0.0)) / std::max(sides, 1e-300);
}

bool WorkMesh::flip(Edge e) {
    if (isFeature(e)) return false;
    const auto sides = trianglesAt(e);
    if (sides.size() != 2) return false;
    // a, b of the edge in the order of the first triangle; c and d opposite.
    auto first = triangle(sides[0]);
    while (first[0] == e.a || first[0] == e.b) std::rotate(first.begin(), first.begin() + 1, first.end());
    const Index c = first[0], a = first[1], b = first[2];
    Index d = -1;
    for (const auto q : triangle(sides[1]))
        if (q != a && q != b) d = q;
    if (d < 0 || d == c || !trianglesAt(edge(c, d)).empty()) return false;
    const auto corner = [&](Index x) { return points[at(x)]; };
    const Mat3 m = 0.25 * (metric[at(a)] + metric[at(b)] + metric[at(c)] + metric[at(d)]);
    const std::array<Vec3, 3> now[2] = {{corner(c), corner(a), corner(b)}, {corner(d), corner(b), corner(a)}};
    const std::array<Vec3, 3> then[2] = {{corner(c), corner(a), corner(d)}, {corner(d), corner(b), corner(c)}};
    if (std::min(quality(then[0], m), quality(then[1], m)) <= std::min(quality(now[0], m), quality(now[1], m)) + 1e-9)
        return false;
    const Vec3 normal = areaVector(sides[0]) + areaVector(sides[1]);
    for (const auto& t : then) {
        const Vec3 n = areaOf(t[0], t[1], t[2]);
        if (n.dot(normal) < 0.8 * n.norm() * normal.norm()) return false;
    }
    const auto leave = [&](Index p, Index t) {
        auto& list = around_[at(p)];
        list.erase(std::find(list.begin(), list.end(), t));
    };
    triangles_[at(sides[0])] = {c, a, d};
    triangles_[at(sides[1])] = {d, b, c};
    leave(b, sides[0]);
    leave(a, sides[1]);
    around_[at(d)].push_back(sides[0]);
    around_[at(c)].push_back(sides[1]);
    return true;
}

bool WorkMesh::move(Index p, const Vec3& place) {
    for (const auto t : trianglesOf(p)) {
        std::array<Vec3, 3> c;
        for (std::size_t k = 0; k < 3; ++k) c[k] = triangle(t)[k] == p ? place : points[at(triangle(t)[k])];
        const Vec3 before = areaVector(t), after = areaOf(c[0], c[1], c[2]);
        if (before.dot(after) < kMostTurn * before.norm() * after.norm() || after.norm() < 0.1 * before.norm())
            return false;
    }
    points[at(p)] = place;
    return true;
}

shape::Surface WorkMesh::surface(const std::vector<shape::Part>& parts) const {
    shape::Surface s;
    s.parts = parts;
    std::vector<Index> number(points.size(), -1);
    for (std::size_t t = 0; t < triangles_.size(); ++t) {
        if (triangles_[t][0] < 0) continue;
        shape::Facet f = triangles_[t];
        for (auto& c : f) {
            auto& n = number[at(c)];
            if (n < 0) {
                n = static_cast<Index>(s.points.size());
                s.points.push_back(points[at(c)]);
            }
            c = n;
        }
        s.facets.push_back(f);
        s.partOf.push_back(partOf_[t]);
    }
    return s;
}

}  // namespace cvane::panels
