#include "shape/unite.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <numeric>

#include "shape/edges.h"
#include "shape/facet_cut.h"
#include "shape/triangle_tree.h"

namespace cvane::shape {
namespace {

// Surfaces that share a plane, an edge or a point lie aside of each other by this share of their size while they are
// cut, each try another way: then all crossings are of an edge and a facet's inside.
constexpr double kAside = 2e-7;
const Vec3 kWays[] = {{0.581, 0.337, 0.741}, {-0.713, 0.294, 0.637}, {0.377, -0.561, -0.737}, {0.211, 0.893, -0.397}};

using Wide3 = Eigen::Matrix<long double, 3, 1>;

bool isClosed(const Surface& s) {
    const auto edges = edgesOf(s);
    return std::all_of(edges.begin(), edges.end(), [](const Edge& e) {
        const auto forward = std::count_if(e.uses.begin(), e.uses.end(), [](const auto& u) { return u.forward; });
        return 2 * static_cast<std::size_t>(forward) == e.uses.size();
    });
}

/// Two closed surfaces in one list of points, cut along their crossing.
class Pair {
  public:
    /// @param aside  way that the second one is moved by while they are cut
    Pair(const Surface& a, const Surface& b, const Vec3& aside) : all_(a), firstOfB_(a.facets.size()) {
        const auto points = static_cast<std::int32_t>(a.points.size());
        all_.points.insert(all_.points.end(), b.points.begin(), b.points.end());
        for (Facet f : b.facets) {
            for (auto& p : f) p += points;
            all_.facets.push_back(f);
        }
        all_.partOf.insert(all_.partOf.end(), b.partOf.begin(), b.partOf.end());
        true_ = all_.points;
        for (auto i = a.points.size(); i < all_.points.size(); ++i) all_.points[i] += aside;
        trees_[0] = TriangleTree(side(0));
        trees_[1] = TriangleTree(side(1));
    }

    std::optional<Surface> joined() {
        if (!findCrossings()) return std::nullopt;
        if (lines_.empty()) return whatLiesOutside(all_);
        const auto cut = cutAll();
        return cut ? whatLiesOutside(*cut) : std::nullopt;
    }

  private:
    using Line = std::array<std::int32_t, 2>;  ///< points at its ends
    struct Point {
        std::int32_t a, b;  ///< the edge that it lies on, a < b
        double along;       ///< 0 at a, 1 at b
    };

    Surface side(int which) const {
        Surface s;
        s.points = all_.points;
        const auto middle = static_cast<std::ptrdiff_t>(firstOfB_);
        s.facets.assign(which == 0 ? all_.facets.begin() : all_.facets.begin() + middle,
                        which == 0 ? all_.facets.begin() + middle : all_.facets.end());
        s.partOf.assign(s.facets.size(), 0);
        s.parts.push_back({"side", true, {}});
        return s;
    }
    Wide3 at(std::int32_t p) const { return all_.points[static_cast<std::size_t>(p)].cast<long double>(); }
    /// Six times the volume of a tetrahedron. Asked in one order of its points only, so that all facets about an edge
    /// hear the same.
    long double volume(std::int32_t a, std::int32_t b, std::int32_t c, std::int32_t d) const {
        return (at(a) - at(d)).dot((at(b) - at(d)).cross(at(c) - at(d)));
    }
    /// Sense in which the line from p to q passes the one from a to b.
    int pass(std::int32_t p, std::int32_t q, std::int32_t a, std::int32_t b) const {
        int sign = 1;
        if (p > q) std::swap(p, q), sign = -sign;
        if (a > b) std::swap(a, b), sign = -sign;
        // The surfaces' points do not mix in number: those of the first come first.
        const long double v = p < a ? volume(p, q, a, b) : volume(a, b, p, q);
        return v > 0 ? sign : v < 0 ? -sign : 0;
    }
    /// Number of the point at which edge ab passes through a facet; -1: it does not; -2: it meets its rim.
    std::int32_t pierce(std::int32_t a, std::int32_t b, std::size_t facet) {
        if (a > b) std::swap(a, b);
        const Facet& f = all_.facets[facet];
        const long double from = volume(f[0], f[1], f[2], a), to = volume(f[0], f[1], f[2], b);
        if (from == 0 || to == 0) return -2;
        if ((from > 0) == (to > 0)) return -1;
        int sense[3];
        for (std::size_t k = 0; k < 3; ++k) sense[k] = pass(a, b, f[k], f[(k + 1) % 3]);
        if (sense[0] * sense[1] < 0 || sense[1] * sense[2] < 0 || sense[2] * sense[0] < 0) return -1;
        if (sense[0] * sense[1] * sense[2] == 0) return -2;
        const auto key = std::array{a, b, static_cast<std::int32_t>(facet)};
        const auto [it, isNew] = numbers_.try_emplace(key, static_cast<std::int32_t>(true_.size()));
        if (isNew) {
            const auto along = static_cast<double>(from / (from - to));
            points_.push_back({a, b, along});
            const auto &A = all_.points[static_cast<std::size_t>(a)], &B = all_.points[static_cast<std::size_t>(b)];
            all_.points.push_back(A + along * (B - A));
            true_.push_back(all_.points.back());
        }
        return it->second;
    }

