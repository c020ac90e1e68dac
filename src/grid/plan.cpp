#include "grid/plan.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/errors.h"
#include "grid/limits.h"
#include "grid/memory.h"
#include "grid/stretch.h"
#include "shape/health.h"
#include "shape/seams.h"

namespace cvane::grid {
namespace {

constexpr double kSealShare = 0.03;  ///< of the model's longest side: wider openings are taken for meant

void check(const GridSettings& s, const shape::Surface& surface) {
    const auto fail = [](std::string what, std::string todo) {
        throw base::InputError(std::move(what), "grid", std::move(todo));
    };
    if (!kCellBudgets.holds(s.cellBudget))
        fail(fmt::format("a budget of {} cells cannot hold a model.", s.cellBudget),
             fmt::format("Type at least {:.0f} cells.", kCellBudgets.low));
    // The builder holds 1.0 kB a cell (grid_bench); the solver of a whole run, all ranks together, 1.6 kB on 9.6
    // million cells and up to 1.8 on a million. A quarter more for what other models bring.
    const double need = kBytesOfCell * s.cellBudget, have = static_cast<double>(availableMemory());
    if (need > have)
        fail(fmt::format("{} cells need about {:.1f} GB of memory, and {:.1f} GB are free.", s.cellBudget, need / 1e9,
                         have / 1e9),
             fmt::format("Type at most {} cells.", static_cast<long>(have / kBytesOfCell / 1000) * 1000));
    if (shape::isSoup(surface))
        throw base::InputError("is no surface: most of its facets have no neighbours.", "model",
                               "Export it as a surface, or take those facets out.");
    const auto within = [&](double value, const Range& range, const char* what) {
        if (!std::isfinite(value) || !range.holds(value))
            fail(fmt::format("{} cannot be {:.10g}.", what, value),
                 fmt::format("Type {}{:.10g} to {:.10g}.", range.zero == Range::Zero::Also ? "0, or " : "", range.low,
                             range.high));
    };
    within(s.layers, kLayers, "the number of wall layers");
    within(s.layerGrowth, kLayerGrowths, "the growth of the wall layers");
    within(s.firstHeight, kFirstHeights, "the first wall height");
    within(s.curvatureLevels, kCurvatureLevels, "the number of levels by curvature");
    within(s.sealWidth, kSealWidths, "the width up to which leaks are closed");
    within(s.bufferCells, kBufferCells, "the number of cells of one size");
    within(s.turnAngle_deg, kTurnAngles_deg, "the turn within a cell");
    within(s.sharpAngle_deg, kSharpAngles_deg, "the angle of sharp edges");
    within(s.gapLevels, kGapLevels, "the number of levels in gaps");
    within(s.wakeLength, kWakeLengths, "the length of the finer wake");
    for (const double f : s.stretch) within(f, kStretches, "the stretch of cells");
    for (const FinerPlace& p : s.finerPlaces) {
        if (!(p.cell > 0.0) || !p.from.allFinite() || !p.to.allFinite())
            fail("a finer place has no cell size, or a corner that is not a number.", "Type lengths in metres.");
        if (p.shape != FinerPlace::Shape::Box && !(p.radius > 0.0))
            fail("a finer place has no radius.", "Type a length in metres.");
    }
    for (const auto& [name, levels] : s.finerParts) {
        within(levels, kPartLevels, "the number of levels finer of a part");
        if (std::none_of(surface.parts.begin(), surface.parts.end(),
                         [&wanted = name](const auto& p) { return p.name == wanted; }))
            fail(fmt::format("no part is named {}.", name), "Name a part of the model, or take the line out.");
    }
    if (!(s.wakeAlong.x() > 0.3 && s.wakeAlong.norm() < 1.01))
        fail("the wake's direction does not lead downstream.", "Type angles from -55 to 55 degrees.");
}

}  // namespace

Preparation::Preparation(const shape::Surface& placed, const Tunnel& tunnel, const GridSettings& asked) {
    check(asked, placed);
    what.settings = asked;
    what.surface = shape::withoutHiddenParts(placed);
    what.box = tunnelBox(tunnel, what.surface.bounds());
    what.model = modelInTunnel(tunnel, what.surface.bounds());
    const double length = what.model.size().maxCoeff();
    what.seam = kSeam * length;
    shape::orientFacets(what.surface, what.seam);
    what.settings.stretch = stretchFor(what.surface, what.settings.stretch);
    solid = std::make_unique<SealedModel>(what.surface, tunnel.halfModel, what.seam,
                                          asked.sealWidth > 0.0 ? asked.sealWidth : kSealShare * length);
}

Draft Preparation::draft(const Tunnel& tunnel, const base::Progress& progress) {
    return what.settings.marks ? draftWithMarks(*solid, what.model, what.box, tunnel, what.settings, progress)
                               : draftNearBudget(*solid, what.model, what.box, tunnel, what.settings, progress);
}

Tunnel halfOf(Tunnel t) {
    t.halfModel = true;
    return t;
}

GridSettings halfOf(GridSettings s) {
    s.cellBudget = halfOfBudget(s.cellBudget);
    if (s.marks) {
        Marks marks = *s.marks;
        marks.firstBudget = halfOfBudget(marks.firstBudget);
        for (Vec3& x : marks.places) x.y() = std::abs(x.y());
        s.marks = std::make_shared<const Marks>(std::move(marks));
    }
    return s;
}

Plan planOf(const shape::Surface& placed, const Tunnel& tunnel, const GridSettings& settings,
            const base::Progress& progress) {
    if (isMirrored(tunnel)) {
        Plan plan = planOf(placed, halfOf(tunnel), halfOf(settings), progress);
        plan.cells *= 2;
        return plan;
    }
    Preparation ready(placed, tunnel, settings);
    const Draft d = ready.draft(tunnel, progress);
    Plan out{d.cells, d.size, d.first, 0, 0};
    for (std::size_t level = 0; level < d.layers.size(); ++level) {
        if (d.kept.gapFacesOfLevel[level] == 0) continue;
        const int layers = d.layers[level];
        out.fewestLayers = out.mostLayers == 0 ? layers : std::min(out.fewestLayers, layers);
        out.mostLayers = std::max(out.mostLayers, layers);
    }
    return out;
}

}  // namespace cvane::grid
