#include "grid/leaks.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <numeric>

#include "grid/kept_cells.h"

namespace cvane::grid {
namespace {

constexpr double kInside = 0.5, kDeep = 0.85;
constexpr std::size_t kPathCells = 25;  ///< shown on either side of an opening

/// A side between a cell inside and a cell outside, as corners on the finest lattice, right-handed about the way out.
struct Side {
    std::array<std::uint64_t, 4> corner;
    std::int32_t inside, outside;
};

// The lower 21 bits, spread so that two empty ones lie between any two.
std::uint64_t everyThirdBit(std::uint64_t v) {
    v &= 0x1fffff;
    v = (v | v << 32) & 0x1f00000000ffff;
    v = (v | v << 16) & 0x1f0000ff0000ff;
    v = (v | v << 8) & 0x100f00f00f00f00f;
    v = (v | v << 4) & 0x10c30c30c30c30c3;
    return (v | v << 2) & 0x1249249249249249;
}

class Finder {
  public:
    Finder(const Octree& tree, const shape::TriangleTree& surface, const shape::TriangleTree& solid)
        : t_(tree), surface_(surface), solid_(solid) {
        const auto N = static_cast<std::size_t>(tree.nodes());
        order_ = reachedFromInlet(tree, [&](std::int32_t i) { return !tree.node(i).cut; });
        reached_.assign(N, 0);
        for (const auto l : order_) reached_[static_cast<std::size_t>(l)] = 1;
        winding_.assign(N, std::nanf(""));
    }

    Openings find(std::span<const Vec3> before) {
        if (!before.empty() && std::none_of(before.begin(), before.end(), [&](const Vec3& x) { return isReached(x); }))
            return {};
        if (!findInside()) return {};
        // Outside is what the inlet reaches without going through the inside. The rest are bubbles in it, next to
        // facets that are missing or face the wrong way.
        std::vector<char> outside(reached_.size(), 0);
        for (const auto l : reachedFromInlet(
                 t_, [&](std::int32_t i) { return !t_.node(i).cut && !inside_[static_cast<std::size_t>(i)]; }, &from_))
            outside[static_cast<std::size_t>(l)] = 1;
        std::vector<Side> sides;
        for (const auto l : order_)
            if (inside_[static_cast<std::size_t>(l)])
                t_.forEachFaceNeighbour(l, [&](std::int32_t m, int d) {
                    if (outside[static_cast<std::size_t>(m)]) sides.push_back(sideBetween(l, m, d));
                });
        Openings out{openingsOf(sides), {}};
        for (const auto l : order_)
            if (inside_[static_cast<std::size_t>(l)]) out.inside.push_back(centre(l));
        return out;
    }

  private:
    bool isReached(const Vec3& x) const {
        Lattice a{};
        for (std::size_t k = 0; k < 3; ++k) {
            const auto i = static_cast<Eigen::Index>(k);
            a[k] = static_cast<std::int32_t>(std::floor((x[i] - t_.origin()[i]) / t_.cellSize(t_.deepest())[i]));
        }
        const auto l = t_.find(t_.deepest(), a);
        return l >= 0 && reached_[static_cast<std::size_t>(l)];
    }

    double windingAt(std::int32_t l) {
        float& w = winding_[static_cast<std::size_t>(l)];
        if (std::isnan(w)) w = static_cast<float>(solid_.winding(t_.boxOf(t_.node(l)).centre()));
        return w;
    }

    // Air that got in stands next to the walls somewhere; from there the region inside is filled. One cell of those
    // that were split from the same one is asked: its brothers are reached from it.
    bool findInside() {
        std::vector<std::int32_t> near;
        std::vector<char> asked(reached_.size(), 0);
        for (const auto l : order_) {
            char& known = asked[static_cast<std::size_t>(t_.firstBrother(l))];
            if (known) continue;
            bool atWall = false;
            t_.forEachFaceNeighbour(l, [&](std::int32_t m, int) { atWall = atWall || t_.node(m).cut; });
            if (!atWall) continue;
            known = 1;
            near.push_back(l);
        }
        windingsAt(near);
        inside_.assign(reached_.size(), 0);
        std::vector<std::int32_t> open;
        for (const auto l : near)
            if (windingAt(l) > kDeep) {
                inside_[static_cast<std::size_t>(l)] = 1;
                open.push_back(l);
            }
        const bool any = !open.empty();
        asked = inside_;
        while (!open.empty()) {
            std::vector<std::int32_t> next;
            for (const auto l : open)
                t_.forEachFaceNeighbour(l, [&](std::int32_t m, int) {
                    auto& mark = asked[static_cast<std::size_t>(m)];
                    if (mark || !reached_[static_cast<std::size_t>(m)]) return;
                    mark = 1;
                    next.push_back(m);
                });
            windingsAt(next);
            std::erase_if(next, [&](auto m) { return !(windingAt(m) > kInside); });
            for (const auto m : next) inside_[static_cast<std::size_t>(m)] = 1;
            open = std::move(next);
        }
        return any;
    }