    bool findCrossings() {
        firstNew_ = static_cast<std::int32_t>(true_.size());
        for (std::size_t f = 0; f < firstOfB_; ++f) {
            bool fine = true;
            trees_[1].forEachNear(trees_[0].boxOf(static_cast<std::int32_t>(f)), [&](std::int32_t other) {
                const std::size_t g = firstOfB_ + static_cast<std::size_t>(other);
                std::vector<std::int32_t> ends;
                for (const auto& [edges, through] : {std::pair{f, g}, std::pair{g, f}})
                    for (std::size_t k = 0; k < 3; ++k) {
                        const auto p = pierce(all_.facets[edges][k], all_.facets[edges][(k + 1) % 3], through);
                        if (p == -2) fine = false;
                        if (p >= 0) ends.push_back(p);
                    }
                if (ends.empty()) return;
                if (ends.size() != 2) {
                    fine = false;
                    return;
                }
                for (const std::size_t facet : {f, g}) lines_[facet].push_back({ends[0], ends[1]});
            });
            if (!fine) return false;
        }
        return true;
    }

    std::optional<FacetPlace> placeIn(const Facet& f, std::int32_t p) const {
        const Point& x = points_[static_cast<std::size_t>(p - firstNew_)];
        for (int k = 0; k < 3; ++k) {
            const auto from = f[static_cast<std::size_t>(k)], to = f[static_cast<std::size_t>((k + 1) % 3)];
            if (std::min(from, to) != x.a || std::max(from, to) != x.b) continue;
            const auto steps =
                static_cast<std::int64_t>(std::llround(x.along * static_cast<double>(FacetPlace::kSide)));
            if (steps <= 0 || steps >= FacetPlace::kSide) return std::nullopt;
            return FacetPlace::onEdge(k, from == x.a ? steps : FacetPlace::kSide - steps);
        }
        const Vec3 o = all_.points[static_cast<std::size_t>(f[0])], e = all_.points[static_cast<std::size_t>(f[1])] - o,
                   g = all_.points[static_cast<std::size_t>(f[2])] - o,
                   d = all_.points[static_cast<std::size_t>(p)] - o, n = e.cross(g);
        const double u = n.dot(d.cross(g)) / n.squaredNorm(), v = n.dot(e.cross(d)) / n.squaredNorm();
        const auto steps = [](double share) {
            return static_cast<std::int64_t>(std::llround(share * static_cast<double>(FacetPlace::kSide)));
        };
        const FacetPlace out{steps(u), steps(v)};
        if (out.u <= 0 || out.v <= 0 || out.u + out.v >= FacetPlace::kSide) return std::nullopt;
        return out;
    }

    /// All facets, those that cross in pieces; the lines become `rims_`.
    std::optional<Surface> cutAll() {
        Surface out;
        out.points = all_.points;
        std::size_t ofA = 0;
        for (std::size_t f = 0; f < all_.facets.size(); ++f) {
            if (f == firstOfB_) ofA = out.facets.size();
            const auto add = [&](const Facet& piece) {
                out.facets.push_back(piece);
                out.partOf.push_back(all_.partOf[f]);
            };
            const auto it = lines_.find(f);
            if (it == lines_.end()) {
                add(all_.facets[f]);
                continue;
            }
            const Facet& whole = all_.facets[f];
            std::vector<std::int32_t> numbers(whole.begin(), whole.end());
            std::vector<FacetPlace> places{{0, 0}, {FacetPlace::kSide, 0}, {0, FacetPlace::kSide}};
            const auto numberOf = [&](std::int32_t p) {
                const auto found = std::find(numbers.begin(), numbers.end(), p);
                if (found != numbers.end()) return static_cast<int>(found - numbers.begin());
                const auto place = placeIn(whole, p);
                if (!place) return -1;
                numbers.push_back(p);
                places.push_back(*place);
                return static_cast<int>(numbers.size()) - 1;
            };
            std::vector<std::array<int, 2>> lines;
            for (const Line& l : it->second) {
                lines.push_back({numberOf(l[0]), numberOf(l[1])});
                if (lines.back()[0] < 0 || lines.back()[1] < 0) return std::nullopt;
                rims_.push_back({std::min(l[0], l[1]), std::max(l[0], l[1])});
            }
            const auto pieces = cutFacet(places, lines);
            if (!pieces) return std::nullopt;
            for (const auto& t : *pieces)
                add({numbers[static_cast<std::size_t>(t[0])], numbers[static_cast<std::size_t>(t[1])],
                     numbers[static_cast<std::size_t>(t[2])]});
        }
        firstOfB_ = ofA;
        std::sort(rims_.begin(), rims_.end());
        return out;
    }

