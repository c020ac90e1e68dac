#include "grid/wall_layers.h"

#include <fmt/format.h>

#include <algorithm>
#include <bit>
#include <cmath>
#include <unordered_map>

#include "base/errors.h"

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
    // 1 + r + .. + r^(n - 1) = gap / first. The sum is convex, so that Newton's steps from a ratio that is too large
    // stay on that side of it.
    double r = n > 1 ? std::pow(gap / first, 1.0 / (n - 1)) : 1.0;
    for (int i = 0; i < 100; ++i) {
        double sum = 0.0, slope = 0.0;
        for (int k = 0; k < n; ++k) {
            slope = slope * r + sum;
            sum = sum * r + 1.0;
        }
        const double step = slope > 0.0 ? (sum - gap / first) / slope : 0.0;
        r -= step;
        if (!(step > 1e-14 * r)) break;
    }
    const double scale = gap / fill(r);
    for (auto& x : h) x *= scale;
    return h;
}

namespace {
void findFewestAtPoints(const Staircase& s, const WallImage& w, Layers& l) {
    l.ofPoint.assign(w.point.size(), static_cast<std::uint8_t>(l.most));
    const auto gap = s.gapFaces();
    for (std::size_t j = 0; j < gap.size(); ++j)
        for (const auto p : gap[j]->points) {
            if (l.ofColumn[j] == 1) continue;  // its one cell does not mind where its neighbours' layers end
            auto& least = l.ofPoint[static_cast<std::size_t>(w.wallOf[static_cast<std::size_t>(p)])];
            least = std::min(least, l.ofColumn[j]);
        }
}
}  // namespace

Layers planLayers(const Staircase& s, const WallImage& w, double first, std::vector<std::uint8_t> ofColumn) {
    Layers l;
    l.first = first;
    l.most = ofColumn.empty() ? 1 : *std::max_element(ofColumn.begin(), ofColumn.end());
    l.evenness.assign(w.point.size(), 0.0);
    l.ofColumn = std::move(ofColumn);
    findFewestAtPoints(s, w, l);
    return l;
}

CellNumbers numberCells(const Staircase& s, const Layers& l) {
    const auto gap = s.gapFaces();
    std::vector<std::vector<std::int32_t>> columnsOf(s.cellSize.size());
    for (std::size_t j = 0; j < gap.size(); ++j)
        columnsOf[static_cast<std::size_t>(gap[j]->owner)].push_back(static_cast<std::int32_t>(j));
    CellNumbers n{std::vector<CellIndex>(columnsOf.size()), std::vector<CellIndex>(gap.size()), 0};
    for (std::size_t c = 0; c < columnsOf.size(); ++c) {
        n.outer[c] = n.count++;
        for (const auto j : columnsOf[c]) {
            n.column[static_cast<std::size_t>(j)] = n.count;
            n.count += l.ofColumn[static_cast<std::size_t>(j)];
        }
    }
    return n;
}

bool thinToOneLayer(const Staircase& s, const WallImage& w, std::span<const CellIndex> cells, Layers& l) {
    const auto firstOf = numberCells(s, l).column;
    bool found = false;
    for (std::size_t j = 0; j < l.ofColumn.size(); ++j) {
        const auto first = std::lower_bound(cells.begin(), cells.end(), firstOf[j]);
        if (l.ofColumn[j] == 1 || first == cells.end() || *first >= firstOf[j] + l.ofColumn[j]) continue;
        l.ofColumn[j] = 1;
        found = true;
    }
    if (found) findFewestAtPoints(s, w, l);
    return found;
}

