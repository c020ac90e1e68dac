#include "campaign/steps/section_field.h"

#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <numeric>
#include <optional>

#include "base/errors.h"
#include "base/units.h"
#include "campaign/plan/points.h"
#include "flow/course.h"
#include "flow/solver.h"
#include "grid/c_grid.h"
#include "section/potential/panelling.h"

namespace cvane::campaign {
using Clock = std::chrono::steady_clock;

namespace {
constexpr double kToleranceCD = 0.002, kToleranceCL = 0.001;  // of rest, as FlowSettings has them
constexpr int kCoarseIterations = 500, kTurnIterations = 150;
constexpr double kLargestTurn = 4.0 * base::degree;  // between an angle and the one that its flow starts from

/// Speed, chord and span are 1.
flow::Case caseOf(const SectionField& what, double alpha) {
    flow::Case c;
    c.wind.speed = 1.0;
    c.wind.alpha = alpha;
    c.wind.air.viscosity = c.wind.air.density / what.reynolds;
    if (what.mach > 0.0) {
        c.compressible = true;
        air::Air& air = c.wind.air;
        const double gamma = air.ratioOfHeats();
        air.soundSpeed = 1.0 / what.mach;
        air.pressure = air.density * air.soundSpeed * air.soundSpeed / gamma;
    }
    c.tunnel.sideways = -0.1;  // walls along which the air slips, on both sides
    c.reference = {1.0, 1.0, 1.0, Vec3(0.25, 0.0, 0.0)};
    c.vortexAt = Vec3(0.25, 0.0, 0.0);
    c.settings.turbulenceIntensity = what.turbulence;
    c.settings.mostIterations = what.mostIterations;
    return c;
}

void readWall(SectionFieldPoint& out, const flow::Solver& solver, const grid::Geometry& geometry, double alpha) {
    const Vec3 wind(std::cos(alpha), 0.0, std::sin(alpha));
    for (const auto& w : solver.read().wallSamples()) {
        const auto f = static_cast<std::size_t>(w.face);
        const Vec3 &S = geometry.faceArea[f], &x = geometry.faceCentre[f];
        const double shear = w.shear.norm() * (w.shear.x() >= 0.0 ? 1.0 : -1.0);
        out.cdFriction += 2.0 * w.shear.dot(wind) * S.norm();
        // Outwards of the air is into the section: over the upper side that is down.
        (S.z() < 0.0 ? out.upper : out.lower).push_back({x.x(), 2.0 * w.p, 2.0 * shear});
    }
    for (auto* side : {&out.upper, &out.lower})
        std::sort(side->begin(), side->end(), [](const auto& a, const auto& b) { return a.x < b.x; });
}

}  // namespace

grid::Grid sectionGrid(const section::Contour& contour, const SectionField& what) {
    grid::CGrid g;
    g.outline = section::panelsOf(contour, {100 << what.level, 0.6, 0.12}).nodes;
    std::reverse(g.outline.begin(), g.outline.end());
    g.away = 34 << what.level, g.wake = 20 << what.level, g.acrossBase = 4 << what.level;
    // The finer the grid the nearer its first cell: y+ 2, 1, 0.5.
    g.firstHeight = firstHeightFor(2.0 / (1 << what.level), caseOf(what, 0.0).wind, 1.0);
    return grid::cGrid(g);
}

namespace {

/// The section on the grids of its level and below, and the ways to a start.
class Sweep {
  public:
    Sweep(const section::Contour& contour, const SectionField& what, const OnField& onField)
        : what_(what), onField_(onField) {
        for (int level = 0; level <= what.level; ++level) {
            SectionField coarser = what;
            coarser.level = level;
            Level& l = levels_.emplace_back();
            l.grid = sectionGrid(contour, coarser);
            l.geometry = grid::geometryOf(l.grid);
        }
    }

    SectionFieldPoint solve(double alpha) {
        const auto began = Clock::now();
        SectionFieldPoint p;
        p.alpha = alpha;
        const Level& finest = levels_.back();
        const flow::Case c = caseOf(what_, alpha);
        flow::Solver solver(finest.grid, finest.geometry, c, ranks_);
        const auto near = std::min_element(settled_.begin(), settled_.end(), [&](const auto& a, const auto& b) {
            return std::abs(a.alpha - alpha) < std::abs(b.alpha - alpha);
        });
        if (near != settled_.end() && std::abs(near->alpha - alpha) <= kLargestTurn) {
            solver.setCirculation(near->circulation);
            solver.start().fromNeighbour(near->checkpoint, near->wind);
        } else {
            start(solver, what_.level, alpha);
        }
        const Outcome end = toRest(solver, alpha, what_.mostIterations, true);
        const auto saved = solver.checkpoint();
        const auto k = solver.coefficients();
        p.cells = finest.grid.cells();
        p.iterations = end.iterations, p.residual = end.residual;
        p.seconds = std::chrono::duration<double>(Clock::now() - began).count();
        p.blewUp = end.blewUp || !(std::abs(k.CL) < 10.0) || !(std::abs(k.CD) < 10.0);
        if (p.blewUp) return p;
        p.settled = end.atRest;
        p.cl = k.CL, p.cd = k.CD, p.cm = k.Cm;
        p.highestYPlus = solver.read().yPlusRange().second;
        readWall(p, solver, finest.geometry, alpha);
        if (p.settled) settled_.push_back({alpha, saved, c.wind, 0.5 * k.CL});
        return p;
    }

