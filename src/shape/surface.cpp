#include "shape/surface.h"

#include <fmt/format.h>

#include <algorithm>
#include <cstring>
#include <map>
#include <numeric>
#include <unordered_map>

#include "shape/edges.h"

namespace cvane::shape {

Box Surface::bounds() const {
    Box box;
    for (const Facet& f : facets)
        for (const auto p : f) box.add(points[static_cast<std::size_t>(p)]);
    return box;
}

Vec3 Surface::areaVector(std::size_t f) const {
    const Vec3 a = corner(f, 0);
    return 0.5 * (corner(f, 1) - a).cross(corner(f, 2) - a);
}

double Surface::area() const {
    double sum = 0.0;
    for (std::size_t f = 0; f < facets.size(); ++f) sum += areaVector(f).norm();
    return sum;
}

double Surface::volume() const {
    // V = 1/3 sum x . S, taken about the box centre so that rounding does not grow with the distance to the origin.
    const Vec3 o = bounds().centre();
    double sum = 0.0;
    for (std::size_t f = 0; f < facets.size(); ++f) sum += (corner(f, 0) - o).dot(areaVector(f)) / 3.0;
    return sum;
}

Surface withoutHiddenParts(const Surface& s) {
    Surface out{s.points, {}, {}, s.parts};
    for (std::size_t f = 0; f < s.facets.size(); ++f)
        if (s.parts[static_cast<std::size_t>(s.partOf[f])].inTheAir) {
            out.facets.push_back(s.facets[f]);
            out.partOf.push_back(s.partOf[f]);
        }
    return out;
}

namespace {
struct PointBits {
    std::uint64_t x, y, z;
    bool operator==(const PointBits&) const = default;
};
struct PointHash {
    std::size_t operator()(const PointBits& b) const {
        std::uint64_t h = b.x * 0x9E3779B97F4A7C15ull ^ (b.y + 0x7F4A7C15ull) * 0xC2B2AE3D27D4EB4Full;
        h ^= (b.z + 0x165667B1ull) * 0x9FB21C651E98DF25ull;
        return h ^ (h >> 29);
    }
};
PointBits bitsOf(const Vec3& p) {
    // Adding zero makes -0 and +0 the same point.
    const double v[3] = {p.x() + 0.0, p.y() + 0.0, p.z() + 0.0};
    PointBits b;
    std::memcpy(&b, v, sizeof b);
    return b;
}
}  // namespace

bool shareCorner(const Facet& a, const Facet& b) {
    return std::any_of(a.begin(), a.end(), [&](auto p) { return std::find(b.begin(), b.end(), p) != b.end(); });
}

void weld(Surface& s) {
    std::unordered_map<PointBits, std::int32_t, PointHash> seen;
    seen.reserve(s.points.size());
    std::vector<std::int32_t> now(s.points.size());
    std::vector<Vec3> kept;
    kept.reserve(s.points.size() / 4);
    for (std::size_t i = 0; i < s.points.size(); ++i) {
        const auto [it, fresh] = seen.try_emplace(bitsOf(s.points[i]), static_cast<std::int32_t>(kept.size()));
        if (fresh) kept.push_back(s.points[i]);
        now[i] = it->second;
    }
    for (Facet& f : s.facets)
        for (auto& p : f) p = now[static_cast<std::size_t>(p)];
    s.points = std::move(kept);
}

void splitByConnection(Surface& s) {
    std::vector<std::int32_t> root(s.points.size());
    std::iota(root.begin(), root.end(), 0);
    const auto find = [&](std::int32_t i) {
        while (root[static_cast<std::size_t>(i)] != i)
            i = root[static_cast<std::size_t>(i)] = root[static_cast<std::size_t>(root[static_cast<std::size_t>(i)])];
        return i;
    };
    for (const Facet& f : s.facets) {
        root[static_cast<std::size_t>(find(f[1]))] = find(f[0]);
        root[static_cast<std::size_t>(find(f[2]))] = find(f[0]);
    }
    std::map<std::int32_t, std::size_t> count;
    for (const Facet& f : s.facets) ++count[find(f[0])];
    std::vector<std::pair<std::size_t, std::int32_t>> bySize;
    bySize.reserve(count.size());
    for (const auto& [r, n] : count) bySize.push_back({n, r});
    std::sort(bySize.begin(), bySize.end(),
              [](auto a, auto b) { return a.first != b.first ? a.first > b.first : a.second < b.second; });
    // An export whose seams do not meet falls into thousands of crumbs, which nobody wants to see one by one.
    constexpr std::size_t kCrumb = 12;
    std::map<std::int32_t, std::int32_t> partOfRoot;
    s.parts.clear();
    for (const auto& [n, r] : bySize) {
        if (n >= kCrumb || bySize.size() <= kCrumb) {
            s.parts.push_back({bySize.size() == 1 ? "model" : fmt::format("piece {}", s.parts.size() + 1), true});
        } else if (partOfRoot.empty() || s.parts.back().name != "small pieces") {
            s.parts.push_back({"small pieces", true});
        }
        partOfRoot[r] = static_cast<std::int32_t>(s.parts.size()) - 1;
    }
    s.partOf.resize(s.facets.size());
    for (std::size_t f = 0; f < s.facets.size(); ++f) s.partOf[f] = partOfRoot[find(s.facets[f][0])];
}

std::size_t orientFacets(Surface& s) {
    const auto edges = edgesOf(s);
    std::vector<std::vector<std::size_t>> edgesAt(s.facets.size());
    for (std::size_t e = 0; e < edges.size(); ++e)
        if (edges[e].uses.size() == 2)
            for (const auto& u : edges[e].uses) edgesAt[static_cast<std::size_t>(u.facet)].push_back(e);
    std::size_t turned = 0;
    std::vector<signed char> turn(s.facets.size(), 0);  // 0 not seen, 1 as it is, -1 turned
    std::vector<std::size_t> piece;
    for (std::size_t seed = 0; seed < s.facets.size(); ++seed) {
        if (turn[seed] != 0) continue;
        piece.assign(1, seed);
        turn[seed] = 1;
        for (std::size_t i = 0; i < piece.size(); ++i)
            for (const std::size_t e : edgesAt[piece[i]]) {
                const auto& u = edges[e].uses;
                const bool first = u[0].facet == static_cast<std::int32_t>(piece[i]);
                const auto other = static_cast<std::size_t>(u[first ? 1 : 0].facet);
                if (turn[other] != 0) continue;
                // Two facets agree when they run along their common edge in opposite directions.
                const bool agree = u[0].forward != u[1].forward;
                turn[other] = agree ? turn[piece[i]] : static_cast<signed char>(-turn[piece[i]]);
                piece.push_back(other);
            }
        Box box;
        for (const std::size_t f : piece) box.add(s.corner(f, 0));
        double volume = 0.0, scale = 0.0;
        for (const std::size_t f : piece) {
            const double v = (s.corner(f, 0) - box.centre()).dot(s.areaVector(f));
            volume += turn[f] * v;
            scale += std::abs(v);
        }
        const bool insideOut = volume < -1e-6 * scale;
        for (const std::size_t f : piece) {
            if (insideOut) turn[f] = static_cast<signed char>(-turn[f]);
            if (turn[f] < 0) {
                std::swap(s.facets[f][1], s.facets[f][2]);
                ++turned;
            }
        }
    }
    return turned;
}

}  // namespace cvane::shape
