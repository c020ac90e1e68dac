#include "grid/curve_paths.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <numeric>
#include <optional>
#include <queue>

#include "grid/tunnel_sides.h"
#include "shape/triangle.h"

namespace cvane::grid {

MeasuredCurve::MeasuredCurve(const shape::FeatureCurve& c) : points_(c.points) {
    if (c.closed) points_.push_back(c.points.front());
    at_.push_back(0.0);
    for (std::size_t i = 1; i < points_.size(); ++i) at_.push_back(at_.back() + (points_[i] - points_[i - 1]).norm());
}

std::size_t MeasuredCurve::segment(double along) const {
    const auto it = std::upper_bound(at_.begin(), at_.end(), along);
    return static_cast<std::size_t>(
        std::clamp<std::ptrdiff_t>(it - at_.begin(), 1, static_cast<std::ptrdiff_t>(at_.size()) - 1));
}

Vec3 MeasuredCurve::place(double along) const {
    const auto i = segment(along);
    const double l = at_[i] - at_[i - 1];
    const double t = l > 0.0 ? std::clamp((along - at_[i - 1]) / l, 0.0, 1.0) : 0.0;
    return points_[i - 1] + t * (points_[i] - points_[i - 1]);
}

Vec3 MeasuredCurve::tangent(double along) const {
    const auto i = segment(along);
    return (points_[i] - points_[i - 1]).normalized();
}

double MeasuredCurve::nearest(const Vec3& p) const {
    double best = 1e300, along = 0.0;
    for (std::size_t i = 1; i < points_.size(); ++i) {
        const Vec3 e = points_[i] - points_[i - 1];
        const double l2 = e.squaredNorm(), t = l2 > 0.0 ? std::clamp((p - points_[i - 1]).dot(e) / l2, 0.0, 1.0) : 0.0;
        const double d = (points_[i - 1] + t * e - p).squaredNorm();
        if (d < best) {
            best = d;
            along = at_[i - 1] + t * (at_[i] - at_[i - 1]);
        }
    }
    return along;
}

MeasuredCurve MeasuredCurve::part(double from, double to) const {
    shape::FeatureCurve c;
    c.points.push_back(place(from));
    for (std::size_t i = 0; i < points_.size(); ++i)
        if (at_[i] > from && at_[i] < to) c.points.push_back(points_[i]);
    c.points.push_back(place(to));
    return MeasuredCurve(c);
}

namespace {

// The pieces of a curve inside the box; where it leaves, it ends on the box's side.
std::vector<shape::FeatureCurve> clipped(const shape::FeatureCurve& c, const Box& box) {
    std::vector<shape::FeatureCurve> out;
    const double tiny = 1e-9 * box.size().norm();
    const auto inside = [&](const Vec3& p) {
        return (p.array() >= box.low.array() - tiny).all() && (p.array() <= box.high.array() + tiny).all();
    };
    if (std::all_of(c.points.begin(), c.points.end(), inside)) return {c};
    std::vector<Vec3> line = c.points;
    if (c.closed) {
        // Start outside, so that no piece is broken at the seam.
        const auto out0 = std::find_if_not(line.begin(), line.end(), inside);
        std::rotate(line.begin(), out0, line.end());
        line.push_back(line.front());
    }
    shape::FeatureCurve piece;
    for (std::size_t i = 1; i < line.size(); ++i) {
        const Vec3 a = line[i - 1], e = line[i] - a;
        double from = 0.0, to = 1.0;
        for (int k = 0; k < 3; ++k) {
            if (std::abs(e[k]) < 1e-300) {
                if (a[k] < box.low[k] - tiny || a[k] > box.high[k] + tiny) to = -1.0;
                continue;
            }
            const double t0 = (box.low[k] - a[k]) / e[k], t1 = (box.high[k] - a[k]) / e[k];
            from = std::max(from, std::min(t0, t1));
            to = std::min(to, std::max(t0, t1));
        }
        if (from >= to) continue;
        if (piece.points.empty() || from > 0.0) {
            if (piece.points.size() > 1) out.push_back(piece);
            piece.points = {a + from * e};
        }
        piece.points.push_back(a + to * e);
    }
    if (piece.points.size() > 1) out.push_back(piece);
    return out;
}

/// Wall points by place, for "which is nearest".
shape::TriangleTree pointTree(std::span<const Vec3> points) {
    std::vector<std::array<Vec3, 3>> dots;
    dots.reserve(points.size());
    for (const Vec3& p : points) dots.push_back({p, p, p});
    return shape::TriangleTree(std::move(dots));
}

class Follower {
  public:
    Follower(const Staircase& s, const shape::TriangleTree& model, const Box& air, WallImage& wall, CurvePaths& out)
        : s_(s), model_(model), air_(air), w_(wall), out_(out) {
        std::vector<Vec3> tops;
        for (const auto p : wall.point) tops.push_back(s.points[static_cast<std::size_t>(p)]);
        tops_ = pointTree(tops);
    }

