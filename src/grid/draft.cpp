#include "grid/draft.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <functional>
#include <optional>
#include <utility>

#include "base/errors.h"
#include "base/units.h"
#include "grid/gaps.h"
#include "grid/wall_layers.h"

namespace cvane::grid {
namespace {

constexpr double kClearance = 0.35;  ///< of a cell, between the staircase and the model
constexpr int kQuickTries = 3;
constexpr double kFirstTry = 0.3;      ///< of the budget at most: the first try for the cell size is to be a quick one
constexpr double kNearBudget = 0.048;  ///< of the logarithm of the cells: 5 % are promised

constexpr double kFieldCells = 8.0, kFieldBudget = 250000.0, kBlunt = 2.0;  ///< see fieldCells

constexpr double kLayersOfBudget = 12.5;  ///< most, on kFieldBudget cells

constexpr double kRootsOfBudget = 0.1;  ///< cells of the coarsest size that fill the tunnel
constexpr double kOpeningOfBudget =
    1.0;  ///< what opening gaps may add to a draft near the budget: half of it once the other cells have given way
constexpr int kMostOpening = 6;
constexpr double kMostCoarser = 1.5;   ///< that open gaps may make the cells on the model
constexpr double kCellsOfMark = 12.0;  ///< that one mark adds at the first try, with those that buffers ask for
constexpr double kMostTried = 6.0;     ///< times the budget: more is not counted

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

// Of the cells of the whole model. [cells]
double wholeBudget(const GridSettings& s, const Tunnel& tunnel) {
    return s.cellBudget * (tunnel.halfModel ? 2.0 : 1.0);
}

// By level of the cells on the wall, as many layers as fill their gap from the first height on with no more than the
// asked growth: a few that grow faster leave friction 5 to 10 % low, at any thickness together. Small budgets have
// fewer, for there the surface's own cells leave more of the drag open than friction does.
// @param budget  of the finest grid of the family
LayersByLevel layersFor(const GridSettings& s, const Octree& tree, double first, double budget) {
    const int most = std::clamp(static_cast<int>(kLayersOfBudget * std::sqrt(budget / kFieldBudget)), 3, kMostLayers);
    LayersByLevel out{};
    for (std::size_t l = 0; l < out.size(); ++l) {
        const double gap = kGap * tree.cellSize(static_cast<int>(l)).minCoeff();
        int n = s.layers > 0 ? s.layers : 2;
        for (; s.layers == 0 && n < most; ++n) {
            const auto heights = layerHeights(gap, first, n);
            if (heights[1] <= s.layerGrowth * heights[0]) break;
        }
        out[l] = static_cast<std::uint8_t>(n);
    }
    return out;
}

// Of the model as the wind sees it, the mirrored half with it: the root of its bounding box's area there. [m]
double frontalSize(const Box& model, const Tunnel& tunnel) {
    return std::sqrt(model.size().y() * (tunnel.halfModel ? 2.0 : 1.0) * model.size().z());
}

// Away from the model cells are no larger than their distance from it, and half its frontal size more, over this: more
// cells of every size as the budget grows, so that grids of several budgets are alike. Bodies that are slender along
// the wind disturb the air little, and have their cells on the wall.
double fieldCells(double budget, double frontal, double length) {
    return kFieldCells * std::cbrt(budget / kFieldBudget) * std::min(1.0, kBlunt * frontal / length);
}

// Octree with this cell size on the model, its cells not yet chosen. The box grows to whole root cells, except at the
// ground and the mirror plane.
// @param mostCells  nothing beyond about so many
std::optional<Draft> outlineOf(const SealedModel& solid, const Box& model, const Box& box, const Tunnel& tunnel,
                               const GridSettings& s, double size, int opening, double mostCells) {
    double rootAim = box.size().maxCoeff() / 14.0;
    // Between two walls that stay, a whole number of cells must fit: with eight of the coarsest none is off by more
    // than 6 %.
    const double coarsest = rootAim;
    for (int k = 0; k < 3; ++k)
        if (model.low[k] < box.low[k] && model.high[k] > box.high[k]) rootAim = std::min(rootAim, box.size()[k] / 8.0);
    // A slab in a wide tunnel would spend its cells far away: fewer fit then, and are off by more.
    while (rootAim < coarsest && box.size().prod() / std::pow(rootAim, 3) > kRootsOfBudget * s.cellBudget)
        rootAim *= 1.26;
    const int level = std::clamp(static_cast<int>(std::lround(std::log2(rootAim / size))), 1, 16);
    const Vec3 root = size * std::pow(2.0, level) * s.stretch;
    Lattice roots;
    Box grown = box;
    for (int k = 0; k < 3; ++k) {
        // Sides that hold the ground, the mirror plane or a wall that the model reaches through stay where they are.
        const bool lowFixed =
            (k == 1 && tunnel.halfModel) || (k == 2 && tunnel.floor != Floor::None) || model.low[k] < box.low[k];
        const bool highFixed = model.high[k] > box.high[k];
        const double whole = box.size()[k] / root[k];
        // Between two such sides the cells give way instead.
        const auto n =
            std::max(1, static_cast<int>(lowFixed && highFixed ? std::lround(whole) : std::ceil(whole - 1e-6)));
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
    sizing.gapLevels = s.gapLevels < 0 ? 1 : s.gapLevels;
    sizing.openingLevels = opening;
    sizing.narrowestGap = kNarrowestGap * model.size().maxCoeff();
    if (tunnel.floor != Floor::None) sizing.planes.push_back({2, box.low.z()});
    sizing.bufferCells = s.bufferCells;
    sizing.mostNodes = static_cast<std::size_t>(mostCells) + 100000;
    if (s.wakeLength > 0.0) {
        const double L = model.size().maxCoeff();
        for (int k = 1; k <= 2; ++k) {
            const Vec3 along = k * s.wakeLength * L * s.wakeAlong;
            sizing.regions.push_back(
                {[model, along](const Box& cell) { return sweptOver(model, along, cell); }, std::max(0, level - k)});
        }
        // What stands behind a blunt back makes its pressure: for one height of the body the cells there are those of
        // its surface.
        Box back = model;
        const double height = std::min(model.size().y() * (tunnel.halfModel ? 2.0 : 1.0), model.size().z());
        back.low.x() = model.high.x() - 0.25 * height;
        const Vec3 behind = height * s.wakeAlong;
        sizing.regions.push_back({[back, behind](const Box& cell) { return sweptOver(back, behind, cell); }, level});
    }
    // Ahead of the model and beside it the flow turns on the scale of its frontal size however small the surface's
    // cells are.
    const double budget = wholeBudget(s, tunnel), frontal = frontalSize(model, tunnel),
                 across = fieldCells(budget, frontal, model.size().x());
    // Where buffers do as much the surface needs all cells.
    for (int l = 1; l < level && across > s.bufferCells + 1.0; ++l) {
        const double away = across * root.minCoeff() / std::pow(2.0, l - 1) - 0.5 * frontal;
        if (away <= 0.0) break;
        Box around = model;
        around.low.array() -= away;
        around.high.array() += away;
        sizing.regions.push_back({reachesInto(around), l});
    }
    if (s.groundLayer > 0.0 && tunnel.floor == Floor::Fixed) {
        // The way along which what the ground holds back comes to the model.
        Box way = model;
        const double aside = 0.25 * model.size().maxCoeff();
        way.low = {box.low.x(), model.low.y() - aside, box.low.z()};
        way.high = {model.high.x() + aside, model.high.y() + aside, box.low.z() + 0.5 * s.groundLayer};
        sizing.regions.push_back(
            {reachesInto(way),
             std::clamp(static_cast<int>(std::lround(std::log2(root.minCoeff() / s.groundLayer))), 0, level)});
    }
    for (const FinerPlace& place : s.finerPlaces)
        sizing.regions.push_back(
            {[place](const Box& cell) { return place.meets(cell); },
             std::clamp(static_cast<int>(std::ceil(std::log2(root.minCoeff() / place.cell) - 1e-9)), 0, 18)});
    if (!s.finerParts.empty())
        for (const auto& part : solid.surface().parts) {
            const auto it = s.finerParts.find(part.name);
            sizing.moreOnPart.push_back(it != s.finerParts.end() ? it->second : 0);
        }
    Draft d{Octree(grown, roots, solid.tree()),
            {},
            std::nullopt,
            {},
            0,
            0.0,
            size,
            {},
            s.firstHeight > 0.0 ? s.firstHeight : 0.05 * size};
    d.sizing = sizing;
    if (!refine(d.tree, solid.surface(), sizing)) return std::nullopt;
    return d;
}

// Chooses the cells of an outline and counts them with their layers.
void fill(Draft& d, const SealedModel& solid, const GridSettings& s, const Tunnel& tunnel) {
    d.kept = keepCells(d.tree, solid.tree(), kClearance);
    d.layers = layersFor(s, d.tree, d.first, s.fewer * wholeBudget(s, tunnel));
    d.cells = d.kept.leaves.size();
    for (std::size_t l = 0; l < d.layers.size(); ++l) d.cells += d.kept.gapFacesOfLevel[l] * d.layers[l];
}

/// What it takes to open the gaps of a draft.
struct Opening {
    int levels = 0;      ///< as many as it takes, or as the budget allows
    double cells = 0.0;  ///< that opening all of them would add
};
Opening openingOf(const Draft& d, const std::function<std::optional<Draft>(int)>& outline) {
    Opening out;
    if (closedGaps(d.tree, d.kept, d.sizing).empty()) return out;
    const double leaves = d.tree.leaves();
    double before = leaves;
    for (int more = 2; more <= kMostOpening; ++more) {
        const auto finer = outline(more);
        if (!finer) {
            out.cells = (kMostTried - 1.0) * leaves;
            break;
        }
        const double now = finer->tree.leaves();
        // A level may split nothing, where edges have such cells already, and the next one may.
        if (now > before && now <= (1.0 + kOpeningOfBudget) * leaves) out.levels = more;
        out.cells = now - leaves;
        before = now;
    }
    return out;
}

// The number of cells falls steadily with their size; a secant in logarithms lands within 5 % in a few tries. The level
// steps make the curve jump, so brackets guard it and the nearest try is kept. Choosing the cells takes longer than
// refining, and looking for leaks longer than both: far from the budget the octree's leaves alone tell how far, by the
// cells that a leaf was good for in a counted try of like size.
// @param mostOpening  levels that gaps may be opened by
Draft draftOpening(SealedModel& solid, const Box& model, const Box& box, const Tunnel& tunnel, const GridSettings& s,
                   int mostOpening, const base::Progress& progress) {
    const double budget = s.cellBudget;
    const auto miss = [&](double n) { return std::abs(std::log(n / budget)); };
    double openingCells = 0.0;
    int opening = 0;  // levels for gaps, known once there is a size near the budget
    const auto draftOf = [&](double size) {
        auto d = outlineOf(solid, model, box, tunnel, s, size, opening, 4.0 * budget);
        if (d) fill(*d, solid, s, tunnel);
        return d;
    };
    // The first try is coarse, to learn cheaply what the model asks for and where it leaks.
    double size = 3.5 * std::sqrt(solid.surface().area() * 17.0 / budget);
    size = std::clamp(size, model.size().maxCoeff() / 4000.0, model.size().maxCoeff() / 3.0);
    std::optional<Draft> best;
    double cellsOfALeaf = 0.0, countedSize = 0.0, nearestSize = 0.0, nearestMiss = 1e300;
    constexpr double kAlike = 1.5, kLookForLeaks = 0.3;
    bool lookedForGaps = false;
    std::optional<Draft> unopened;  // should no size fit with the gaps open
    double tooSmall = 0.0, tooLarge = 1e300, slope = -1.75, lastSize = 0.0, lastCells = 0.0;
    for (int attempt = 0; attempt < 12; ++attempt) {
        base::report(progress, std::min(0.02 + 0.07 * attempt, 0.28), "finding the cell size for the budget");
        const bool first = countedSize == 0.0;
        // Places with cells of their own may ask for more than that at any size: then the first try is as large as the
        // others.
        const bool quick = first && attempt < kQuickTries;
        auto d = outlineOf(solid, model, box, tunnel, s, size, opening, (quick ? kFirstTry : 4.0) * budget);
        if (quick && !d) {
            size *= 1.8;  // too fine for a first try, which says nothing of what is too fine
            continue;
        }
        double cells = d ? cellsOfALeaf * static_cast<double>(d->tree.leaves()) : 4.0 * budget;
        const bool counted =
            d && (std::max(size / countedSize, countedSize / size) > kAlike || miss(cells) < 2.0 * kNearBudget);
        if (counted) {
            fill(*d, solid, s, tunnel);
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
        if (counted && d && d->kept.gapFaces > 0 && (!best || miss(cells) < miss(static_cast<double>(best->cells))))
            best = std::move(d);
        if (best && miss(static_cast<double>(best->cells)) < kNearBudget) {
            if (s.gapLevels >= 0 || opening > 0 || lookedForGaps) break;
            // The gaps of this size: with what opens them the search goes on, for a size that leaves them their cells.
            lookedForGaps = true;
            const auto gaps = openingOf(*best, [&](int levels) {
                return outlineOf(solid, model, box, tunnel, s, size, levels, kMostTried * cells);
            });
            opening = std::min(gaps.levels, mostOpening);
            openingCells = gaps.cells;
            if (opening == 0) break;
            tooSmall = lastSize = 0.0;
            tooLarge = nearestMiss = 1e300;
            countedSize = 0.0;
            cellsOfALeaf = 1.0;
            unopened = std::exchange(best, std::nullopt);
            attempt = std::min(attempt, 4);
            continue;
        }
        (cells > budget ? tooSmall : tooLarge) = size;
        if (lastSize > 0.0 && lastCells != cells && lastSize != size)
            slope = std::clamp(std::log(cells / lastCells) / std::log(size / lastSize), -3.5, -1.2);
        lastSize = size;
        lastCells = cells;
        double next = size * std::pow(budget / cells, 1.0 / slope);
        if (next <= tooSmall || next >= tooLarge)
            next = tooLarge < 1e299 ? std::sqrt(std::max(tooSmall, 1e-3 * tooLarge) * tooLarge) : 2.0 * tooSmall;
        size = next;
    }
    if (nearestSize > 0.0 && (!best || nearestMiss < miss(static_cast<double>(best->cells)))) {
        // No try has come within 5 %, and the nearest one was not counted.
        if (auto d = draftOf(nearestSize);
            d && d->kept.gapFaces > 0 &&
            (!best || miss(static_cast<double>(d->cells)) < miss(static_cast<double>(best->cells))))
            best = std::move(d);
    }
    if (!best) best = std::move(unopened);
    // Cells in the gaps must not come at the price of the surface's own: then fewer levels open what they can.
    if (best && unopened && best->size > kMostCoarser * unopened->size)
        return draftOpening(solid, model, box, tunnel, s, opening > 2 ? opening - 1 : 0, progress);
    if (!best)
        throw base::InputError(fmt::format("no grid of about {} cells fits this model in this tunnel.", s.cellBudget),
                               "grid", "Type a larger budget, or a smaller tunnel.");
    // A closed leak may leave a narrower one beside it; what is left after a few turns stays open.
    for (int turn = 0; turn < 3 && !best->leaks && solid.closeLeaks(best->tree); ++turn) {
        base::report(progress, 0.29, "closing leaks");
        auto closed = draftOf(best->size);
        if (!closed) break;
        best = std::move(closed);
    }
    if (!best->leaks) best->leaks = solid.open();
    best->openingCells = openingCells;
    return std::move(*best);
}

}  // namespace

Draft draftNearBudget(SealedModel& solid, const Box& model, const Box& box, const Tunnel& tunnel, const GridSettings& s,
                      const base::Progress& progress) {
    return draftOpening(solid, model, box, tunnel, s, kMostOpening, progress);
}

Draft draftWithMarks(SealedModel& solid, const Box& model, const Box& box, const Tunnel& tunnel, const GridSettings& s,
                     const base::Progress& progress) {
    GridSettings first = s;
    first.cellBudget = s.marks->firstBudget;
    first.marks.reset();
    const Draft plain = draftNearBudget(solid, model, box, tunnel, first, progress);
    const auto& places = s.marks->places;
    const double budget = s.cellBudget;
    const auto with = [&](std::size_t count) -> std::optional<Draft> {
        Draft d = plain;
        d.sizing.mostNodes = static_cast<std::size_t>(4.0 * budget) + 100000;
        if (!refineAt(d.tree, d.sizing, std::span(places).first(count))) return std::nullopt;
        fill(d, solid, s, tunnel);
        return d;
    };
    // More marks make more cells, the first ones most, since each brings the buffers around it: the place between two
    // counts follows a straight line, sooner and sooner while all tries are too many, and the largest try within the
    // budget is kept.
    std::optional<Draft> best;
    std::size_t low = 0, high = places.size();
    double atLow = static_cast<double>(plain.cells), atHigh = 0.0;
    std::size_t count = std::min(high, static_cast<std::size_t>(std::max(0.0, (budget - atLow) / kCellsOfMark)));
    double sooner = 1.0;
    for (int attempt = 0; attempt < 12 && count > low; ++attempt) {
        base::report(progress, 0.2 + 0.01 * attempt, "halving the cells that the flow marks");
        auto d = with(count);
        const double cells = d ? static_cast<double>(d->cells) : 4.0 * budget;
        if (cells <= budget * (1.0 + kNearBudget)) {
            low = count, atLow = cells, sooner = 1.0;
            best = std::move(d);
            if (count == places.size() || cells >= budget * (1.0 - kNearBudget)) break;
        } else {
            high = count, atHigh = cells, sooner *= 0.5;
        }
        const double share = atHigh > 0.0 ? (budget - atLow) / (atHigh - atLow) : 1.0;
        const double next =
            static_cast<double>(low) +
            (atHigh > 0.0 ? std::clamp(share * sooner, 0.05, 0.95) * static_cast<double>(high - low)
                          : std::max(1.0, static_cast<double>(low)) * std::clamp(budget / atLow - 1.0, 0.1, 1.0));
        count = std::min(static_cast<std::size_t>(next), places.size());
    }
    if (!best) return plain;
    // Smaller cells may get through narrower openings.
    for (int turn = 0; turn < 3 && solid.closeLeaks(best->tree); ++turn)
        if (auto d = with(low)) best = std::move(d);
    best->leaks = solid.open();
    best->openingCells = plain.openingCells;
    return std::move(*best);
}

}  // namespace cvane::grid
