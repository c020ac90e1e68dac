#include "campaign/steps/section_field.h"

#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <numeric>
#include <optional>

#include "base/errors.h"
#include "flow/course.h"
#include "grid/c_grid.h"
#include "section/potential/panelling.h"

namespace cvane::campaign {
using Clock = std::chrono::steady_clock;

namespace {
constexpr std::size_t kCoarseIterations = 500;

/// Speed, chord and span are 1.
flow::Case caseOf(const SectionField& what, double alpha) {
    flow::Case c;
    c.wind.speed = 1.0;
    c.wind.alpha = alpha;
    c.wind.air.viscosity = c.wind.air.density / what.reynolds;
    c.tunnel.sideways = -0.1;  // walls along which the air slips, on both sides
    c.reference = {1.0, 1.0, 1.0, Vec3(0.25, 0.0, 0.0)};
    c.vortexAt = Vec3(0.25, 0.0, 0.0);
    c.settings.turbulenceIntensity = what.turbulence;
    c.settings.mostIterations = what.mostIterations;
    return c;
}

/// Whether the coefficients have come to rest: over the last 80 iterations they moved by less than what is asked of
/// them. The mean of a swinging flow, which the other stages wait for, is not what a steady section is read for.
bool atRest(const std::vector<air::Coefficients>& history, double residual) {
    constexpr std::size_t kWindow = 80;
    if (history.size() < 2 * kWindow || !(residual < 2e-3)) return false;
    double low = 1e300, high = -1e300, least = 1e300, most = -1e300;
    for (std::size_t i = history.size() - kWindow; i < history.size(); ++i) {
        low = std::min(low, history[i].CL), high = std::max(high, history[i].CL);
        least = std::min(least, history[i].CD), most = std::max(most, history[i].CD);
    }
    return high - low < 1e-3 * std::max(1.0, std::abs(high)) && most - least < 2e-3 * std::abs(most);
}

void readWall(SectionFieldPoint& out, const flow::Solver& solver, const grid::Geometry& geometry, double alpha) {
    const Vec3 wind(std::cos(alpha), 0.0, std::sin(alpha));
    for (const auto& w : solver.wallSamples()) {
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
    g.firstHeight = grid::firstHeightOfSection(2.0 / (1 << what.level), what.reynolds, 1.0);
    return grid::cGrid(g);
}

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
    const auto grid = sectionGrid(contour, what);
    const auto geometry = grid::geometryOf(grid);
    const auto ranks = flow::Ranks::alone();
    std::vector<SectionFieldPoint> out(alphas.size());
    std::vector<std::size_t> order(alphas.size());
    std::iota(order.begin(), order.end(), 0u);
    std::sort(order.begin(), order.end(),
              [&](std::size_t a, std::size_t b) { return std::abs(alphas[a]) < std::abs(alphas[b]); });
    struct Kept {
        flow::Checkpoint checkpoint;
        air::FreeStream wind;
        double circulation;
    };
    std::vector<std::pair<double, Kept>> settled;
    for (const std::size_t i : order) {
        const auto began = Clock::now();
        const flow::Case c = caseOf(what, alphas[i]);
        flow::Solver solver(grid, geometry, c, ranks);
        const auto near = std::min_element(settled.begin(), settled.end(), [&](const auto& a, const auto& b) {
            return std::abs(a.first - alphas[i]) < std::abs(b.first - alphas[i]);
        });
        if (near == settled.end()) {
            // A grid with a quarter of the cells gives the start.
            if (what.level > 0) {
                SectionField coarse = what;
                --coarse.level;
                const auto c2 = caseOf(coarse, alphas[i]);
                const auto grid2 = sectionGrid(contour, coarse);
                const auto geometry2 = grid::geometryOf(grid2);
                flow::Solver first(grid2, geometry2, c2, ranks);
                first.startFromPotentialFlow();
                flow::Course way(first, c2.settings);
                way.onlyToRest();
                while (way.verdict() == flow::Verdict::Running && way.history().size() < kCoarseIterations) {
                    const auto step = way.iterate();
                    if (way.history().empty()) continue;
                    first.setCirculation(0.5 * way.history().back().CL);
                    if (atRest(way.history(), step.residuals.worst())) break;
                    if (onField && way.history().size() % 50 == 0 &&
                        !onField(alphas[i], 0, way.history().back().CL, way.history().back().CD))
                        throw base::Cancelled();
                }
                solver.setCirculation(0.5 * first.coefficients().CL);
                solver.startFromCoarser(first.cloud());
            } else {
                solver.startFromPotentialFlow();
            }
        } else {
            solver.setCirculation(near->second.circulation);
            solver.startFromNeighbour(near->second.checkpoint, near->second.wind);
        }
        flow::Course course(solver, c.settings);
        course.onlyToRest();
        SectionFieldPoint& p = out[i];
        while (course.verdict() == flow::Verdict::Running) {
            p.residual = course.iterate().residuals.worst();
            if (course.history().empty()) continue;
            const auto& k = course.history().back();
            solver.setCirculation(0.5 * k.CL);  // speed and chord are 1
            if (onField && course.history().size() % 20 == 0 &&
                !onField(alphas[i], static_cast<int>(course.history().size()), k.CL, k.CD))
                throw base::Cancelled();
            if (atRest(course.history(), p.residual)) {
                p.settled = true;
                break;
            }
        }
        const auto saved = solver.checkpoint();
        const auto k = solver.coefficients();
        p.alpha = alphas[i];
        p.cells = grid.cells();
        p.iterations = static_cast<int>(course.history().size());
        p.seconds = std::chrono::duration<double>(Clock::now() - began).count();
        p.blewUp = course.verdict() == flow::Verdict::Diverged || !(std::abs(k.CL) < 10.0) || !(std::abs(k.CD) < 10.0);
        if (p.blewUp) {
            p.settled = false;
            if (onPoint) onPoint(p);
            continue;
        }
        p.cl = k.CL, p.cd = k.CD, p.cm = k.Cm;
        p.settled = p.settled || course.verdict() == flow::Verdict::Settled;
        p.highestYPlus = solver.yPlusRange().second;
        readWall(p, solver, geometry, alphas[i]);
        if (p.settled) settled.push_back({alphas[i], {saved, c.wind, 0.5 * k.CL}});
        if (onPoint) onPoint(p);
    }
    return out;
}

}  // namespace cvane::campaign
