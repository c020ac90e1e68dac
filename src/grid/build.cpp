#include "grid/build.h"

#include <fmt/format.h>
#include <fmt/ranges.h>

#include <algorithm>
#include <cmath>
#include <functional>

#include "base/units.h"
#include "grid/curve_paths.h"
#include "grid/draft.h"
#include "grid/gaps.h"
#include "grid/mirrored.h"
#include "grid/plan.h"
#include "grid/quality.h"
#include "grid/shape_cells.h"
#include "grid/staircase.h"
#include "grid/stretch.h"
#include "grid/wall_layers.h"
#include "grid/wall_opening.h"
#include "grid/wall_projection.h"
#include "shape/feature_curves.h"
#include "shape/health.h"
#include "shape/seams.h"
#include "shape/triangle_tree.h"

namespace cvane::grid {
namespace {

std::string sentenceAbout(const std::vector<Leak>& leaks) {
    std::string out;
    const auto place = [](const Leak& l) {
        return fmt::format("({:.3g} {:.3g} {:.3g}), {:.2g} m wide", l.place.x(), l.place.y(), l.place.z(), l.width);
    };
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
            out += fmt::format("; {} opening{} wider than a cell {} closed, the widest at {}", count,
                               count == 1 ? "" : "s", count == 1 ? "is" : "are", place(*widest));
        else
            out += fmt::format("; air gets into the model through {} opening{}, the widest at {}", count,
                               count == 1 ? "" : "s", place(*widest));
    }
    return out;
}

// Of a part's facets; what lies at y < 0 only is no part of a half model's tunnel. [m]
double highestY(const shape::Surface& surface, std::int32_t part) {
    double y = -1e300;
    for (std::size_t f = 0; f < surface.facets.size(); ++f)
        if (surface.partOf[f] == part)
            for (int k = 0; k < 3; ++k) y = std::max(y, surface.corner(f, k).y());
    return y;
}

// The wall faces of a grid, each as a fan about its middle.
shape::Surface wallOf(const Grid& g, const Geometry& geo) {
    shape::Surface out;
    out.points = g.points;
    for (const Patch& patch : g.patches) {
        if (patch.kind != PatchKind::Wall) continue;
        for (auto f = patch.first; f < patch.first + patch.count; ++f) {
            const auto polygon = g.polygon(f);
            const auto middle = static_cast<std::int32_t>(out.points.size());
            out.points.push_back(geo.faceCentre[static_cast<std::size_t>(f)]);
            for (std::size_t k = 0; k < polygon.size(); ++k) {
                out.facets.push_back({polygon[k], polygon[(k + 1) % polygon.size()], middle});
                out.partOf.push_back(0);
            }
        }
    }
    out.parts.push_back({"wall", true});
    return out;
}

}  // namespace