    /// The air reaches a curve where nothing stands between it and the staircase.
    bool seen(const MeasuredCurve& c) const {
        const int samples = 9;
        int near = 0;
        for (int i = 0; i < samples; ++i) {
            const Vec3 x = c.place(c.length() * (i + 0.5) / samples);
            const auto hit = tops_.nearest(x);
            near += hit.distance < kReach * w_.size[static_cast<std::size_t>(hit.facet)] && !hidden(x, hit.point);
        }
        return 2 * near > samples;
    }

    std::int32_t corner(const Vec3& x) {
        const std::array<double, 3> key{x.x(), x.y(), x.z()};
        if (const auto it = corners_.find(key); it != corners_.end()) return it->second;
        auto found = nearestPoint(x);
        if (found >= 0) {
            const auto i = static_cast<std::size_t>(found);
            if (!out_.fixed[i]) {
                out_.fixed[i] = 1;
                w_.onWall[i] = x;
            }
        }
        corners_[key] = found;
        return found;
    }

    double sizeAt(const Vec3& x) const {
        const auto hit = tops_.nearest(x);
        return hit.facet >= 0 ? w_.size[static_cast<std::size_t>(hit.facet)] : 0.0;
    }

    /// What of a curve can be led where the way along the whole is barred, most often at one of its ends.
    /// @return the length led
    double followInPieces(const MeasuredCurve& c) {
        if (follow(c)) return c.length();
        constexpr double kShortest = 6.0;  // cells
        const double half = 0.5 * c.length();
        const Vec3 x = c.place(half);
        const auto found = nearestPoint(x);
        if (found < 0 || out_.taken(static_cast<std::size_t>(found)) ||
            c.length() < kShortest * w_.size[static_cast<std::size_t>(found)])
            return 0.0;
        corner(x);
        return followInPieces(c.part(0.0, half)) + followInPieces(c.part(half, c.length()));
    }

    bool follow(const MeasuredCurve& c) {
        const auto from = corner(c.place(0.0)), to = corner(c.place(c.length()));
        if (from < 0 || to < 0 || from == to) return false;
        const auto path = cheapest(c, from, to);
        if (path.size() < 2) return false;
        const auto number = static_cast<std::int32_t>(out_.curves.size());
        out_.curves.push_back(c);
        // Nearest places along the curve, made to ascend, and evened out half-way towards equal steps.
        std::vector<double> at, up, down;
        for (const auto i : path) at.push_back(c.nearest(topOf(i)));
        at.front() = 0.0;
        at.back() = c.length();
        up = down = at;
        for (std::size_t k = 1; k < at.size(); ++k) up[k] = std::max(up[k], up[k - 1]);
        for (std::size_t k = at.size() - 1; k-- > 0;) down[k] = std::min(down[k], down[k + 1]);
        for (std::size_t k = 1; k + 1 < path.size(); ++k) {
            const auto i = static_cast<std::size_t>(path[k]);
            const double even = c.length() * static_cast<double>(k) / static_cast<double>(path.size() - 1);
            const double along = 0.7 * 0.5 * (up[k] + down[k]) + 0.3 * even;
            out_.curveOf[i] = number;
            out_.along[i] = along;
            w_.onWall[i] = c.place(along);
        }
        return true;
    }

  private:
    static constexpr double kReach =
        3.0;  ///< of a cell: how far the staircase stays away from the bottom of a sharp corner

