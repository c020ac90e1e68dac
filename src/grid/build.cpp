#include "grid/build.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <array>
#include <cmath>
#include <optional>
#include <span>

#include "base/units.h"
#include "grid/curve_paths.h"
#include "grid/kept_cells.h"
#include "grid/memory.h"
#include "grid/octree.h"
#include "grid/quality.h"
#include "grid/sealed_model.h"
#include "grid/shape_cells.h"
#include "grid/staircase.h"
#include "grid/wall_layers.h"
#include "grid/wall_projection.h"
#include "shape/feature_curves.h"
#include "shape/seams.h"
#include "shape/triangle.h"
#include "shape/triangle_tree.h"

namespace cvane::grid {
namespace {

constexpr double kClearance = 0.35;  ///< of a cell, between the staircase and the model
// Thickness of the wall layers together, in cells: more than the mean distance of a staircase with that clearance, so that the
// outer cells next to them are the smaller for it and there is room for layers that grow slowly. Larkspur's CD on 208,000,
// 250,000 and a million cells: 0.0625, 0.0605 at 1.1 and 0.0646, 0.0642 at 1.5 against 0.0608 on the million.
constexpr double kGap = 1.3;
constexpr double kLastLayer = 0.5;  ///< least height of the last layer, in outer cells: their volume ratio stays below 3
constexpr int kMostLayers = 40;
// Facets that do not quite meet are neighbours within this share of the model's longest side: facets that face the wrong way would
// look like sharp edges, and leave the air's way into the model in doubt.
constexpr double kSeam = 1e-4;
constexpr double kSealShare = 0.03;  ///< of the model's longest side: wider openings are taken for meant
// Cells are opened until they are a little inside the limits of quality.h.
constexpr double kAimAngle = kMostNonOrthogonality_deg - 1.0, kAimSkewness = 0.95 * kMostSkewness;
constexpr double kFits = 0.99;       ///< of the wall's points on the model: not a grid that is too coarse for it anyway
constexpr double kMostLetGo = 1e-3;  ///< of the wall's points, for the sake of faces that are oblique within the limit
constexpr int kMostRounds = 14;
constexpr int kQuickTries = 3;
constexpr double kFirstTry = 0.3;     ///< of the budget at most: the first try for the cell size is to be a quick one
constexpr double kNearBudget = 0.048;  ///< of the logarithm of the cells: 5 % are promised

using LayersByLevel = std::array<std::uint8_t, 32>;

struct Draft {
    Octree tree;
    KeptCells kept;
    std::optional<std::vector<Leak>> leaks;  ///< that stay open; empty while closing some has left others to look for
    std::size_t cells;
    double size;   ///< cell size on the model [m]
    LayersByLevel layers;
    double first;  ///< wall layer height asked for [m]
};

void check(const GridSettings& s, const shape::Surface& surface) {
    const auto fail = [](std::string what, std::string todo) { throw base::InputError(std::move(what), "grid", std::move(todo)); };
    if (s.cellBudget < 2000) fail(fmt::format("a budget of {} cells cannot hold a model.", s.cellBudget), "Type at least 2000 cells.");
    // grid_bench shows a peak of 1.0 kB a cell in the builder; writing the file and the solver come on top.
    const double need = 2.5e3 * s.cellBudget, have = static_cast<double>(availableMemory());
    if (need > have)
        fail(fmt::format("{} cells need about {:.1f} GB of memory, and {:.1f} GB are free.", s.cellBudget, need / 1e9, have / 1e9),
             fmt::format("Type at most {} cells.", static_cast<long>(have / 2.5e3 / 1000) * 1000));
    if (s.layers < 0 || s.layers > kMostLayers)
        fail(fmt::format("{} wall layers cannot be made.", s.layers), fmt::format("Type 1 to {}, or 0 for as many as the growth asks for.", kMostLayers));
    if (!(s.layerGrowth >= 1.05 && s.layerGrowth <= 3.0)) fail("the growth of the wall layers is out of range.", "Type 1.05 to 3.");
    if (!(s.firstHeight >= 0.0) || !std::isfinite(s.firstHeight)) fail("the first wall height is not a length.", "Type a length in metres, or 0.");
    if (s.curvatureLevels < 0 || s.curvatureLevels > 6) fail("the curvature levels are out of range.", "Type 0 to 6.");
    for (const FinerPlace& p : s.finerPlaces) {
        if (!(p.cell > 0.0) || !p.from.allFinite() || !p.to.allFinite()) fail("a finer place has no cell size, or a corner that is not a number.", "Type lengths in metres.");
        if (p.shape != FinerPlace::Shape::Box && !(p.radius > 0.0)) fail("a finer place has no radius.", "Type a length in metres.");
    }
    for (const auto& [name, levels] : s.finerParts) {
        if (levels < 0 || levels > 6) fail(fmt::format("the part {} cannot be {} levels finer.", name, levels), "Type 0 to 6.");
        if (std::none_of(surface.parts.begin(), surface.parts.end(), [&wanted = name](const auto& p) { return p.name == wanted; }))
            fail(fmt::format("no part is named {}.", name), "Name a part of the model, or take the line out.");
    }
    if (!(s.sealWidth >= 0.0) || !std::isfinite(s.sealWidth)) fail("the width up to which leaks are closed is not a length.", "Type a length in metres, or 0.");
    if (s.bufferCells < 1 || s.bufferCells > 12) fail("the buffer cells are out of range.", "Type 1 to 12.");
    if (!(s.turnAngle_deg >= 2.0 && s.turnAngle_deg <= 90.0)) fail("the turn angle is out of range.", "Type 2 to 90 degrees.");
    if (!(s.sharpAngle_deg >= 5.0 && s.sharpAngle_deg <= 180.0)) fail("the angle of sharp edges is out of range.", "Type 5 to 180 degrees.");
    if (s.gapLevels < 0 || s.gapLevels > 6) fail("the levels for gaps are out of range.", "Type 0 to 6.");
    if (!(s.stretch.minCoeff() >= 1.0 && s.stretch.maxCoeff() <= kMostStretch)) fail("cells cannot be stretched so.", fmt::format("Type factors from 1 to {}.", kMostStretch));
    if (!(s.wakeAlong.x() > 0.3 && s.wakeAlong.norm() < 1.01)) fail("the wake's direction does not lead downstream.", "Type angles from -60 to 60 degrees.");
    if (!(s.wakeLength >= 0.0 && s.wakeLength <= 100.0)) fail("the wake length is out of range.", "Type 0 to 100 body lengths.");
}

// The box, shifted along a line by up to `along`, comes over the cell.
bool sweptOver(const Box& box, const Vec3& along, const Box& cell) {
    double from = 0.0, to = 1.0;
    for (int k = 0; k < 3; ++k) {
        const double low = cell.low[k] - box.high[k], high = cell.high[k] - box.low[k];
        if (std::abs(along[k]) < 1e-12 * along.norm()) {
            if (low > 0.0 || high < 0.0) return false;
            continue;
        }
        from = std::max(from, std::min(low / along[k], high / along[k]));
        to = std::min(to, std::max(low / along[k], high / along[k]));
    }
    return from <= to;
}

// By level of the cells on the wall, as many layers as lead from the first height to the outer cells by the asked growth; fewer
// where more would leave the first cell without its height, or the last one small.
LayersByLevel layersFor(const GridSettings& s, const Octree& tree, double first) {
    LayersByLevel out{};
    for (std::size_t l = 0; l < out.size(); ++l) {
        const double h = tree.cellSize(static_cast<int>(l)).minCoeff(), gap = kGap * h;
        int n = 2;
        for (; n < kMostLayers; ++n) {
            const auto more = layerHeights(gap, first, n + 1);
            if (more[1] < s.layerGrowth * more[0] || more.back() < kLastLayer * h) break;
        }
        out[l] = static_cast<std::uint8_t>(s.layers > 0 ? s.layers : n);
    }
    return out;
}

// Octree with this cell size on the model, its cells not yet chosen. The box grows to whole root cells, except at the ground and
// the mirror plane.
// @param mostCells  nothing beyond about so many
std::optional<Draft> outlineOf(const SealedModel& solid, const Box& model, const Box& box, const Tunnel& tunnel,
                               const GridSettings& s, double size, double mostCells) {
    double rootAim = box.size().maxCoeff() / 14.0;
    // Between two walls that stay, a whole number of cells must fit: with eight of the coarsest none is off by more than 6 %.
    for (int k = 0; k < 3; ++k)
        if (model.low[k] < box.low[k] && model.high[k] > box.high[k]) rootAim = std::min(rootAim, box.size()[k] / 8.0);
    const int level = std::clamp(static_cast<int>(std::lround(std::log2(rootAim / size))), 1, 16);
    const Vec3 root = size * std::pow(2.0, level) * s.stretch;
    Lattice roots;
    Box grown = box;
    for (int k = 0; k < 3; ++k) {
        // Sides that hold the ground, the mirror plane or a wall that the model reaches through stay where they are.
        const bool lowFixed = (k == 1 && tunnel.halfModel) || (k == 2 && tunnel.floor != Floor::None) || model.low[k] < box.low[k];
        const bool highFixed = model.high[k] > box.high[k];
        const double whole = box.size()[k] / root[k];
        // Between two such sides the cells give way instead.
        const auto n = std::max(1, static_cast<int>(lowFixed && highFixed ? std::lround(whole) : std::ceil(whole - 1e-6)));
        roots[static_cast<std::size_t>(k)] = n;
        const double extra = lowFixed && highFixed ? 0.0 : n * root[k] - box.size()[k];
        if (!lowFixed) grown.low[k] -= highFixed ? extra : 0.5 * extra;
        if (!highFixed) grown.high[k] += lowFixed ? extra : 0.5 * extra;
    }
    if (static_cast<double>(roots[0]) * roots[1] * roots[2] > 2e6) return std::nullopt;
    Sizing sizing;
    sizing.surfaceLevel = level;
    sizing.extraLevels = s.curvatureLevels;
    sizing.turnAngle = s.turnAngle_deg * base::degree;
    sizing.gapLevels = s.gapLevels;
    if (tunnel.floor != Floor::None) sizing.planes.push_back({2, box.low.z()});
    sizing.bufferCells = s.bufferCells;
    sizing.mostNodes = static_cast<std::size_t>(mostCells) + 100000;
    if (s.wakeLength > 0.0) {
        const double L = model.size().maxCoeff();
        for (int k = 1; k <= 2; ++k) {
            const Vec3 along = k * s.wakeLength * L * s.wakeAlong;
            sizing.regions.push_back({[model, along](const Box& cell) { return sweptOver(model, along, cell); }, std::max(0, level - 1 - k)});
        }
    }
    for (const FinerPlace& place : s.finerPlaces)
        sizing.regions.push_back({[&place](const Box& cell) { return place.meets(cell); }, std::clamp(static_cast<int>(std::ceil(std::log2(root.minCoeff() / place.cell) - 1e-9)), 0, 18)});
    if (!s.finerParts.empty())
        for (const auto& part : solid.surface().parts) {
            const auto it = s.finerParts.find(part.name);
            sizing.moreOnPart.push_back(it != s.finerParts.end() ? it->second : 0);
        }
    Draft d{Octree(grown, roots, solid.tree()), {}, std::nullopt, 0, size, {}, s.firstHeight > 0.0 ? s.firstHeight : 0.05 * size};
    if (!refine(d.tree, solid.surface(), sizing)) return std::nullopt;
    return d;
}

// Chooses the cells of an outline and counts them with their layers.
void fill(Draft& d, const SealedModel& solid, const GridSettings& s) {
    d.kept = keepCells(d.tree, solid.tree(), kClearance);
    d.layers = layersFor(s, d.tree, d.first);
    d.cells = d.kept.leaves.size();
    for (std::size_t l = 0; l < d.layers.size(); ++l) d.cells += d.kept.gapFacesOfLevel[l] * d.layers[l];
}

// The number of cells falls steadily with their size; a secant in logarithms lands within 5 % in a few tries. The level
// steps make the curve jump, so brackets guard it and the nearest try is kept. Choosing the cells takes longer than refining, and
// looking for leaks longer than both: far from the budget the octree's leaves alone tell how far, by the cells that a leaf was
// good for in a counted try of like size.
Draft draftNearBudget(SealedModel& solid, const Box& model, const Box& box, const Tunnel& tunnel, const GridSettings& s, const base::Progress& progress) {
    const double budget = s.cellBudget;
    const auto miss = [&](double n) { return std::abs(std::log(n / budget)); };
    const auto draftOf = [&](double size) {
        auto d = outlineOf(solid, model, box, tunnel, s, size, 4.0 * budget);
        if (d) fill(*d, solid, s);
        return d;
    };
    // The first try is coarse, to learn cheaply what the model asks for and where it leaks.
    double size = 3.5 * std::sqrt(solid.surface().area() * 17.0 / budget);
    size = std::clamp(size, model.size().maxCoeff() / 4000.0, model.size().maxCoeff() / 3.0);
    std::optional<Draft> best;
    double cellsOfALeaf = 0.0, countedSize = 0.0, nearestSize = 0.0, nearestMiss = 1e300;
    constexpr double kAlike = 1.5, kLookForLeaks = 0.3;
    double tooSmall = 0.0, tooLarge = 1e300, slope = -1.75, lastSize = 0.0, lastCells = 0.0;
    for (int attempt = 0; attempt < 12; ++attempt) {
        base::report(progress, std::min(0.02 + 0.07 * attempt, 0.28), "finding the cell size for the budget");
        const bool first = countedSize == 0.0;
        // Places with cells of their own may ask for more than that at any size: then the first try is as large as the others.
        const bool quick = first && attempt < kQuickTries;
        auto d = outlineOf(solid, model, box, tunnel, s, size, (quick ? kFirstTry : 4.0) * budget);
        if (quick && !d) {
            size *= 1.8;  // too fine for a first try, which says nothing of what is too fine
            continue;
        }
        double cells = d ? cellsOfALeaf * static_cast<double>(d->tree.leaves()) : 4.0 * budget;
        const bool counted = d && (std::max(size / countedSize, countedSize / size) > kAlike || miss(cells) < 2.0 * kNearBudget);
        if (counted) {
            fill(*d, solid, s);
            // What leaks let in counts too, so closing them makes all earlier counts void.
            if (first || miss(static_cast<double>(d->cells)) < kLookForLeaks) {
                if (solid.closeLeaks(d->tree)) {
                    d = draftOf(size);
                    tooSmall = lastSize = 0.0;
                    tooLarge = nearestMiss = 1e300;
                    best.reset();
                } else {
                    d->leaks = solid.open();
                }
            }
            cells = d ? static_cast<double>(d->cells) : 4.0 * budget;
            if (d) {
                cellsOfALeaf = cells / static_cast<double>(d->tree.leaves());
                countedSize = size;
            }
        }
        if (d && miss(cells) < nearestMiss) {
            nearestMiss = miss(cells);
            nearestSize = size;
        }
        if (counted && d && d->kept.gapFaces > 0 && (!best || miss(cells) < miss(static_cast<double>(best->cells)))) best = std::move(d);
        if (best && miss(static_cast<double>(best->cells)) < kNearBudget) break;
        (cells > budget ? tooSmall : tooLarge) = size;
        if (lastSize > 0.0 && lastCells != cells && lastSize != size)
            slope = std::clamp(std::log(cells / lastCells) / std::log(size / lastSize), -3.5, -1.2);
        lastSize = size;
        lastCells = cells;
        double next = size * std::pow(budget / cells, 1.0 / slope);
        if (next <= tooSmall || next >= tooLarge) next = tooLarge < 1e299 ? std::sqrt(std::max(tooSmall, 1e-3 * tooLarge) * tooLarge) : 2.0 * tooSmall;
        size = next;
    }
    if (nearestSize > 0.0 && (!best || nearestMiss < miss(static_cast<double>(best->cells)))) {
        // No try has come within 5 %, and the nearest one was not counted.
        if (auto d = draftOf(nearestSize); d && d->kept.gapFaces > 0 && (!best || miss(static_cast<double>(d->cells)) < miss(static_cast<double>(best->cells)))) best = std::move(d);
    }
    if (!best)
        throw base::InputError(fmt::format("no grid of about {} cells fits this model in this tunnel.", s.cellBudget), "grid",
                               "Type a larger budget, or a smaller tunnel.");
    // A closed leak may leave a narrower one beside it; what is left after a few turns stays open.
    for (int turn = 0; turn < 3 && !best->leaks && solid.closeLeaks(best->tree); ++turn) {
        base::report(progress, 0.29, "closing leaks");
        auto closed = draftOf(best->size);
        if (!closed) break;
        best = std::move(closed);
    }
    if (!best->leaks) best->leaks = solid.open();
    return std::move(*best);
}

// Staircase and wall points of these cells (wall points numbered from the staircase's size on), for CellShaper::loosen.
std::vector<std::int32_t> pointsOfCells(const Grid& g, std::span<const CellIndex> cells, const WallImage& wall, std::size_t stairPoints, int layers) {
    const auto base = static_cast<PointIndex>(stairPoints);
    std::vector<char> is(static_cast<std::size_t>(g.cells()), 0);
    for (const auto c : cells) is[static_cast<std::size_t>(c)] = 1;
    std::vector<std::int32_t> out;
    const auto add = [&](PointIndex p) {
        if (p >= base) p = wall.point[static_cast<std::size_t>((p - base) / layers)];
        out.push_back(p);
        const auto w = wall.wallOf[static_cast<std::size_t>(p)];
        if (w >= 0) out.push_back(base + w);
    };
    for (FaceIndex f = 0; f < g.faces(); ++f) {
        const auto i = static_cast<std::size_t>(f);
        if (is[static_cast<std::size_t>(g.owner[i])] || (f < g.internalFaces() && is[static_cast<std::size_t>(g.neighbour[i])]))
            for (const auto p : g.polygon(f)) add(p);
    }
    std::sort(out.begin(), out.end());
    out.erase(std::unique(out.begin(), out.end()), out.end());
    return out;
}

// Each point of the wall against the smallest wall face that it is a corner of.
WallFit fitOf(const Grid& g, const Geometry& geo, const shape::TriangleTree& model) {
    std::vector<double> size(g.points.size(), 0.0);
    for (const Patch& patch : g.patches) {
        if (patch.kind != PatchKind::Wall) continue;
        for (auto f = patch.first; f < patch.first + patch.count; ++f)
            for (const auto p : g.polygon(f)) {
                const double own = std::sqrt(geo.faceArea[static_cast<std::size_t>(f)].norm());
                double& s = size[static_cast<std::size_t>(p)];
                s = s > 0.0 ? std::min(s, own) : own;
            }
    }
    std::vector<double> away(size.size(), 0.0);
    const auto count = static_cast<std::ptrdiff_t>(size.size());
#pragma omp parallel for schedule(dynamic, 4096)
    for (std::ptrdiff_t k = 0; k < count; ++k)
        if (const auto i = static_cast<std::size_t>(k); size[i] > 0.0) away[i] = model.nearest(g.points[i]).distance;
    WallFit fit;
    std::size_t points = 0, on = 0;
    for (std::size_t i = 0; i < size.size(); ++i) {
        if (!(size[i] > 0.0)) continue;
        ++points;
        on += away[i] <= 0.01 * size[i];
        if (away[i] <= fit.farthest) continue;
        fit.farthest = away[i];
        fit.place = g.points[i];
    }
    fit.shareOn = points > 0 ? static_cast<double>(on) / static_cast<double>(points) : 1.0;
    return fit;
}

std::string sentenceAbout(const std::vector<Leak>& leaks) {
    std::string out;
    const auto place = [](const Leak& l) { return fmt::format("({:.3g} {:.3g} {:.3g}), {:.2g} m wide", l.place.x(), l.place.y(), l.place.z(), l.width); };
    for (const bool sealed : {true, false}) {
        const Leak* widest = nullptr;
        std::size_t count = 0;
        for (const Leak& l : leaks)
            if (l.sealed == sealed) {
                ++count;
                if (!widest || l.width > widest->width) widest = &l;
            }
        if (count == 0) continue;
        if (sealed)
            out += fmt::format("; {} opening{} wider than a cell {} closed, the widest at {}", count, count == 1 ? "" : "s", count == 1 ? "is" : "are", place(*widest));
        else
            out += fmt::format("; air gets into the model through {} opening{}, the widest at {}", count, count == 1 ? "" : "s", place(*widest));
    }
    return out;
}

}  // namespace

Box FinerPlace::bounds() const {
    Box b;
    b.add(from);
    if (shape != Shape::Ball) b.add(to);
    if (shape != Shape::Box) {
        b.low -= Vec3::Constant(radius);
        b.high += Vec3::Constant(radius);
    }
    return b;
}

double FinerPlace::volume() const {
    const double pi = std::acos(-1.0);
    switch (shape) {
        case Shape::Box: return (to - from).cwiseAbs().prod();
        case Shape::Ball: return 4.0 / 3.0 * pi * radius * radius * radius;
        case Shape::Cylinder: return pi * radius * radius * (to - from).norm();
    }
    return 0.0;
}

bool FinerPlace::meets(const Box& box) const {
    switch (shape) {
        case Shape::Box: return bounds().overlaps(box);
        case Shape::Ball: return box.distanceSquared(from) <= radius * radius;
        case Shape::Cylinder: {
            const Vec3 x = box.centre();
            return (shape::closestPointOnTriangle(x, from, to, to) - x).norm() <= radius + 0.5 * box.size().norm();
        }
    }
    return false;
}

Grid build(const shape::Surface& placed, const Tunnel& tunnel, const GridSettings& s, const base::Progress& progress) {
    check(s, placed);
    shape::Surface surface = shape::withoutHiddenParts(placed);
    const Box model = surface.bounds();
    const Box box = tunnelBox(tunnel, model);
    const double seam = kSeam * model.size().maxCoeff(), sealWidth = s.sealWidth > 0.0 ? s.sealWidth : kSealShare * model.size().maxCoeff();
    shape::orientFacets(surface, seam);
    SealedModel solid(surface, tunnel.halfModel, seam, sealWidth);
    const shape::TriangleTree& tree = solid.tree();
    const Draft d = draftNearBudget(solid, model, box, tunnel, s, progress);

    base::report(progress, 0.3, "making cells");
    const Staircase stairs = makeStaircase(d.tree, d.kept);
    std::vector<std::uint8_t> levels;
    for (const auto l : d.kept.leaves) levels.push_back(d.tree.node(l).level);
    Box air;
    for (const Vec3& p : stairs.points) air.add(p);

    base::report(progress, 0.4, "fitting the wall");
    WallImage wall = projectToWall(stairs, tree, air);
    // Seams that do not quite meet and doubled facets would hide edges, or pretend them. What is far below a cell is joined.
    shape::Surface sound = shape::joinedWithin(surface, 0.02 * d.tree.cellSize(d.tree.deepest()).minCoeff()).surface;
    shape::orientFacets(sound);
    const shape::TriangleTree soundTree(sound);
    auto paths = followCurves(stairs, shape::featureCurves(sound, soundTree, s.sharpAngle_deg * base::degree), soundTree, air, wall);
    std::vector<char> held(wall.point.size());
    for (std::size_t i = 0; i < held.size(); ++i) held[i] = paths.taken(i);
    evenOut(stairs, tree, air, held, 4, wall);
    findNormals(stairs, wall);

    auto moved = moveToOffset(stairs, wall, kGap);
    CellShaper shaper(stairs, tree, paths, air, kGap, moved, wall);
    shaper.run([&](double f, std::string_view what) { return !progress || progress(0.53 + 0.3 * f, what); });
    std::vector<std::string> names;
    for (const auto& p : surface.parts) names.push_back(p.name);
    const auto partAt = [&](const Vec3& x) { return solid.surface().partOf[static_cast<std::size_t>(tree.nearest(x).facet)]; };

    base::report(progress, 0.83, "growing wall layers");
    const double rootSize = d.tree.cellSize(0).minCoeff();
    std::vector<std::uint8_t> ofColumn;
    for (const auto& q : stairs.gapCorners) {
        double h = 1e300;
        for (std::size_t k = 0; k < 4; ++k) h = std::min(h, (stairs.points[static_cast<std::size_t>(q[(k + 1) % 4])] - stairs.points[static_cast<std::size_t>(q[k])]).norm());
        ofColumn.push_back(d.layers[static_cast<std::size_t>(std::lround(std::log2(rootSize / h)))]);
    }
    Layers layers = planLayers(stairs, wall, d.first, std::move(ofColumn));
    Grid g = addWallLayers(stairs, wall, moved, layers, names, partAt, levels);
    // Cells beyond the limits, as in a wedge that closes to nothing: the wall lets go of the model there, less and less held,
    // until they are sound. A fillet of a fraction of a cell instead of folded layers.
    Geometry geo = geometryOf(g);
    const auto openCells = [&](double angle) {
        auto bad = cellsBeyond(g, geo, angle, kAimSkewness);
        auto best = g.points;
        std::size_t fewest = bad.size();
        std::vector<Vec3> last;
        const auto cutAnew = [&] {
            last = g.points;
            std::copy(moved.begin(), moved.end(), g.points.begin());
            cutColumns(wall.onWall, wall, moved, layers, std::span<Vec3>(g.points).subspan(moved.size()));
            updateGeometry(g, last, geo);
            bad = cellsBeyond(g, geo, angle, kAimSkewness);
        };
        const auto pointsOfBad = [&] { return pointsOfCells(g, bad, wall, moved.size(), layers.most); };
        const auto keepIfBetter = [&] {
            if (bad.size() >= fewest) return;
            fewest = bad.size();
            best = g.points;
        };
        // Thin layers over an edge are the first to be skewed: there they grow less, at the cost of the first height.
        for (int turn = 0; fewest > 0 && turn < 2; ++turn) {
            for (const auto i : pointsOfBad()) {
                const auto w = i < static_cast<std::int32_t>(moved.size()) ? wall.wallOf[static_cast<std::size_t>(i)] : i - static_cast<std::int32_t>(moved.size());
                if (w >= 0) layers.evenness[static_cast<std::size_t>(w)] = 0.5 * (turn + 1);
            }
            cutAnew();
            keepIfBetter();
        }
        double hold = 2.0;
        int turns = 0;
        for (; fewest > 0 && turns < kMostRounds; ++turns, hold *= 0.4) {
            base::report(progress, 0.91 + 0.04 * turns / kMostRounds, "opening cells");
            shaper.loosen(pointsOfBad(), hold, turns % 4 == 3);
            cutAnew();
            keepIfBetter();
        }
        // Not all that let go had to. What must be let go of again stays so.
        for (int turn = 0; turns > 0 && fewest == 0 && turn < 4; ++turn) {
            base::report(progress, 0.945, "putting the wall back");
            if (turn == 0)
                shaper.tighten();
            else
                shaper.loosen(pointsOfBad(), 0.5, false);
            cutAnew();
            if (!bad.empty()) continue;
            best = g.points;
            break;
        }
        if (g.points != best) {
            std::swap(g.points, best);
            updateGeometry(g, best, geo);
        }
    };
    openCells(kAimAngle);
    if (shareBeyond(g, geo, kOblique_deg) > 0.9 * kMostOblique) {
        // Many faces are oblique, though none too much. Where that comes from the outer cells, as with long cells beside finer
        // ones, no wall that lets go will help, or only one that leaves the model: then it stays.
        auto before = g.points;
        const double on = fitOf(g, geo, tree).shareOn;
        openCells(kOblique_deg - 1.0);
        const bool letGo = on > kFits && fitOf(g, geo, tree).shareOn < on - kMostLetGo;
        if (letGo || shareBeyond(g, geo, kOblique_deg) > kMostOblique) {
            std::swap(g.points, before);
            updateGeometry(g, before, geo);
        }
    }
    const std::size_t folded = foldedCells(g, geo).size();
    g.surfaceCell = d.size;
    g.firstHeight = d.first;

    base::report(progress, 0.95, "measuring wall distances");
    g.wallDistance.resize(static_cast<std::size_t>(g.cells()));
    const auto cells = static_cast<std::ptrdiff_t>(g.wallDistance.size());
#pragma omp parallel for schedule(dynamic, 1024)
    for (std::ptrdiff_t k = 0; k < cells; ++k) {
        const auto c = static_cast<std::size_t>(k);
        g.wallDistance[c] = std::max(tree.nearest(geo.cellCentre[c]).distance, 1e-12);
    }
    const int fewestLayers = layers.ofColumn.empty() ? 0 : *std::min_element(layers.ofColumn.begin(), layers.ofColumn.end());
    g.notes = fewestLayers == layers.most ? fmt::format("{} wall layers", layers.most) : fmt::format("{} to {} wall layers", fewestLayers, layers.most);
    if (paths.seen > 0.0) g.notes += fmt::format("; edges of the grid follow {:.1f} % of {:.3g} m of sharp edges", std::floor(1e3 * paths.followed / paths.seen) / 10.0, paths.seen);
    std::vector<std::string> hidden;
    for (const auto& p : surface.parts)
        if (p.inTheAir && std::none_of(g.patches.begin(), g.patches.end(), [&](const Patch& w) { return w.kind == PatchKind::Wall && w.name == p.name; })) hidden.push_back(p.name);
    if (!hidden.empty()) {
        const std::size_t shown = std::min<std::size_t>(hidden.size(), 6);
        g.notes += fmt::format("; the air does not reach: {}{}", fmt::join(hidden.begin(), hidden.begin() + static_cast<std::ptrdiff_t>(shown), ", "),
                               hidden.size() > shown ? fmt::format(" and {} more", hidden.size() - shown) : "");
    }
    dropLoosePoints(g);
    if (const auto& holes = solid.holes(); !holes.empty())
        g.notes += fmt::format("; {} hole{} in the surface {} closed, the widest at ({:.3g} {:.3g} {:.3g}), {:.2g} m wide", holes.size(), holes.size() == 1 ? "" : "s", holes.size() == 1 ? "is" : "are", holes.front().place.x(),
                               holes.front().place.y(), holes.front().place.z(), holes.front().width);
    for (const auto& h : solid.holes()) g.leaks.push_back({h.place, h.width, true, {}});
    g.leaks.insert(g.leaks.end(), solid.closed().begin(), solid.closed().end());
    g.leaks.insert(g.leaks.end(), d.leaks->begin(), d.leaks->end());
    auto found = solid.closed();
    found.insert(found.end(), d.leaks->begin(), d.leaks->end());
    g.notes += sentenceAbout(found);
    g.fit = fitOf(g, geo, tree);
    if (g.fit.shareOn < 1.0)
        g.notes += fmt::format("; {:.2f} % of the wall's points lie on the model, the others stand off where there is no room for sound cells, by {:.2g} m at most, at ({:.3g} {:.3g} {:.3g})",
                               std::floor(1e4 * g.fit.shareOn) / 1e2, g.fit.farthest, g.fit.place.x(), g.fit.place.y(), g.fit.place.z());
    if (folded > 0) g.notes += fmt::format("; {} folded cell{} left", folded, folded == 1 ? " is" : "s are");
    base::report(progress, 1.0, "done");
    return g;
}

}  // namespace cvane::grid