    /// Of a cut surface the patches between lines that lie outside of the other side.
    std::optional<Surface> whatLiesOutside(const Surface& cut) const {
        std::vector<std::size_t> patch(cut.facets.size());
        std::iota(patch.begin(), patch.end(), std::size_t{0});
        const auto root = [&](std::size_t f) {
            while (patch[f] != f) f = patch[f] = patch[patch[f]];
            return f;
        };
        for (const Edge& e : edgesOf(cut)) {
            if (std::binary_search(rims_.begin(), rims_.end(), std::array{e.a, e.b})) continue;
            for (const auto& u : e.uses)
                patch[root(static_cast<std::size_t>(u.facet))] = root(static_cast<std::size_t>(e.uses.front().facet));
        }
        std::map<std::size_t, std::size_t> largest;  // of each patch the largest facet
        for (std::size_t f = 0; f < cut.facets.size(); ++f) {
            const auto [it, isNew] = largest.try_emplace(root(f), f);
            if (!isNew && cut.areaVector(f).squaredNorm() > cut.areaVector(it->second).squaredNorm()) it->second = f;
        }
        std::map<std::size_t, bool> outside;
        for (const auto& [p, f] : largest) {
            const Vec3 middle = (cut.corner(f, 0) + cut.corner(f, 1) + cut.corner(f, 2)) / 3.0;
            outside[p] = trees_[f < firstOfB_ ? 1 : 0].winding(middle) < 0.5;
        }
        Surface out;
        out.points = true_;
        for (std::size_t f = 0; f < cut.facets.size(); ++f)
            if (outside[root(f)]) {
                out.facets.push_back(cut.facets[f]);
                out.partOf.push_back(cut.partOf[f]);
            }
        if (out.facets.empty() || !isClosed(out)) return std::nullopt;
        return out;
    }

    Surface all_;
    std::size_t firstOfB_;
    std::vector<Vec3> true_;  ///< where the points lie when nothing is moved aside
    TriangleTree trees_[2];
    std::int32_t firstNew_ = 0;
    std::vector<Point> points_;
    std::map<std::array<std::int32_t, 3>, std::int32_t> numbers_;
    std::map<std::size_t, std::vector<Line>> lines_;
    std::vector<std::array<std::int32_t, 2>> rims_;
};

Surface withoutLoosePoints(Surface s) {
    std::vector<std::int32_t> number(s.points.size(), -1);
    std::vector<Vec3> used;
    for (Facet& f : s.facets)
        for (auto& p : f) {
            auto& n = number[static_cast<std::size_t>(p)];
            if (n < 0) {
                n = static_cast<std::int32_t>(used.size());
                used.push_back(s.points[static_cast<std::size_t>(p)]);
            }
            p = n;
        }
    s.points = std::move(used);
    return s;
}

std::optional<Surface> join(const Surface& a, const Surface& b) {
    const double aside = kAside * std::min(a.bounds().size().norm(), b.bounds().size().norm());
    for (const Vec3& way : kWays) {
        auto out = Pair(a, b, aside * way).joined();
        if (!out) continue;
        // The union holds the larger one and no more than both.
        const double one = a.volume(), other = b.volume(), sum = out->volume(), slack = 1e-5 * (one + other);
        if (sum > std::max(one, other) - slack && sum < one + other + slack) return out;
    }
    return std::nullopt;
}

}  // namespace

std::optional<Surface> united(const Surface& surface) {
    std::optional<Surface> out;
    for (std::size_t part = 0; part < surface.parts.size(); ++part) {
        Surface one;
        one.points = surface.points;
        for (std::size_t f = 0; f < surface.facets.size(); ++f)
            if (surface.partOf[f] == static_cast<std::int32_t>(part)) {
                one.facets.push_back(surface.facets[f]);
                one.partOf.push_back(surface.partOf[f]);
            }
        if (one.facets.empty()) continue;
        one = withoutLoosePoints(std::move(one));
        if (!isClosed(one)) return std::nullopt;
        out = out ? join(*out, one) : std::move(one);
        if (!out) return std::nullopt;
    }
    if (!out) return std::nullopt;
    *out = withoutLoosePoints(std::move(*out));
    out->parts = surface.parts;
    return out;
}

}  // namespace cvane::shape
