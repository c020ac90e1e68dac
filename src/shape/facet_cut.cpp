#include "shape/facet_cut.h"

#include <algorithm>
#include <deque>
#include <utility>

namespace cvane::shape {
namespace {

using Triangle = std::array<int, 3>;
__extension__ using Wide = __int128;

class Cut {
  public:
    explicit Cut(std::span<const FacetPlace> places) : at_(places), triangles_{{0, 1, 2}} {}

    bool insert(int p) {
        for (std::size_t t = 0; t < triangles_.size(); ++t) {
            const Triangle c = triangles_[t];
            int side[3];
            for (std::size_t k = 0; k < 3; ++k) side[k] = turn(c[k], c[(k + 1) % 3], p);
            if (std::any_of(side, side + 3, [](int s) { return s < 0; })) continue;
            const auto on = std::count(side, side + 3, 0);
            if (on > 1) return false;  // at a corner
            if (on == 0) {
                triangles_[t] = {c[0], c[1], p};
                triangles_.push_back({c[1], c[2], p});
                triangles_.push_back({c[2], c[0], p});
                return true;
            }
            const auto k = static_cast<std::size_t>(std::find(side, side + 3, 0) - side);
            const int a = c[k], b = c[(k + 1) % 3];
            split(t, a, b, p);
            if (const auto other = withEdge(b, a)) split(*other, b, a, p);
            return true;
        }
        return false;
    }

    /// Turns the edges that cross the line between a and b until it is an edge, or two where a place lies on it.
    bool draw(int a, int b) {
        if (hasEdge(a, b)) return keep(a, b);
        for (int p = 0; p < static_cast<int>(at_.size()); ++p)
            if (p != a && p != b && turn(a, b, p) == 0 && between(a, b, p)) return draw(a, p) && draw(p, b);
        std::deque<std::array<int, 2>> across;
        for (const Triangle& c : triangles_)
            for (std::size_t k = 0; k < 3; ++k)
                if (c[k] < c[(k + 1) % 3] && crosses(a, b, c[k], c[(k + 1) % 3]))
                    across.push_back({c[k], c[(k + 1) % 3]});
        for (std::size_t tries = 16 * (across.size() + 1) * (across.size() + 1); !across.empty(); --tries) {
            if (tries == 0) return false;
            const auto [p, q] = across.front();
            across.pop_front();
            if (isKept(p, q)) return false;
            const auto turned = flip(p, q);
            if (!turned)
                across.push_back({p, q});
            else if (crosses(a, b, (*turned)[0], (*turned)[1]))
                across.push_back(*turned);
        }
        return hasEdge(a, b) && keep(a, b);
    }

    /// Turns edges that are no lines while that widens the narrowest corners.
    void evenOut() {
        for (std::size_t pass = 0; pass < at_.size(); ++pass) {
            bool turned = false;
            for (std::size_t t = 0; t < triangles_.size(); ++t)
                for (std::size_t k = 0; k < 3; ++k) {
                    const int p = triangles_[t][k], q = triangles_[t][(k + 1) % 3], r = triangles_[t][(k + 2) % 3];
                    const auto other = withEdge(q, p);
                    if (!other || isKept(p, q)) continue;
                    const int s = third(*other, q, p);
                    if (inCircle(p, q, r, s) && flip(p, q)) turned = true;
                }
            if (!turned) return;
        }
    }
    std::vector<Triangle> take() { return std::move(triangles_); }

  private:
    /// 1: left of the line from a to b; -1: right; 0: on it.
    int turn(int a, int b, int c) const {
        const auto &A = at(a), &B = at(b), &C = at(c);
        const Wide area = static_cast<Wide>(B.u - A.u) * (C.v - A.v) - static_cast<Wide>(B.v - A.v) * (C.u - A.u);
        return area > 0 ? 1 : area < 0 ? -1 : 0;
    }
    bool between(int a, int b, int p) const {
        const auto inside = [](std::int64_t x, std::int64_t y, std::int64_t z) {
            return std::min(x, y) <= z && z <= std::max(x, y);
        };
        return inside(at(a).u, at(b).u, at(p).u) && inside(at(a).v, at(b).v, at(p).v);
    }
    bool crosses(int a, int b, int p, int q) const {
        return turn(a, b, p) * turn(a, b, q) < 0 && turn(p, q, a) * turn(p, q, b) < 0;
    }
    // In the facet's own coordinates, whatever its shape: it only steers.
    bool inCircle(int p, int q, int r, int s) const {
        const auto d = [&](int i, int k) {
            return static_cast<double>(k == 0 ? at(i).u - at(s).u : at(i).v - at(s).v) / FacetPlace::kSide;
        };
        const auto square = [&](int i) { return d(i, 0) * d(i, 0) + d(i, 1) * d(i, 1); };
        const double x = d(p, 0) * (d(q, 1) * square(r) - d(r, 1) * square(q)) -
                         d(p, 1) * (d(q, 0) * square(r) - d(r, 0) * square(q)) +
                         square(p) * (d(q, 0) * d(r, 1) - d(r, 0) * d(q, 1));
        return x > 1e-12;
    }
    std::optional<std::size_t> withEdge(int a, int b) const {
        for (std::size_t t = 0; t < triangles_.size(); ++t)
            for (std::size_t k = 0; k < 3; ++k)
                if (triangles_[t][k] == a && triangles_[t][(k + 1) % 3] == b) return t;
        return std::nullopt;
    }
    bool hasEdge(int a, int b) const { return withEdge(a, b) || withEdge(b, a); }
    int third(std::size_t t, int a, int b) const {
        for (const int c : triangles_[t])
            if (c != a && c != b) return c;
        return -1;
    }
    void split(std::size_t t, int a, int b, int p) {
        const int c = third(t, a, b);
        triangles_[t] = {a, p, c};
        triangles_.push_back({p, b, c});
    }
    /// The other diagonal of the quadrilateral about an edge, where that is convex.
    std::optional<std::array<int, 2>> flip(int p, int q) {
        const auto one = withEdge(p, q), other = withEdge(q, p);
        if (!one || !other) return std::nullopt;
        const int r = third(*one, p, q), s = third(*other, q, p);
        if (!crosses(p, q, r, s)) return std::nullopt;
        triangles_[*one] = {r, p, s};
        triangles_[*other] = {s, q, r};
        return std::array{std::min(r, s), std::max(r, s)};
    }
    bool keep(int a, int b) {
        kept_.push_back({std::min(a, b), std::max(a, b)});
        return true;
    }
    bool isKept(int a, int b) const {
        return std::find(kept_.begin(), kept_.end(), std::array{std::min(a, b), std::max(a, b)}) != kept_.end();
    }
    const FacetPlace& at(int i) const { return at_[static_cast<std::size_t>(i)]; }

    std::span<const FacetPlace> at_;
    std::vector<Triangle> triangles_;
    std::vector<std::array<int, 2>> kept_;
};

}  // namespace

FacetPlace FacetPlace::onEdge(int k, std::int64_t along) {
    if (k == 0) return {along, 0};
    if (k == 1) return {kSide - along, along};
    return {0, kSide - along};
}

std::optional<std::vector<std::array<int, 3>>> cutFacet(std::span<const FacetPlace> places,
                                                        std::span<const std::array<int, 2>> lines) {
    Cut cut(places);
    for (int p = 3; p < static_cast<int>(places.size()); ++p)
        if (!cut.insert(p)) return std::nullopt;
    for (const auto& l : lines)
        if (!cut.draw(l[0], l[1])) return std::nullopt;
    cut.evenOut();
    return cut.take();
}

}  // namespace cvane::shape