Grid build(const shape::Surface& placed, const Tunnel& tunnel, const GridSettings& asked,
           const base::Progress& progress) {
    if (isMirrored(tunnel))
        return mirrored(build(placed, halfOf(tunnel), halfOf(asked), progress), shape::withoutHiddenParts(placed));
    Preparation ready(placed, tunnel, asked);
    const auto& [s, surface, box, model, seam] = ready.what;
    SealedModel& solid = *ready.solid;
    const shape::TriangleTree& tree = solid.tree();
    const Draft d = ready.draft(tunnel, progress);

    base::report(progress, 0.3, "making cells");
    const Staircase stairs = makeStaircase(d.tree, d.kept);
    std::vector<std::uint8_t> levels;
    for (const auto l : d.kept.leaves) levels.push_back(d.tree.node(l).level);
    Box air;
    for (const Vec3& p : stairs.points) air.add(p);

    base::report(progress, 0.4, "fitting the wall");
    WallImage wall = projectToWall(stairs, tree, air);
    // Seams that do not quite meet and doubled facets would hide edges, or break them into as many curves as there are
    // facets. What is far below a cell is joined.
    const double finest = d.tree.cellSize(d.tree.deepest()).minCoeff();
    shape::Surface sound = shape::joinedWithin(surface, std::max(0.02 * finest, std::min(seam, 0.1 * finest))).surface;
    shape::orientFacets(sound);
    const shape::TriangleTree soundTree(sound);
    auto paths = followCurves(stairs, shape::featureCurves(sound, soundTree, s.sharpAngle_deg * base::degree),
                              soundTree, air, wall);
    std::vector<char> held(wall.point.size());
    for (std::size_t i = 0; i < held.size(); ++i) held[i] = paths.taken(i);
    evenOut(stairs, tree, air, held, 4, wall);
    findNormals(stairs, wall);

    auto moved = moveToOffset(stairs, wall, kGap);
    CellShaper shaper(stairs, tree, paths, air, kGap, moved, wall);
    shaper.run([&](double f, std::string_view what) { return !progress || progress(0.53 + 0.3 * f, what); });
    std::vector<std::string> names;
    for (const auto& p : surface.parts) names.push_back(p.name);
    const auto partAt = [&](const Vec3& x) {
        return solid.surface().partOf[static_cast<std::size_t>(tree.nearest(x).facet)];
    };

    base::report(progress, 0.83, "growing wall layers");
    const double rootSize = d.tree.cellSize(0).minCoeff();
    std::vector<std::uint8_t> ofColumn;
    for (const auto& q : stairs.gapCorners) {
        double h = 1e300;
        for (std::size_t k = 0; k < 4; ++k)
            h = std::min(h, (stairs.points[static_cast<std::size_t>(q[(k + 1) % 4])] -
                             stairs.points[static_cast<std::size_t>(q[k])])
                                .norm());
        ofColumn.push_back(d.layers[static_cast<std::size_t>(std::lround(std::log2(rootSize / h)))]);
    }
    Layers layers = planLayers(stairs, wall, d.first, std::move(ofColumn));
    const std::function<Grid()> growLayers = [&] {
        return addWallLayers(stairs, wall, moved, layers, names, partAt, levels);
    };
    Grid g = growLayers();
    Geometry geo = geometryOf(g);
    WallOpening(stairs, wall, tree, moved, growLayers, shaper, layers, progress).open(g, geo);
    const std::size_t folded = foldedCells(g, geo).size();
    g.surfaceCell = d.size;
    g.firstHeight = d.first;

    base::report(progress, 0.95, "measuring wall distances");
    g.wallDistance.resize(static_cast<std::size_t>(g.cells()));
    // To the wall as the grid has it: where it stands off the model, that is what the air feels.
    const shape::Surface ownWall = wallOf(g, geo);
    const shape::TriangleTree wallTree(ownWall);
    overNeighbours(g.wallDistance.size(), [&](std::size_t c, std::int32_t near) {
        const auto hit = wallTree.nearest(geo.cellCentre[c], 1e300, near);
        g.wallDistance[c] = std::max(hit.distance, 1e-12);
        return hit.facet;
    });
    const int fewestLayers =
        layers.ofColumn.empty() ? 0 : *std::min_element(layers.ofColumn.begin(), layers.ofColumn.end());
    g.notes = fewestLayers == layers.most ? fmt::format("{} wall layers", layers.most)
                                          : fmt::format("{} to {} wall layers", fewestLayers, layers.most);
    for (int k = 0; k < 3; ++k)
        if (s.stretch[k] > 1.0) g.notes += fmt::format("; cells {:.2g} times longer along {}", s.stretch[k], "xyz"[k]);
    if (paths.seen > 0.0)
        g.notes += fmt::format("; edges of the grid follow {:.1f} % of {:.3g} m of sharp edges",
                               std::floor(1e3 * paths.followed / paths.seen) / 10.0, paths.seen);
    std::vector<std::string> hidden;
    for (const auto& p : surface.parts)
        if (p.inTheAir &&
            !(tunnel.halfModel && highestY(surface, static_cast<std::int32_t>(&p - surface.parts.data())) <= 0.0) &&
            std::none_of(g.patches.begin(), g.patches.end(),
                         [&](const Patch& w) { return w.kind == PatchKind::Wall && w.name == p.name; }))
            hidden.push_back(p.name);
    if (!hidden.empty()) {
        const std::size_t shown = std::min<std::size_t>(hidden.size(), 6);
        g.notes += fmt::format("; the air does not reach: {}{}",
                               fmt::join(hidden.begin(), hidden.begin() + static_cast<std::ptrdiff_t>(shown), ", "),
                               hidden.size() > shown ? fmt::format(" and {} more", hidden.size() - shown) : "");
    }
    dropLoosePoints(g);
    if (const auto& holes = solid.holes(); !holes.empty())
        g.notes +=
            fmt::format("; {} hole{} in the surface {} closed, the widest at ({:.3g} {:.3g} {:.3g}), {:.2g} m wide",
                        holes.size(), holes.size() == 1 ? "" : "s", holes.size() == 1 ? "is" : "are",
                        holes.front().place.x(), holes.front().place.y(), holes.front().place.z(), holes.front().width);
    for (const auto& h : solid.holes()) g.leaks.push_back({h.place, h.width, true, {}});
    g.leaks.insert(g.leaks.end(), solid.closed().begin(), solid.closed().end());
    g.leaks.insert(g.leaks.end(), d.leaks->begin(), d.leaks->end());
    auto found = solid.closed();
    found.insert(found.end(), d.leaks->begin(), d.leaks->end());
    g.notes += sentenceAbout(found);
    g.fit = wallFitOf(g, geo, tree);
    if (g.fit.shareOn < 1.0)
        g.notes += fmt::format(
            "; {:.2f} % of the wall's points lie on the model, the others stand off where there is no room for sound "
            "cells, by {:.2g} m at most, at ({:.3g} {:.3g} {:.3g})",
            std::floor(1e4 * g.fit.shareOn) / 1e2, g.fit.farthest, g.fit.place.x(), g.fit.place.y(), g.fit.place.z());
    g.gaps = closedGaps(d.tree, d.kept, d.sizing);
    for (ClosedGap& gap : g.gaps) gap.cells = std::max(gap.cells, d.openingCells / static_cast<double>(g.gaps.size()));
    if (folded > 0) g.notes += fmt::format("; {} folded cell{} left", folded, folded == 1 ? " is" : "s are");
    base::report(progress, 1.0, "done");
    return g;
}

}  // namespace cvane::grid