    // Where no facet crosses the cell that a cell was split from, the middle of that one speaks for it, if it speaks
    // clearly.
    void windingsAt(const std::vector<std::int32_t>& cells) {
        constexpr float kClear = 0.2f;
        std::vector<std::int32_t> whole, own;
        const auto wholeOf = [&](std::int32_t l) {
            const auto p = t_.parent(l);
            return p >= 0 && !t_.node(p).cut ? p : -1;
        };
        for (const auto l : cells)
            if (const auto p = wholeOf(l); p >= 0 && std::isnan(winding_[static_cast<std::size_t>(p)]))
                whole.push_back(p);
        std::sort(whole.begin(), whole.end());
        whole.erase(std::unique(whole.begin(), whole.end()), whole.end());
        askAt(std::move(whole));
        for (const auto l : cells) {
            const auto p = wholeOf(l);
            const float w = p >= 0 ? winding_[static_cast<std::size_t>(p)] : 0.5f;
            if (std::abs(w - 0.5f) > 0.5f - kClear)
                winding_[static_cast<std::size_t>(l)] = w;
            else
                own.push_back(l);
        }
        askAt(std::move(own));
    }

    // Along Morton's curve, so that those of a group lie together.
    void askAt(std::vector<std::int32_t> cells) {
        constexpr std::size_t kTogether = 64;
        std::vector<std::pair<std::uint64_t, std::int32_t>> order;
        order.reserve(cells.size());
        for (const auto l : cells) {
            const Octree::Node& n = t_.node(l);
            std::uint64_t key = 0;
            for (std::size_t axis = 0; axis < 3; ++axis)
                key |= everyThirdBit(static_cast<std::uint64_t>(n.at[axis]) << (t_.deepest() - n.level)) << axis;
            order.push_back({key, l});
        }
        std::sort(order.begin(), order.end());
        for (std::size_t k = 0; k < cells.size(); ++k) cells[k] = order[k].second;
        const auto groups = static_cast<std::ptrdiff_t>((cells.size() + kTogether - 1) / kTogether);
#pragma omp parallel for schedule(dynamic, 8)
        for (std::ptrdiff_t g = 0; g < groups; ++g) {
            const std::size_t first = static_cast<std::size_t>(g) * kTogether,
                              n = std::min(kTogether, cells.size() - first);
            std::array<Vec3, kTogether> at;
            std::array<double, kTogether> w;
            for (std::size_t k = 0; k < n; ++k) at[k] = centre(cells[first + k]);
            solid_.windings({at.data(), n}, {w.data(), n});
            for (std::size_t k = 0; k < n; ++k)
                winding_[static_cast<std::size_t>(cells[first + k])] = static_cast<float>(w[k]);
        }
    }

    Side sideBetween(std::int32_t in, std::int32_t out, int d) const {
        // The side of the smaller of the two cells; seen from it, the way out is d or its opposite.
        const bool own = t_.node(in).level >= t_.node(out).level;
        const Octree::Node& n = t_.node(own ? in : out);
        const auto axis = static_cast<std::size_t>(d / 2), u = (axis + 1) % 3, v = (axis + 2) % 3;
        const bool up = d % 2 == 1;
        const int shift = t_.deepest() - n.level;
        Side s{{}, in, out};
        for (std::size_t k = 0; k < 4; ++k) {
            Lattice a = n.at;
            a[axis] += up == own ? 1 : 0;
            a[u] += k == 1 || k == 2;
            a[v] += k >= 2;
            for (auto& x : a) x <<= shift;
            s.corner[up ? k : 3 - k] = pack(a);
        }
        return s;
    }

    Vec3 at(std::uint64_t corner) const {
        const Lattice a = unpack(corner);
        return t_.origin() + t_.cellSize(t_.deepest()).cwiseProduct(Vec3(a[0], a[1], a[2]));
    }

    std::vector<Opening> openingsOf(const std::vector<Side>& sides) {
        // Sides that share a corner belong to one opening.
        std::vector<std::size_t> group(sides.size());
        std::iota(group.begin(), group.end(), 0u);
        const auto root = [&](std::size_t i) {
            while (group[i] != i) i = group[i] = group[group[i]];
            return i;
        };
        std::map<std::uint64_t, std::size_t> first;
        for (std::size_t i = 0; i < sides.size(); ++i)
            for (const auto c : sides[i].corner) {
                const auto [it, fresh] = first.try_emplace(c, i);
                if (!fresh) group[root(i)] = root(it->second);
            }
        std::map<std::size_t, std::vector<Side>> byGroup;
        for (std::size_t i = 0; i < sides.size(); ++i) byGroup[root(i)].push_back(sides[i]);
        std::vector<Opening> out;
        out.reserve(byGroup.size());
        for (const auto& [g, own] : byGroup) out.push_back(openingOf(own));
        std::sort(out.begin(), out.end(),
                  [](const Opening& a, const Opening& b) { return a.leak.width > b.leak.width; });
        return out;
    }

