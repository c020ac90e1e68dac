#include "grid/wall_layers.h"

#include <algorithm>
#include <bit>
#include <cmath>
#include <unordered_map>

namespace cvane::grid {

std::vector<double> layerHeights(double gap, double first, int n) {
    std::vector<double> h(static_cast<std::size_t>(n), gap / n);
    if (first * n >= gap) return h;
    const auto fill = [&](double r) {
        double sum = 0.0, cell = first;
        for (auto& x : h) {
            x = cell;
            sum += cell;
            cell *= r;
        }
        return sum;
    };
    // The sum grows with the ratio, so bisection cannot miss.
    double low = 1.0, high = gap / first;
    for (int i = 0; i < 60; ++i) {
        const double r = 0.5 * (low + high);
        (fill(r) < gap ? low : high) = r;
    }
    const double scale = gap / fill(low);
    for (auto& x : h) x *= scale;
    return h;
}

void cutColumns(std::span<const Vec3> onWall, const WallImage& w, const std::vector<Vec3>& moved, const Layers& layers, std::span<Vec3> columns) {
    const auto n = static_cast<std::size_t>(layers.count);
    const auto count = static_cast<std::ptrdiff_t>(w.point.size());
#pragma omp parallel for schedule(dynamic, 1024)
    for (std::ptrdiff_t k = 0; k < count; ++k) {
        const auto i = static_cast<std::size_t>(k);
        const Vec3& top = moved[static_cast<std::size_t>(w.point[i])];
        const Vec3 way = onWall[i] - top;
        const double gap = way.norm();
        const auto heights = layerHeights(gap, layers.first, layers.count);
        double left = 0.0;
        for (std::size_t j = n - 1; j > 0; --j) {
            left += heights[n - 1 - j];
            columns[n * i + j - 1] = gap > 0.0 ? (onWall[i] - left / gap * way).eval() : onWall[i];
        }
        columns[n * i + n - 1] = onWall[i];
    }
}

Grid addWallLayers(const Staircase& s, const WallImage& w, const std::vector<Vec3>& moved, const Layers& layers,
                   const std::vector<std::string>& parts, const std::function<int(const Vec3&)>& partAt,
                   std::span<const std::uint8_t> levelOfCell) {
    Grid g;
    g.points = moved;
    const auto n = static_cast<std::size_t>(layers.count);
    // Column points 1..n behind each wall point; 0 is the staircase point itself.
    const auto base = static_cast<PointIndex>(g.points.size());
    g.points.resize(moved.size() + n * w.point.size());
    cutColumns(w.onWall, w, moved, layers, std::span<Vec3>(g.points).subspan(moved.size()));
    const auto column = [&](PointIndex p, std::size_t k) {
        return k == 0 ? p : base + w.wallOf[static_cast<std::size_t>(p)] * static_cast<PointIndex>(n) + static_cast<PointIndex>(k) - 1;
    };

    // Layer cells follow the cell that they grew from, so that neighbours stay close in memory.
    const std::size_t outer = s.cellSize.size();
    std::vector<std::vector<std::int32_t>> columnsOf(outer);
    const auto gap = s.gapFaces();
    for (std::size_t j = 0; j < gap.size(); ++j) columnsOf[static_cast<std::size_t>(gap[j]->owner)].push_back(static_cast<std::int32_t>(j));
    std::vector<CellIndex> number(outer);
    std::vector<CellIndex> firstOf(gap.size());
    CellIndex next = 0;
    for (std::size_t c = 0; c < outer; ++c) {
        number[c] = next++;
        g.level.push_back(levelOfCell[c]);
        g.layer.push_back(0);
        for (const auto j : columnsOf[c]) {
            firstOf[static_cast<std::size_t>(j)] = next;
            next += static_cast<CellIndex>(n);
            for (std::size_t k = 0; k < n; ++k) {
                g.level.push_back(levelOfCell[c]);
                g.layer.push_back(static_cast<std::uint8_t>(n - k));
            }
        }
    }
    g.cellCount = next;

    std::vector<Patch> patches;
    const char* sideNames[6] = {"x-", "x+", "y-", "y+", "z-", "z+"};
    for (std::size_t p = 0; p < parts.size(); ++p) patches.push_back({parts[p], PatchKind::Wall, static_cast<int>(p), -1, 0, 0});
    for (int d = 0; d < 6; ++d) patches.push_back({sideNames[d], PatchKind::Side, -1, d, 0, 0});
    const auto sidePatch = [&](int d) { return static_cast<int>(parts.size()) + d; };

    std::vector<FaceDraft> faces;
    faces.reserve(s.faces.size() + gap.size() * n * 3);
    for (const FaceDraft& f : s.faces) {
        if (f.patch == Staircase::kGap) continue;
        FaceDraft out = f;
        out.owner = number[static_cast<std::size_t>(f.owner)];
        out.neighbour = f.neighbour >= 0 ? number[static_cast<std::size_t>(f.neighbour)] : -1;
        out.patch = f.patch >= 0 ? sidePatch(f.patch) : -1;
        faces.push_back(std::move(out));
    }
    struct Edge {
        std::int32_t column = -1;
        PointIndex a = 0, b = 0;
    };
    std::unordered_map<std::uint64_t, Edge> waiting;
    waiting.reserve(2 * gap.size());
    const auto sideFaces = [&](PointIndex a, PointIndex b, std::int32_t i, std::int32_t j, int patch) {
        for (std::size_t k = 0; k < n; ++k) {
            FaceDraft f;
            f.points = {column(a, k), column(b, k), column(b, k + 1), column(a, k + 1)};
            f.owner = firstOf[static_cast<std::size_t>(i)] + static_cast<CellIndex>(k);
            f.neighbour = j >= 0 ? firstOf[static_cast<std::size_t>(j)] + static_cast<CellIndex>(k) : -1;
            f.patch = patch;
            faces.push_back(std::move(f));
        }
    };
    std::vector<int> partOf(gap.size());
    const auto gaps = static_cast<std::ptrdiff_t>(gap.size());
#pragma omp parallel for schedule(dynamic, 256)
    for (std::ptrdiff_t k = 0; k < gaps; ++k) {
        const auto j = static_cast<std::size_t>(k);
        Vec3 mean = Vec3::Zero();
        for (const auto p : gap[j]->points) mean += g.points[static_cast<std::size_t>(column(p, n))];
        partOf[j] = partAt(mean / static_cast<double>(gap[j]->points.size()));
    }
    for (std::size_t j = 0; j < gap.size(); ++j) {
        const FaceDraft& f = *gap[j];
        for (std::size_t k = 0; k <= n; ++k) {
            FaceDraft out;
            for (const auto p : f.points) out.points.push_back(column(p, k));
            out.owner = k == 0 ? number[static_cast<std::size_t>(f.owner)] : firstOf[j] + static_cast<CellIndex>(k) - 1;
            out.neighbour = k < n ? firstOf[j] + static_cast<CellIndex>(k) : -1;
            if (k == n) out.patch = partOf[j];
            faces.push_back(std::move(out));
        }
        for (std::size_t k = 0; k < f.points.size(); ++k) {
            const auto a = f.points[k], b = f.points[(k + 1) % f.points.size()];
            const auto key = static_cast<std::uint64_t>(std::min(a, b)) << 32 | static_cast<std::uint32_t>(std::max(a, b));
            const auto it = waiting.find(key);
            if (it == waiting.end()) {
                waiting[key] = {static_cast<std::int32_t>(j), a, b};
            } else {
                sideFaces(it->second.a, it->second.b, it->second.column, static_cast<std::int32_t>(j), -1);
                waiting.erase(it);
            }
        }
    }
    // Edges with one column only lie in a side of the tunnel. Sorted, because the table's order is not reproducible.
    std::vector<Edge> rims;
    for (const auto& [key, e] : waiting) rims.push_back(e);
    std::sort(rims.begin(), rims.end(), [](const Edge& x, const Edge& y) { return x.a != y.a ? x.a < y.a : x.b < y.b; });
    for (const Edge& e : rims) {
        const unsigned common = s.sidesOf[static_cast<std::size_t>(e.a)] & s.sidesOf[static_cast<std::size_t>(e.b)];
        sideFaces(e.a, e.b, e.column, -1, sidePatch(std::countr_zero(common != 0 ? common : 1u)));
    }
    assemble(g, std::move(faces), std::move(patches));
    return g;
}

}  // namespace cvane::grid