  private:
    struct Level {
        grid::Grid grid;
        grid::Geometry geometry;
    };
    struct Settled {
        double alpha;
        flow::Checkpoint checkpoint;
        air::FreeStream wind;
        double circulation;
    };
    struct Outcome {
        bool atRest = false, blewUp = false;
        int iterations = 0;
        double residual = 0.0;
    };

    /// The wind's vortex follows the lift on the way.
    Outcome toRest(flow::Solver& solver, double alpha, int mostIterations, bool told) const {
        flow::FlowSettings settings;
        settings.mostIterations = mostIterations;
        settings.toleranceCD = kToleranceCD, settings.toleranceCL = kToleranceCL;
        flow::Course course(solver, settings);
        course.onlyToRest();
        Outcome out;
        while (course.verdict() == flow::Verdict::Running &&
               course.history().size() < static_cast<std::size_t>(mostIterations)) {
            out.residual = course.iterate().residuals.worst();
            if (course.history().empty()) continue;
            const auto& k = course.history().back();
            solver.setCirculation(0.5 * k.CL);  // speed and chord are 1
            out.iterations = static_cast<int>(course.history().size());
            if (onField_ && out.iterations % 20 == 0 && !onField_(alpha, told ? out.iterations : 0, k.CL, k.CD))
                throw base::Cancelled();
        }
        out.blewUp = course.verdict() == flow::Verdict::Diverged;
        out.atRest = course.verdict() == flow::Verdict::Settled;
        return out;
    }

    /// From the grid with a quarter of the cells; on the coarsest from a small angle by turns. A potential flow at a
    /// large angle rushes round the trailing edge, and what comes of that may not be come back from.
    void start(flow::Solver& solver, int level, double alpha) const {
        if (level > 0) {
            const Level& l = levels_[static_cast<std::size_t>(level - 1)];
            flow::Solver coarse(l.grid, l.geometry, caseOf(what_, alpha), ranks_);
            start(coarse, level - 1, alpha);
            if (toRest(coarse, alpha, kCoarseIterations, false).blewUp) {
                solver.start().fromPotentialFlow();
                return;
            }
            solver.setCirculation(0.5 * coarse.coefficients().CL);
            solver.start().fromCoarser(coarse.cloud());
            return;
        }
        const int turns = static_cast<int>(std::ceil(std::abs(alpha) / kLargestTurn)) - 1;
        if (turns <= 0) {
            solver.start().fromPotentialFlow();
            return;
        }
        std::optional<Settled> last;
        for (int k = 0; k < turns; ++k) {
            const double a = alpha - std::copysign((turns - k) * kLargestTurn, alpha);
            const flow::Case c = caseOf(what_, a);
            flow::Solver on(levels_[0].grid, levels_[0].geometry, c, ranks_);
            if (last) {
                on.setCirculation(last->circulation);
                on.start().fromNeighbour(last->checkpoint, last->wind);
            } else {
                on.start().fromPotentialFlow();
            }
            if (toRest(on, alpha, kTurnIterations, false).blewUp) break;
            last = Settled{a, on.checkpoint(), c.wind, 0.5 * on.coefficients().CL};
        }
        if (!last) {
            solver.start().fromPotentialFlow();
            return;
        }
        solver.setCirculation(last->circulation);
        solver.start().fromNeighbour(last->checkpoint, last->wind);
    }

    SectionField what_;
    const OnField& onField_;
    flow::Ranks ranks_ = flow::Ranks::alone();
    std::vector<Level> levels_;
    std::vector<Settled> settled_;
};

}  // namespace

std::vector<SectionFieldPoint> solveSectionField(const section::Contour& contour, const SectionField& what,
                                                 const std::vector<double>& alphas, const OnField& onField,
                                                 const std::function<void(const SectionFieldPoint&)>& onPoint) {
    if (!(what.reynolds >= 1e4 && what.reynolds <= 1e9))
        throw base::InputError(fmt::format("the Reynolds number is {:g}.", what.reynolds), "field",
                               "Give 1e4 to 1e9; below that no layer is turbulent.");
    if (what.level < 0 || what.level > 2)
        throw base::InputError(fmt::format("the grid's level is {}.", what.level), "field", "Give 0, 1 or 2.");
    for (const double a : alphas)
        if (!(std::abs(a) <= 0.53))
            throw base::InputError(fmt::format("an angle of attack is {:g} deg.", a * 57.29577951), "field",
                                   "Give -30 to 30 deg.");
    Sweep sweep(contour, what, onField);
    std::vector<SectionFieldPoint> out(alphas.size());
    std::vector<std::size_t> order(alphas.size());
    std::iota(order.begin(), order.end(), 0u);
    std::sort(order.begin(), order.end(),
              [&](std::size_t a, std::size_t b) { return std::abs(alphas[a]) < std::abs(alphas[b]); });
    for (const std::size_t i : order) {
        out[i] = sweep.solve(alphas[i]);
        if (onPoint) onPoint(out[i]);
    }
    return out;
}

}  // namespace cvane::campaign