void cutColumns(std::span<const Vec3> onWall, const WallImage& w, const std::vector<Vec3>& moved, const Layers& layers,
                std::span<Vec3> columns) {
    const auto width = static_cast<std::size_t>(layers.most);
    const auto count = static_cast<std::ptrdiff_t>(w.point.size());
#pragma omp parallel for schedule(dynamic, 1024)
    for (std::ptrdiff_t k = 0; k < count; ++k) {
        const auto i = static_cast<std::size_t>(k);
        const Vec3& top = moved[static_cast<std::size_t>(w.point[i])];
        const Vec3 way = onWall[i] - top;
        const double gap = way.norm();
        const int n = layers.ofPoint[i];
        const auto heights = layerHeights(gap, layers.first, n);
        double left = gap;
        for (int g = 0; g < n; ++g) {
            // Pieces that a column joins are of one height.
            const int from = layers.border(g, n), to = layers.border(g + 1, n);
            const double height = std::lerp(heights[static_cast<std::size_t>(n - 1 - g)], gap / n, layers.evenness[i]);
            for (int j = from + 1; j <= to; ++j) {
                const double away = left - height * (j - from) / (to - from);
                columns[width * i + static_cast<std::size_t>(j) - 1] =
                    j == layers.most || !(gap > 0.0) ? onWall[i] : (onWall[i] - away / gap * way).eval();
            }
            left -= height;
        }
    }
}

