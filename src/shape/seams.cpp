#include "shape/seams.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <numeric>
#include <span>
#include <unordered_map>

#include "shape/edges.h"

namespace cvane::shape {

namespace {
// Per facet the first one with the same corners, in whatever order: itself where there is none before it.
std::vector<std::int32_t> firstOfSameCorners(const std::vector<Facet>& facets) {
    std::vector<std::pair<Facet, std::int32_t>> order(facets.size());
    for (std::size_t f = 0; f < facets.size(); ++f) {
        order[f] = {facets[f], static_cast<std::int32_t>(f)};
        std::sort(order[f].first.begin(), order[f].first.end());
    }
    std::sort(order.begin(), order.end());
    std::vector<std::int32_t> first(facets.size());
    for (std::size_t k = 0; k < order.size(); ++k) {
        const bool same = k > 0 && order[k - 1].first == order[k].first;
        first[static_cast<std::size_t>(order[k].second)] =
            same ? first[static_cast<std::size_t>(order[k - 1].second)] : order[k].second;
    }
    return first;
}
}  // namespace

Joined joinedWithin(const Surface& in, double tolerance) {
    using Slot = std::array<std::int64_t, 3>;
    const auto slotOf = [&](const Vec3& p) {
        Slot s{};
        for (int k = 0; k < 3; ++k)
            s[static_cast<std::size_t>(k)] = static_cast<std::int64_t>(std::floor(p[k] / tolerance));
        return s;
    };
    const auto hash = [](const Slot& s) {
        return static_cast<std::size_t>(s[0]) * 73856093u ^ static_cast<std::size_t>(s[1]) * 19349663u ^
               static_cast<std::size_t>(s[2]) * 83492791u;
    };
    std::unordered_map<Slot, std::int32_t, decltype(hash)> pointIn(in.points.size(), hash);
    Joined joined;
    Surface& out = joined.surface;
    out.parts = in.parts;
    std::vector<std::int32_t> now(in.points.size(), -1);
    std::vector<char> open(in.points.size(), 0);
    // A facet and its double are no neighbours of each other.
    Surface once;
    const auto firstBefore = firstOfSameCorners(in.facets);
    for (std::size_t f = 0; f < in.facets.size(); ++f)
        if (firstBefore[f] == static_cast<std::int32_t>(f)) once.facets.push_back(in.facets[f]);
    for (const Edge& e : edgesOf(once))
        if (e.uses.size() == 1) open[static_cast<std::size_t>(e.a)] = open[static_cast<std::size_t>(e.b)] = 1;
    for (std::size_t i = 0; i < in.points.size(); ++i) {
        if (!open[i]) {
            now[i] = static_cast<std::int32_t>(out.points.size());
            out.points.push_back(in.points[i]);
            continue;
        }
        const Slot mine = slotOf(in.points[i]);
        for (int n = 0; n < 27 && now[i] < 0; ++n) {
            const auto it = pointIn.find({mine[0] + n % 3 - 1, mine[1] + n / 3 % 3 - 1, mine[2] + n / 9 - 1});
            if (it != pointIn.end() &&
                (out.points[static_cast<std::size_t>(it->second)] - in.points[i]).norm() <= tolerance)
                now[i] = it->second;
        }
        if (now[i] >= 0) continue;
        now[i] = static_cast<std::int32_t>(out.points.size());
        out.points.push_back(in.points[i]);
        pointIn.try_emplace(mine, now[i]);
    }
    joined.cornersOf.reserve(in.facets.size());
    for (const Facet& f : in.facets)
        joined.cornersOf.push_back({now[static_cast<std::size_t>(f[0])], now[static_cast<std::size_t>(f[1])],
                                    now[static_cast<std::size_t>(f[2])]});
    const auto first = firstOfSameCorners(joined.cornersOf);
    joined.facetOf.assign(in.facets.size(), -1);
    for (std::size_t f = 0; f < in.facets.size(); ++f) {
        const Facet& t = joined.cornersOf[f];
        if (t[0] == t[1] || t[1] == t[2] || t[2] == t[0]) continue;
        if (const auto twin = static_cast<std::size_t>(first[f]); twin != f) {
            joined.facetOf[f] = joined.facetOf[twin];
            continue;
        }
        joined.facetOf[f] = static_cast<std::int32_t>(out.facets.size());
        out.facets.push_back(t);
        out.partOf.push_back(in.partOf[f]);
    }
    return joined;
}

namespace {
// Whether two facets of the same corners run the same way round.
bool sameWay(const Facet& a, const Facet& b) {
    for (std::size_t k = 0; k < 3; ++k)
        if (a[0] == b[k]) return a[1] == b[(k + 1) % 3];
    return false;
}
}  // namespace

std::size_t orientFacets(Surface& s, double tolerance) {
    auto joined = joinedWithin(s, tolerance);
    orientFacets(joined.surface);
    std::size_t turned = 0;
    for (std::size_t f = 0; f < s.facets.size(); ++f) {
        if (joined.facetOf[f] < 0 ||
            sameWay(joined.cornersOf[f], joined.surface.facets[static_cast<std::size_t>(joined.facetOf[f])]))
            continue;
        std::swap(s.facets[f][1], s.facets[f][2]);
        ++turned;
    }
    return turned;
}

namespace {
/// From a point to the next along the rim, as a facet that closes it would run, with the facet on the other side.
using OpenEdges = std::multimap<std::int32_t, std::pair<std::int32_t, std::int32_t>>;

// Of a joined surface, outside the mirror plane.
OpenEdges openEdges(const Surface& s, bool halfModel) {
    const double tiny = 1e-6 * s.bounds().size().maxCoeff();
    const auto inPlane = [&](std::int32_t p) {
        return halfModel && std::abs(s.points[static_cast<std::size_t>(p)].y()) < tiny;
    };
    OpenEdges open;
    for (const Edge& e : edgesOf(s)) {
        if (e.uses.size() != 1 || (inPlane(e.a) && inPlane(e.b))) continue;
        const auto& u = e.uses.front();
        open.insert(u.forward ? std::pair{e.b, std::pair{e.a, u.facet}} : std::pair{e.a, std::pair{e.b, u.facet}});
    }
    return open;
}
}  // namespace

std::vector<ClosedHole> closeHoles(Surface& s, double tolerance, double widest, bool halfModel) {
    const Surface sound = joinedWithin(s, tolerance).surface;
    std::vector<ClosedHole> closed;
    const auto at = [&](std::int32_t p) -> const Vec3& { return sound.points[static_cast<std::size_t>(p)]; };
    const auto close = [&](std::span<const std::int32_t> ring, std::int32_t part) {
        Box box;
        Vec3 middle = Vec3::Zero();
        for (const auto p : ring) {
            box.add(at(p));
            middle += at(p) / static_cast<double>(ring.size());
        }
        if (box.size().norm() > widest) return;
        const auto first = static_cast<std::int32_t>(s.points.size());
        const auto n = static_cast<std::int32_t>(ring.size());
        for (const auto p : ring) s.points.push_back(at(p));
        double area = 0.0;
        const auto add = [&](std::int32_t a, std::int32_t b, std::int32_t c) {
            s.facets.push_back({first + a, first + b, first + c});
            s.partOf.push_back(part);
            area += s.areaVector(s.facets.size() - 1).norm();
        };
        if (n == 3) {
            add(0, 1, 2);  // as it was before it was lost
        } else {
            s.points.push_back(middle);
            for (std::int32_t k = 0; k < n; ++k) add(k, (k + 1) % n, n);
        }
        closed.push_back({middle, std::sqrt(area)});
    };
    // Along open edges; where the way comes back to a point that it has passed, the ring between is one hole. What no
    // way along the facets' sense closes is tried either way: where points of tiny facets were joined, neighbours may
    // disagree.
    std::vector<std::array<std::int32_t, 3>> left;
    const auto trace = [&](OpenEdges edges, bool bothWays) {
        while (!edges.empty()) {
            std::vector<std::int32_t> way{edges.begin()->first}, facets;
            std::map<std::int32_t, std::size_t> passed{{way.front(), 0}};
            for (auto it = edges.begin(); it != edges.end(); it = edges.find(way.back())) {
                const auto from = it->first;
                const auto [to, facet] = it->second;
                edges.erase(it);
                if (bothWays) {
                    const auto [first, last] = edges.equal_range(to);
                    for (auto back = first; back != last; ++back)
                        if (back->second.first == from) {
                            edges.erase(back);
                            break;
                        }
                }
                const auto [was, fresh] = passed.try_emplace(to, way.size());
                facets.push_back(facet);
                if (fresh) {
                    way.push_back(to);
                    continue;
                }
                const std::size_t start = was->second;
                const std::span<const std::int32_t> ring(way.begin() + static_cast<std::ptrdiff_t>(start), way.end());
                if (ring.size() >= 3) close(ring, sound.partOf[static_cast<std::size_t>(facet)]);
                for (const auto p : ring.subspan(1)) passed.erase(p);
                way.resize(start + 1);
                facets.resize(start);
            }
            for (std::size_t k = 0; k < facets.size(); ++k) left.push_back({way[k], way[k + 1], facets[k]});
        }
    };
    trace(openEdges(sound, halfModel), false);
    OpenEdges eitherWay;
    for (const auto& [from, to, facet] : left) {
        eitherWay.insert({from, {to, facet}});
        eitherWay.insert({to, {from, facet}});
    }
    trace(std::move(eitherWay), true);
    std::sort(closed.begin(), closed.end(), [](const ClosedHole& a, const ClosedHole& b) { return a.width > b.width; });
    return closed;
}

bool canHoldAir(const Surface& surface, double tolerance, bool halfModel) {
    constexpr std::size_t kFewest = 8;
    const Surface s = joinedWithin(surface, tolerance).surface;
    const auto open = openEdges(s, halfModel);
    if (open.empty()) return false;
    std::vector<std::size_t> group(s.facets.size());
    std::iota(group.begin(), group.end(), 0u);
    const auto root = [&](std::size_t i) {
        while (group[i] != i) i = group[i] = group[group[i]];
        return i;
    };
    for (const Edge& e : edgesOf(s))
        for (const auto& u : e.uses)
            group[root(static_cast<std::size_t>(u.facet))] = root(static_cast<std::size_t>(e.uses.front().facet));
    std::vector<std::size_t> size(s.facets.size(), 0);
    for (std::size_t f = 0; f < size.size(); ++f) ++size[root(f)];
    return std::any_of(open.begin(), open.end(), [&](const auto& edge) {
        return size[root(static_cast<std::size_t>(edge.second.second))] >= kFewest;
    });
}

}  // namespace cvane::shape