    bool hidden(const Vec3& x, const Vec3& from) const {
        const Vec3 start = x + 0.05 * (from - x);
        Box box;
        box.add(start);
        box.add(from);
        bool found = false;
        model_.forEachNear(box, [&](std::int32_t f) {
            const auto& t = model_.corners(f);
            found = found || shape::pierces(start, from, t[0], t[1], t[2]);
        });
        return found;
    }
    const Vec3& topOf(std::int32_t i) const {
        return s_.points[static_cast<std::size_t>(w_.point[static_cast<std::size_t>(i)])];
    }
    std::uint8_t sidesOf(std::int32_t i) const {
        return s_.sidesOf[static_cast<std::size_t>(w_.point[static_cast<std::size_t>(i)])];
    }

    // Direction from the model into the air at an edge, corner or crossing: half-way between the sides that meet there.
    Vec3 outward(const Vec3& x, double size) const {
        Box near;
        near.add(x - Vec3::Constant(1e-5 * size));
        near.add(x + Vec3::Constant(1e-5 * size));
        std::vector<Vec3> faces;
        model_.forEachNear(near, [&](std::int32_t f) {
            const auto& t = model_.corners(f);
            if ((shape::closestPointOnTriangle(x, t[0], t[1], t[2]) - x).norm() > 1e-5 * size) return;
            const Vec3 n = model_.areaVector(f);
            if (!(n.norm() > 0.0)) return;
            // Facets of one side count once, however many meet there.
            for (Vec3& known : faces)
                if (known.normalized().dot(n.normalized()) > 0.9) {
                    known += n;
                    return;
                }
            faces.push_back(n);
        });
        Vec3 sum = Vec3::Zero();
        for (const Vec3& n : faces) sum += n.normalized();
        return sum.norm() > 1e-3 ? sum.normalized() : Vec3::Zero().eval();
    }
    // How far a staircase point is from x, mostly across the outward direction: the row that stands over an edge leads
    // along it, not the one that happens to be nearest.
    double aside(const Vec3& top, const Vec3& x, const Vec3& out) const {
        const Vec3 d = top - x;
        return (d - d.dot(out) * out).norm() + 0.3 * d.norm();
    }

    // The wall point whose staircase point stands over x, in the same tunnel sides.
    std::int32_t nearestPoint(const Vec3& x) const {
        const auto hit = tops_.nearest(x);
        if (hit.facet < 0) return -1;
        const double size = w_.size[static_cast<std::size_t>(hit.facet)];
        const auto sides = sidesAt(x, air_, 1e-6 * size);
        Box near;
        near.add(x - Vec3::Constant(kReach * size));
        near.add(x + Vec3::Constant(kReach * size));
        const Vec3 out = outward(x, size);
        double best = 1e300;
        std::int32_t found = -1;
        tops_.forEachNear(near, [&](std::int32_t i) {
            if (sidesOf(i) != sides) return;
            const double d = aside(topOf(i), x, out);
            if (d < best || (d == best && i < found)) {
                best = d;
                found = i;
            }
        });
        return found;
    }

    std::vector<std::int32_t> cheapest(const MeasuredCurve& c, std::int32_t from, std::int32_t to) const {
        struct Visit {
            double cost;
            std::int32_t point;
            bool operator<(const Visit& o) const { return cost != o.cost ? cost > o.cost : point > o.point; }
        };
        std::map<std::int32_t, double> cost;
        std::map<std::int32_t, std::int32_t> before;
        std::priority_queue<Visit> front;
        cost[from] = 0.0;
        front.push({0.0, from});
        while (!front.empty()) {
            const Visit v = front.top();
            front.pop();
            if (v.cost > cost[v.point]) continue;
            if (v.point == to) break;
            for (const auto j : w_.ring[static_cast<std::size_t>(v.point)]) {
                const auto i = static_cast<std::size_t>(j);
                if (j != to && out_.taken(i)) continue;
                const Vec3 on = c.place(c.nearest(topOf(j)));
                if (j != to && sidesOf(j) != sidesAt(on, air_, 1e-6 * w_.size[i])) continue;
                if ((topOf(j) - on).norm() > kReach * w_.size[i]) continue;
                const double off = aside(topOf(j), on, outward(on, w_.size[i])) / w_.size[i];
                const double step = (topOf(j) - topOf(v.point)).norm() / w_.size[i];
                const double next = v.cost + step * (0.15 + off * off);
                const auto [it, fresh] = cost.try_emplace(j, next);
                if (!fresh && next >= it->second) continue;
                it->second = next;
                before[j] = v.point;
                front.push({next, j});
            }
        }
        if (!before.contains(to)) return {};
        std::vector<std::int32_t> path{to};
        while (path.back() != from) path.push_back(before.at(path.back()));
        std::reverse(path.begin(), path.end());
        return path;
    }