Grid addWallLayers(const Staircase& s, const WallImage& w, const std::vector<Vec3>& moved, const Layers& layers,
                   const std::vector<std::string>& parts, const std::function<int(const Vec3&)>& partAt,
                   std::span<const std::uint8_t> levelOfCell) {
    Grid g;
    g.points = moved;
    const int most = layers.most;
    // Column points 1..most behind each wall point; 0 is the staircase point itself.
    const auto base = static_cast<PointIndex>(g.points.size());
    g.points.resize(moved.size() + static_cast<std::size_t>(most) * w.point.size());
    cutColumns(w.onWall, w, moved, layers, std::span<Vec3>(g.points).subspan(moved.size()));
    const auto wallOf = [&](PointIndex p) { return static_cast<std::size_t>(w.wallOf[static_cast<std::size_t>(p)]); };
    const auto column = [&](PointIndex p, int k) {
        return k == 0 ? p : base + static_cast<PointIndex>(wallOf(p)) * most + k - 1;
    };

    const auto gap = s.gapFaces();
    const auto layersOf = [&](std::size_t j) { return static_cast<int>(layers.ofColumn[j]); };
    // Borders of column j as bits, and for each wall point those of all columns around it: the corners that cells have
    // there.
    const auto bordersOf = [&](std::size_t j) {
        std::uint64_t bits = 0;
        for (int i = 0; i <= layersOf(j); ++i) bits |= std::uint64_t{1} << layers.border(i, layersOf(j));
        return bits;
    };
    std::vector<std::uint64_t> borders(gap.size()), corners(w.point.size(), 0);
    for (std::size_t j = 0; j < gap.size(); ++j) {
        borders[j] = bordersOf(j);
        for (const auto p : gap[j]->points) corners[wallOf(p)] |= borders[j];
    }

    const CellNumbers numbers = numberCells(s, layers);
    const auto &number = numbers.outer, &firstOf = numbers.column;
    g.cellCount = numbers.count;
    g.level.resize(static_cast<std::size_t>(g.cellCount));
    g.layer.assign(static_cast<std::size_t>(g.cellCount), 0);
    for (std::size_t c = 0; c < number.size(); ++c) g.level[static_cast<std::size_t>(number[c])] = levelOfCell[c];
    for (std::size_t j = 0; j < gap.size(); ++j)
        for (int k = 0; k < layersOf(j); ++k) {
            const auto cell = static_cast<std::size_t>(firstOf[j] + k);
            g.level[cell] = levelOfCell[static_cast<std::size_t>(gap[j]->owner)];
            g.layer[cell] = static_cast<std::uint8_t>(layersOf(j) - k);
        }

    std::vector<Patch> patches;
    const char* sideNames[6] = {"x-", "x+", "y-", "y+", "z-", "z+"};
    for (std::size_t p = 0; p < parts.size(); ++p)
        patches.push_back({parts[p], PatchKind::Wall, static_cast<int>(p), -1, 0, 0});
    for (int d = 0; d < 6; ++d) patches.push_back({sideNames[d], PatchKind::Side, -1, d, 0, 0});
    const auto sidePatch = [&](int d) { return static_cast<int>(parts.size()) + d; };

    std::vector<FaceDraft> faces;
    faces.reserve(s.faces.size() + gap.size() * static_cast<std::size_t>(most) * 3);
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
    // Between two columns a face wherever one of them has a border; its sides hold the corners of the columns around.
    const auto sideFaces = [&](PointIndex a, PointIndex b, std::int32_t i, std::int32_t j, int patch) {
        const auto one = static_cast<std::size_t>(i), other = static_cast<std::size_t>(j);
        const std::uint64_t here = borders[one], there = j >= 0 ? borders[other] : 0;
        CellIndex own = firstOf[one], next = j >= 0 ? firstOf[other] : 0;
        for (int from = 0; from < most;) {
            int to = from + 1;
            while (!((here | there) >> to & 1)) ++to;
            FaceDraft f;
            f.points.push_back(column(a, from));
            for (int k = from; k <= to; ++k)
                if (k == from || k == to || corners[wallOf(b)] >> k & 1) f.points.push_back(column(b, k));
            for (int k = to; k > from; --k)
                if (k == to || corners[wallOf(a)] >> k & 1) f.points.push_back(column(a, k));
            f.owner = own;
            f.neighbour = j >= 0 ? next : -1;
            f.patch = patch;
            faces.push_back(std::move(f));
            own += here >> to & 1;
            next += there >> to & 1;
            from = to;
        }
    };
    std::vector<int> partOf(gap.size());
    const auto gaps = static_cast<std::ptrdiff_t>(gap.size());
#pragma omp parallel for schedule(dynamic, 256)
    for (std::ptrdiff_t k = 0; k < gaps; ++k) {
        const auto j = static_cast<std::size_t>(k);
        Vec3 mean = Vec3::Zero();
        for (const auto p : gap[j]->points) mean += g.points[static_cast<std::size_t>(column(p, most))];
        partOf[j] = partAt(mean / static_cast<double>(gap[j]->points.size()));
    }
    for (std::size_t j = 0; j < gap.size(); ++j) {
        const FaceDraft& f = *gap[j];
        const int n = layersOf(j);
        for (int k = 0; k <= n; ++k) {
            FaceDraft out;
            for (const auto p : f.points) out.points.push_back(column(p, layers.border(k, n)));
            out.owner = k == 0 ? number[static_cast<std::size_t>(f.owner)] : firstOf[j] + k - 1;
            out.neighbour = k < n ? firstOf[j] + k : -1;
            if (k == n) out.patch = partOf[j];
            faces.push_back(std::move(out));
        }
        for (std::size_t k = 0; k < f.points.size(); ++k) {
            const auto a = f.points[k], b = f.points[(k + 1) % f.points.size()];
            const auto key =
                static_cast<std::uint64_t>(std::min(a, b)) << 32 | static_cast<std::uint32_t>(std::max(a, b));
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
    rims.reserve(waiting.size());
    for (const auto& [key, e] : waiting) rims.push_back(e);
    std::sort(rims.begin(), rims.end(),
              [](const Edge& x, const Edge& y) { return x.a != y.a ? x.a < y.a : x.b < y.b; });
    for (const Edge& e : rims) {
        const unsigned common = s.sidesOf[static_cast<std::size_t>(e.a)] & s.sidesOf[static_cast<std::size_t>(e.b)];
        if (common == 0) {
            const Vec3& x = s.points[static_cast<std::size_t>(e.a)];
            throw base::InputError(
                fmt::format("the wall of the grid has an edge in the air at ({:.4g} {:.4g} {:.4g}) m.", x.x(), x.y(),
                            x.z()),
                "grid", "Raise the budget, or type a finer place there; if it stays, mend the model's surface there.");
        }
        sideFaces(e.a, e.b, e.column, -1, sidePatch(std::countr_zero(common)));
    }
    assemble(g, std::move(faces), std::move(patches));
    return g;
}

}  // namespace cvane::grid
