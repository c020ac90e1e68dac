#include "shape/feature_curves.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <set>
#include <tuple>

#include "shape/crossings.h"
#include "shape/edges.h"

namespace cvane::shape {
namespace {

/// Segments between numbered places, and the walk along them.
class Lines {
  public:
    std::int32_t add(const Vec3& x) {
        places_.push_back(x);
        links_.emplace_back();
        return static_cast<std::int32_t>(places_.size()) - 1;
    }
    void join(std::int32_t a, std::int32_t b) {
        if (a == b) return;
        auto &la = at(a), &lb = at(b);
        if (std::find(la.begin(), la.end(), b) != la.end()) return;
        la.push_back(b);
        lb.push_back(a);
    }
    std::vector<FeatureCurve> curves() {
        std::vector<FeatureCurve> out;
        const auto n = static_cast<std::int32_t>(places_.size());
        for (std::int32_t i = 0; i < n; ++i)
            if (ends_.contains(i) || isEnd(i))
                while (!at(i).empty()) out.push_back(walk(i));
        // What is left are loops without an end.
        for (std::int32_t i = 0; i < n; ++i)
            while (!at(i).empty()) {
                out.push_back(walk(i));
                out.back().closed = true;
                out.back().points.pop_back();
            }
        return out;
    }

  private:
    std::vector<std::int32_t>& at(std::int32_t i) { return links_[static_cast<std::size_t>(i)]; }
    const Vec3& place(std::int32_t i) const { return places_[static_cast<std::size_t>(i)]; }
    bool isEnd(std::int32_t i) {
        const auto& l = at(i);
        if (l.empty()) return false;
        if (l.size() != 2) return true;
        const Vec3 in = place(i) - place(l[0]), out = place(l[1]) - place(i);
        return in.dot(out) < std::sqrt(0.5) * in.norm() * out.norm();
    }
    FeatureCurve walk(std::int32_t from) {
        // Ends are judged before the walk eats the links.
        FeatureCurve c;
        c.points.push_back(place(from));
        auto here = from;
        for (;;) {
            const auto next = at(here).front();
            std::erase(at(here), next);
            const bool end = ends_.contains(next) || isEndBefore(next);
            std::erase(at(next), here);
            c.points.push_back(place(next));
            if (end || next == from || at(next).empty()) break;
            here = next;
        }
        return c;
    }
    bool isEndBefore(std::int32_t i) {
        const bool end = isEnd(i);
        if (end) ends_.insert(i);
        return end;
    }
    std::vector<Vec3> places_;
    std::vector<std::vector<std::int32_t>> links_;
    std::set<std::int32_t> ends_;
};

}  // namespace

double FeatureCurve::length() const {
    double l = closed ? (points.front() - points.back()).norm() : 0.0;
    for (std::size_t i = 1; i < points.size(); ++i) l += (points[i] - points[i - 1]).norm();
    return l;
}

std::vector<FeatureCurve> featureCurves(const Surface& s, const TriangleTree& tree, double angle) {
    Lines lines;
    using EdgeKey = std::pair<std::int32_t, std::int32_t>;
    std::map<std::tuple<std::int32_t, std::int32_t, std::int32_t>, std::int32_t> pierceAt;
    std::map<EdgeKey, std::vector<std::pair<double, std::int32_t>>> onEdge;
    // Parts that meet make a corner at any angle; only what runs along another sheet, as seams of a careless export do,
    // is no line that one could see.
    constexpr double kAlong = 0.1;  // [rad]
    for (const Crossing& c : crossingsOf(s, tree, kAlong)) {
        std::int32_t ends[2];
        for (int k = 0; k < 2; ++k) {
            const Pierce& p = c.ends[static_cast<std::size_t>(k)];
            const auto [it, fresh] = pierceAt.try_emplace({p.a, p.b, p.facet}, -1);
            if (fresh) {
                it->second = lines.add(p.place);
                onEdge[{p.a, p.b}].push_back({p.along, it->second});
            }
            ends[k] = it->second;
        }
        lines.join(ends[0], ends[1]);
    }
    const double limit = std::cos(angle);
    std::map<std::int32_t, std::int32_t> cornerAt;
    const auto corner = [&](std::int32_t p) {
        const auto [it, fresh] = cornerAt.try_emplace(p, -1);
        if (fresh) it->second = lines.add(s.points[static_cast<std::size_t>(p)]);
        return it->second;
    };
    for (const Edge& e : edgesOf(s)) {
        if (e.uses.size() != 2) continue;
        const Vec3 a = s.areaVector(static_cast<std::size_t>(e.uses[0].facet));
        Vec3 b = s.areaVector(static_cast<std::size_t>(e.uses[1].facet));
        if (e.uses[0].forward == e.uses[1].forward) b = -b;
        const double scale = a.norm() * b.norm();
        if (!(scale > 0.0) || a.dot(b) >= limit * scale) continue;
        // A sharp edge that another part crosses is cut there: one piece of it may lie hidden inside that part.
        auto here = corner(e.a);
        if (const auto it = onEdge.find({e.a, e.b}); it != onEdge.end()) {
            std::sort(it->second.begin(), it->second.end());
            for (const auto& [along, place] : it->second) {
                lines.join(here, place);
                here = place;
            }
        }
        lines.join(here, corner(e.b));
    }
    return lines.curves();
}

}  // namespace cvane::shape