    const Staircase& s_;
    const shape::TriangleTree& model_;
    const Box& air_;
    WallImage& w_;
    CurvePaths& out_;
    shape::TriangleTree tops_;  ///< staircase points of the wall points
    std::map<std::array<double, 3>, std::int32_t> corners_;
};

// A loop has no two ends to lead a chain between: cut into three.
std::vector<shape::FeatureCurve> inThree(const shape::FeatureCurve& loop) {
    const MeasuredCurve c(loop);
    std::vector<shape::FeatureCurve> out;
    std::vector<Vec3> line = loop.points;
    if (loop.closed) line.push_back(loop.points.front());
    double along = 0.0;
    shape::FeatureCurve piece;
    piece.points.push_back(line.front());
    for (std::size_t i = 1; i < line.size(); ++i) {
        along += (line[i] - line[i - 1]).norm();
        piece.points.push_back(line[i]);
        if (out.size() < 2 && along >= c.length() * static_cast<double>(out.size() + 1) / 3.0) {
            out.push_back(piece);
            piece.points = {line[i]};
        }
    }
    if (piece.points.size() > 1) out.push_back(piece);
    return out;
}

}  // namespace

CurvePaths followCurves(const Staircase& stairs, const std::vector<shape::FeatureCurve>& curves,
                        const shape::TriangleTree& model, const Box& air, WallImage& wall) {
    CurvePaths out;
    out.curveOf.assign(wall.point.size(), -1);
    out.along.assign(wall.point.size(), 0.0);
    out.fixed.assign(wall.point.size(), 0);
    if (wall.point.empty()) return out;
    Follower follower(stairs, model, air, wall, out);
    std::vector<MeasuredCurve> open;
    for (const auto& whole : curves)
        for (const auto& c : clipped(whole, air)) {
            const double size = follower.sizeAt(c.points.front());
            const bool loop = c.closed || c.points.front() == c.points.back();
            if (c.length() < (loop ? 4.0 : 0.5) * size) continue;
            for (const auto& piece : loop ? inThree(c) : std::vector<shape::FeatureCurve>{c}) {
                MeasuredCurve m(piece);
                if (follower.seen(m)) open.push_back(std::move(m));
            }
        }
    // Long curves before short ones, and corners first, so that no chain of edges takes a point that a corner needs.
    std::stable_sort(open.begin(), open.end(), [](const auto& a, const auto& b) { return a.length() > b.length(); });
    for (const auto& c : open) {
        follower.corner(c.place(0.0));
        follower.corner(c.place(c.length()));
        out.seen += c.length();
    }
    // A chain can be shut out by those laid before it, most often next to a corner. Then it goes first in another try.
    const CurvePaths withCorners = out;
    const auto images = wall.onWall;
    std::vector<std::size_t> order(open.size());
    std::iota(order.begin(), order.end(), 0u);
    struct Outcome {
        CurvePaths paths;
        std::vector<Vec3> images;
        std::vector<std::size_t> shut;
    };
    std::optional<Outcome> best;
    for (int attempt = 0; attempt < 5; ++attempt) {
        out = withCorners;
        wall.onWall = images;
        std::vector<std::size_t> done, shut;
        for (const auto i : order) {
            const bool led = follower.follow(open[i]);
            (led ? done : shut).push_back(i);
            if (led) out.followed += open[i].length();
        }
        if (!best || out.followed > best->paths.followed) best = Outcome{out, wall.onWall, shut};
        if (shut.empty()) break;
        order = shut;
        order.insert(order.end(), done.begin(), done.end());
    }
    if (!best) return out;
    out = std::move(best->paths);
    wall.onWall = std::move(best->images);
    for (const auto i : best->shut) out.followed += follower.followInPieces(open[i]);
    return out;
}

}  // namespace cvane::grid