    Opening openingOf(const std::vector<Side>& sides) {
        std::map<std::uint64_t, Vec3> place;
        std::map<std::pair<std::uint64_t, std::uint64_t>, int> edges;  // along and against
        for (const Side& s : sides)
            for (std::size_t k = 0; k < 4; ++k) {
                place[s.corner[k]] = at(s.corner[k]);
                ++edges[{s.corner[k], s.corner[(k + 1) % 4]}];
            }
        std::map<std::uint64_t, std::vector<std::uint64_t>> ring;
        std::map<std::uint64_t, bool> rim;
        for (const auto& [e, count] : edges) {
            ring[e.first].push_back(e.second);
            ring[e.second].push_back(e.first);
            if (!edges.contains({e.second, e.first})) rim[e.first] = rim[e.second] = true;
        }
        // The steps of the cells even out; the rim stays, so that no cell beside it comes free.
        for (int sweep = 0; sweep < 10; ++sweep)
            for (auto& [c, x] : place) {
                if (rim.contains(c)) continue;
                Vec3 mean = Vec3::Zero();
                for (const auto n : ring[c]) mean += place[n];
                x = mean / static_cast<double>(ring[c].size());
            }
        Opening o;
        double area = 0.0;
        const auto add = [&](const Vec3& a, const Vec3& b, const Vec3& c) {
            const double s = 0.5 * (b - a).cross(c - a).norm();
            if (!(s > 0.0)) return 0.0;
            o.seal.push_back({a, b, c});
            return s;
        };
        for (const Side& s : sides) {
            const Vec3 &a = place[s.corner[0]], &b = place[s.corner[1]], &c = place[s.corner[2]],
                       &d = place[s.corner[3]];
            const double here = add(a, b, c) + add(a, c, d);
            o.leak.place += here * 0.25 * (a + b + c + d);
            area += here;
        }
        o.leak.place /= area;
        // From the rim on to the model, so that nothing is left open between them at smaller cells.
        const double reach = 2.0 * t_.cellSize(t_.deepest()).maxCoeff();
        for (const auto& [e, count] : edges) {
            if (edges.contains({e.second, e.first})) continue;
            const Vec3 &a = place[e.first], &b = place[e.second];
            const auto onA = surface_.nearest(a, reach), onB = surface_.nearest(b, reach);
            if (onA.facet < 0 || onB.facet < 0) continue;
            area += add(b, a, onA.point);
            area += add(b, onA.point, onB.point);
        }
        o.leak.width = std::sqrt(area);
        const auto nearest = *std::min_element(sides.begin(), sides.end(), [&](const Side& x, const Side& y) {
            return (centre(x.outside) - o.leak.place).squaredNorm() < (centre(y.outside) - o.leak.place).squaredNorm();
        });
        o.leak.path = pathThrough(nearest, o.leak.place);
        return o;
    }

    Vec3 centre(std::int32_t l) const {
        return t_.boxOf(t_.node(l)).centre();
    }

    std::vector<Vec3> pathThrough(const Side& side, const Vec3& opening) {
        std::vector<Vec3> path;
        // Outwards while the cells are small: as far as the opening is seen from.
        const int least = t_.node(side.outside).level - 2;
        for (auto l = side.outside; l >= 0 && path.size() < kPathCells && t_.node(l).level >= least;
             l = from_[static_cast<std::size_t>(l)])
            path.push_back(centre(l));
        std::reverse(path.begin(), path.end());
        path.push_back(opening);
        // Inwards to where the surface closes most.
        std::int32_t l = side.inside;
        for (std::size_t k = 0; k < kPathCells; ++k) {
            path.push_back(centre(l));
            std::int32_t best = l;
            t_.forEachFaceNeighbour(l, [&](std::int32_t m, int) {
                if (inside_[static_cast<std::size_t>(m)] && windingAt(m) > windingAt(best)) best = m;
            });
            if (best == l) break;
            l = best;
        }
        return path;
    }

    const Octree& t_;
    const shape::TriangleTree &surface_, &solid_;
    std::vector<std::int32_t> order_, from_;
    std::vector<char> reached_, inside_;
    std::vector<float> winding_;  ///< per node, where asked for
};

}  // namespace

Openings findOpenings(const Octree& tree, const shape::TriangleTree& surface, const shape::TriangleTree& solid,
                      std::span<const Vec3> before) {
    return Finder(tree, surface, solid).find(before);
}

}  // namespace cvane::grid
