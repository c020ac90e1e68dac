#include "grid/structured.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/errors.h"
#include "grid/wall_layers.h"
#include "shape/triangle_tree.h"

namespace cvane::grid {
namespace {

Patch tunnelSide(int side) {
    static const char* const names[6] = {"x-", "x+", "y-", "y+", "z-", "z+"};
    return {names[side], PatchKind::Side, -1, side, 0, 0};
}
Patch wallNamed(const std::string& name, int part) {
    return {name, PatchKind::Wall, part, -1, 0, 0};
}

}  // namespace

void measureWallDistance(Grid& g) {
    std::vector<std::array<Vec3, 3>> walls;
    for (const Patch& p : g.patches) {
        if (p.kind != PatchKind::Wall) continue;
        for (FaceIndex f = p.first; f < p.first + p.count; ++f) {
            const auto q = g.polygon(f);
            const auto at = [&](std::size_t i) { return g.points[static_cast<std::size_t>(q[i])]; };
            for (std::size_t i = 2; i < q.size(); ++i) walls.push_back({at(0), at(i - 1), at(i)});
        }
    }
    g.wallDistance.assign(static_cast<std::size_t>(g.cells()), 1e30);
    if (walls.empty()) return;
    const auto centre = geometryOf(g).cellCentre;
    const shape::TriangleTree tree(std::move(walls));
    for (std::size_t c = 0; c < centre.size(); ++c)
        g.wallDistance[c] = std::max(tree.nearest(centre[c]).distance, 1e-12);
}

std::vector<double> evenLine(double from, double to, int n) {
    std::vector<double> x;
    for (int i = 0; i <= n; ++i) x.push_back(from + (to - from) * i / n);
    return x;
}

std::vector<double> gradedLine(double from, double to, int n, double first) {
    std::vector<double> x{from};
    const double way = to > from ? 1.0 : -1.0;
    for (const double h : layerHeights(std::abs(to - from), first, n)) x.push_back(x.back() + way * h);
    x.back() = to;
    return x;
}

std::vector<double> gradedLineBothEnds(double from, double to, int n, double first) {
    const double middle = 0.5 * (from + to);
    auto back = gradedLine(to, middle, n / 2, first);
    std::reverse(back.begin(), back.end());
    return joinedLines({gradedLine(from, middle, n / 2, first), back});
}

std::vector<double> joinedLines(const std::vector<std::vector<double>>& lines) {
    std::vector<double> out;
    for (const auto& l : lines) out.insert(out.end(), l.begin() + (out.empty() ? 0 : 1), l.end());
    return out;
}

Grid blockGrid(const Block& b) {
    const int ni = b.cells[0], nj = b.cells[1], nk = b.cells[2];
    if (ni < (b.ring ? 3 : 1) || nj < 1 || nk < 1)
        throw base::InputError(fmt::format("a block of {} x {} x {} cells cannot be made.", ni, nj, nk), "grid",
                               "Ask for one cell on each axis, three around a ring.");
    const int pi = b.ring ? ni : ni + 1;  // points along i
    const auto point = [&](int i, int j, int k) { return static_cast<PointIndex>((i % pi) + pi * (j + (nj + 1) * k)); };
    const auto cell = [&](int i, int j, int k) { return static_cast<CellIndex>((i + ni) % ni + ni * (j + nj * k)); };
    Grid g;
    for (int k = 0; k <= nk; ++k)
        for (int j = 0; j <= nj; ++j)
            for (int i = 0; i < pi; ++i) g.points.push_back(b.place(i, j, k));
    g.cellCount = ni * nj * nk;
    g.level.assign(static_cast<std::size_t>(g.cellCount), 0);
    g.layer.assign(static_cast<std::size_t>(g.cellCount), 0);

    std::vector<Patch> patches;
    std::vector<FaceDraft> faces;
    const auto add = [&](const std::array<PointIndex, 4>& q, CellIndex below, CellIndex above, int side) {
        FaceDraft f{{q.begin(), q.end()}, below, above, -1};
        if (side >= 0) {
            Vec3 middle = Vec3::Zero();
            for (const auto p : f.points) middle += 0.25 * g.points[static_cast<std::size_t>(p)];
            const Patch wanted = b.patch(side, middle);
            const auto it =
                std::find_if(patches.begin(), patches.end(), [&](const Patch& p) { return p.name == wanted.name; });
            f.patch = static_cast<int>(it - patches.begin());
            if (it == patches.end()) patches.push_back(wanted);
            if (side % 2 == 0) {  // the cell lies above its face: turn it outwards
                std::reverse(f.points.begin(), f.points.end());
                f.owner = above;
            }
            f.neighbour = -1;
        }
        faces.push_back(std::move(f));
    };
    const auto sideOf = [](int at, int n, int axis) { return at == 0 ? 2 * axis : at == n ? 2 * axis + 1 : -1; };
    for (int k = 0; k < nk; ++k)
        for (int j = 0; j < nj; ++j)
            for (int i = 0; i < pi; ++i)
                add({point(i, j, k), point(i, j + 1, k), point(i, j + 1, k + 1), point(i, j, k + 1)}, cell(i - 1, j, k),
                    cell(i, j, k), b.ring ? -1 : sideOf(i, ni, 0));
    for (int k = 0; k < nk; ++k)
        for (int j = 0; j <= nj; ++j)
            for (int i = 0; i < ni; ++i)
                add({point(i, j, k), point(i, j, k + 1), point(i + 1, j, k + 1), point(i + 1, j, k)}, cell(i, j - 1, k),
                    cell(i, j, k), sideOf(j, nj, 1));
    for (int k = 0; k <= nk; ++k)
        for (int j = 0; j < nj; ++j)
            for (int i = 0; i < ni; ++i)
                add({point(i, j, k), point(i + 1, j, k), point(i + 1, j + 1, k), point(i, j + 1, k)}, cell(i, j, k - 1),
                    cell(i, j, k), sideOf(k, nk, 2));
    assemble(g, std::move(faces), std::move(patches));
    const auto geo = geometryOf(g);
    for (std::size_t c = 0; c < geo.volume.size(); ++c)
        if (!(geo.volume[c] > 0.0))
            throw base::InputError(fmt::format("cell {} of the block is folded.", c), "grid",
                                   "Give places whose i, j, k turn right-handed.");
    measureWallDistance(g);
    return g;
}

Grid boxGrid(const std::vector<double>& x, const std::vector<double>& y, const std::vector<double>& z,
             const std::vector<int>& walls) {
    Block b;
    b.cells = {static_cast<int>(x.size()) - 1, static_cast<int>(y.size()) - 1, static_cast<int>(z.size()) - 1};
    b.place = [&](int i, int j, int k) {
        return Vec3(x[static_cast<std::size_t>(i)], y[static_cast<std::size_t>(j)], z[static_cast<std::size_t>(k)]);
    };
    b.patch = [&](int side, const Vec3&) {
        const Patch p = tunnelSide(side);
        return std::find(walls.begin(), walls.end(), side) == walls.end() ? p : wallNamed(p.name, side);
    };
    return blockGrid(b);
}

Grid plateGrid(const PlateGrid& s) {
    auto ahead = gradedLine(0.0, -s.upstream, s.ahead, s.firstAlong);
    std::reverse(ahead.begin(), ahead.end());
    const auto x = joinedLines({ahead, gradedLine(0.0, s.length, s.along, s.firstAlong)});
    const auto z = gradedLine(0.0, s.height, s.across, s.firstHeight);
    Block b;
    b.cells = {static_cast<int>(x.size()) - 1, 1, s.across};
    b.place = [&](int i, int j, int k) {
        return Vec3(x[static_cast<std::size_t>(i)], j, z[static_cast<std::size_t>(k)]);
    };
    b.patch = [](int side, const Vec3& middle) {
        return side == 4 && middle.x() > 0.0 ? wallNamed("plate", 0) : tunnelSide(side);
    };
    return blockGrid(b);
}

Grid cylinderGrid(const CylinderGrid& s) {
    const auto r = gradedLine(s.radius, s.rim, s.across, s.firstHeight);
    const double pi = std::acos(-1.0);
    Block b;
    b.ring = true;
    b.cells = {s.around, 1, s.across};
    b.place = [&](int i, int j, int k) {
        const double t =
            2.0 * pi * i / s.around;  // from the front stagnation line over the top: i, y and outwards are right-handed
        return Vec3(-r[static_cast<std::size_t>(k)] * std::cos(t), j, r[static_cast<std::size_t>(k)] * std::sin(t));
    };
    b.patch = [](int side, const Vec3& middle) {
        if (side == 4) return wallNamed("cylinder", 0);
        return side == 5 ? tunnelSide(middle.x() < 0.0 ? 0 : 1) : tunnelSide(side);
    };
    return blockGrid(b);
}

}  // namespace cvane::grid
