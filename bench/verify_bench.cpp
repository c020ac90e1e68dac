// Flows with exact or published answers on structured grids.
//   verify_bench manufactured [size factor] [uniform|hanging|layers|ball]   orders of the coupled equations
//   verify_bench plate|cylinder|cavity [size factor] [Re]       laminar; factor 1: 100 to 160 cells a side
//   verify_bench cavity 1 [Re] even                              on 128 x 128 equal cells, those of U. Ghia, K. N.
//   Ghia, C. T. Shin 1982 verify_bench sstplate [size factor] [y+] [sst|sa|ke]         turbulent plate, Re 5 M per
//   metre; y+ of the first cell's centre
//   verify_bench diffuser [size factor] [y+] [sst|sa|ke]         plane diffuser in which the flow separates
#include <fmt/format.h>
#include <mpi.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <map>
#include <string>

#include "bench/diffuser.h"
#include "bench/manufactured.h"
#include "bench/models.h"
#include "flow/solver.h"
#include "grid/brick.h"
#include "grid/build.h"
#include "grid/structured.h"

using namespace cvane;
using grid::Grid;

namespace {

struct Run {
    Grid grid;
    grid::Geometry geometry;
    flow::Case c;
    flow::Ranks ranks;
    std::unique_ptr<flow::Solver> solver;

    // Until the flow rests: all residuals below `rest`, or the iterations are used up.
    void settle(int most, double rest) {
        geometry = grid::geometryOf(grid);
        solver = std::make_unique<flow::Solver>(grid, geometry, c, ranks);
        solver->start().fromPotentialFlow();
        const auto t0 = std::chrono::steady_clock::now();
        flow::Residuals r;
        int it = 0;
        for (; it < most; ++it) {
            r = solver->iterate();
            const auto k = solver->coefficients();
            if (ranks.rank() == 0 && (it < 3 || it % std::max(1, most / 12) == 0))
                fmt::print("  {:5d} U {:.1e} m {:.1e} k {:.1e} w {:.1e} CD {:.6f} p-its {}\n", it, r.momentum, r.mass,
                           r.first, r.second, k.CD, solver->pressureIterations());
            if (!(k.CD < 1e6) || (it > 20 && r.worst() < rest)) break;
        }
        if (ranks.rank() == 0)
            fmt::print("  {} cells, {} iterations, {:.1f} s; residuals U {:.1e} m {:.1e} k {:.1e} w {:.1e}\n",
                       grid.cells(), it, std::chrono::duration<double>(std::chrono::steady_clock::now() - t0).count(),
                       r.momentum, r.mass, r.first, r.second);
    }
    /// Own wall samples by x of their face: |friction| over the dynamic pressure.
    std::map<double, double> friction() const {
        std::map<double, double> cf;
        for (const auto& w : solver->read().wallSamples())
            cf[geometry.faceCentre[static_cast<std::size_t>(w.face)].x()] =
                w.shear.norm() / (0.5 * c.wind.speed * c.wind.speed);
        return cf;
    }
};

double at(const std::map<double, double>& line, double x) {
    const auto b = line.lower_bound(x);
    if (b == line.begin() || b == line.end()) return std::nan("");
    const auto a = std::prev(b);
    return a->second + (x - a->first) / (b->first - a->first) * (b->second - a->second);
}

Run plane(flow::Model model, double nu) {
    Run r;
    r.c.wind.speed = 1.0;
    r.c.tunnel.closed = true;  // one cell across, between walls along which the air slips
    r.c.settings.model = model;
    r.c.wind.air.viscosity = r.c.wind.air.density * nu;
    r.c.reference = {1.0, 1.0, 1.0, Vec3::Zero()};
    return r;
}

void plate(double factor) {
    const double nu = 1e-5;  // Re_x 1e5 at the end
    Run r = plane(flow::Model::Laminar, nu);
    grid::PlateGrid s;
    s.along = static_cast<int>(100 * factor);
    s.ahead = static_cast<int>(30 * factor);
    s.across = static_cast<int>(60 * factor);
    s.firstAlong = 2e-3 / factor;
    s.firstHeight = 1e-4 / factor;
    s.height = 4.0;
    s.upstream = 0.5;
    r.grid = grid::plateGrid(s);
    r.settle(4000, 1e-10);
    const auto cf = r.friction();
    double worst = 0.0;
    for (const double x : {0.1, 0.15, 0.2, 0.3, 0.5, 0.7, 0.9, 0.95}) {
        const double blasius = 0.664 / std::sqrt(x / nu);
        worst = std::max(worst, std::abs(at(cf, x) / blasius - 1.0));
        fmt::print("  Re_x {:8.0f}  cf {:.6f}  Blasius {:.6f}  {:+.2f} %\n", x / nu, at(cf, x), blasius,
                   100.0 * (at(cf, x) / blasius - 1.0));
    }
    fmt::print("laminar plate: worst {:.2f} % from Re_x 1e4 to 1e5 (asked: 2)\n", 100.0 * worst);
}

void cylinder(double factor, double Re, double rim) {
    Run r = plane(flow::Model::Laminar, 1.0 / Re);
    grid::CylinderGrid s;
    s.around = static_cast<int>(160 * factor);
    s.across = static_cast<int>(100 * factor);
    s.firstHeight = 0.008 / factor;
    s.rim = rim;
    r.grid = grid::cylinderGrid(s);
    r.settle(6000, 1e-9);
    // The bubble ends where the velocity on the wake's axis turns forward; the axis lies between two rows of cells.
    std::map<double, double> wake;
    const auto& x = r.solver->piece().x;
    const double half = 1.2 * std::acos(-1.0) / s.around;
    for (std::size_t c = 0; c < x.size(); ++c)
        if (x[c].x() > 0.0 && std::abs(x[c].z()) < half * x[c].x())
            wake[std::hypot(x[c].x(), x[c].z())] = r.solver->state().U[c].x();
    double end = 0.0, before = 0.0, uBefore = 0.0;
    for (const auto& [d, u] : wake) {
        if (u > 0.0 && uBefore < 0.0) end = before + (d - before) * uBefore / (uBefore - u);
        before = d;
        uBefore = u;
    }
    fmt::print("cylinder Re {}: CD {:.4f}, bubble {:.3f} D behind the body\n", Re, r.solver->coefficients().CD,
               end - s.radius);
}

void cavity(double factor, double Re, bool even) {
    Run r = plane(flow::Model::Laminar, 1.0 / Re);
    const int n = 2 * static_cast<int>((even ? 64 : 60) * factor);
    const auto line = even ? grid::evenLine(0.0, 1.0, n) : grid::gradedLineBothEnds(0.0, 1.0, n, 0.4 / n);
    r.grid = grid::boxGrid(line, {0.0, 1.0}, line, {0, 1, 4, 5});
    r.c.moving = {{"z+", Vec3(1.0, 0.0, 0.0), Vec3::Zero(), Vec3::Zero()}};
    r.settle(8000, 1e-10);
    // Velocity on the centre lines, from the cells on both sides of them.
    std::map<double, double> u, v;
    const auto& x = r.solver->piece().x;
    const auto& state = r.solver->state();
    const double h = line[static_cast<std::size_t>(n / 2 + 1)] - line[static_cast<std::size_t>(n / 2)];
    for (std::size_t c = 0; c < x.size(); ++c) {
        if (std::abs(x[c].x() - 0.5) < 0.75 * h) u[std::round(1e9 * x[c].z()) * 1e-9] += 0.5 * state.U[c].x();
        if (std::abs(x[c].z() - 0.5) < 0.75 * h) v[std::round(1e9 * x[c].x()) * 1e-9] += 0.5 * state.U[c].z();
    }
    // The vertex of the parabola through the extreme value and its neighbours.
    const auto extreme = [](const std::map<double, double>& line_, bool least) {
        const auto it = least ? std::min_element(line_.begin(), line_.end(),
                                                 [](const auto& a, const auto& b) { return a.second < b.second; })
                              : std::max_element(line_.begin(), line_.end(),
                                                 [](const auto& a, const auto& b) { return a.second < b.second; });
        const auto a = std::prev(it), b = std::next(it);
        const double d1 = (it->second - a->second) / (it->first - a->first),
                     d2 = (b->second - it->second) / (b->first - it->first);
        const double curve = (d2 - d1) / (b->first - a->first);
        const double place = 0.5 * (a->first + it->first) - 0.5 * d1 / curve;
        return std::pair(place,
                         it->second + curve * (place - it->first) * (place - a->first) + d1 * (place - it->first));
    };
    const auto show = [](const char* what, std::pair<double, double> got, double where, double value) {
        fmt::print("  {} {:+.4f} at {:.4f}; published {:+.4f} at {:.3f}: {:+.2f} %\n", what, got.second, got.first,
                   value, where, 100.0 * (got.second / value - 1.0));
    };
    show("min u", extreme(u, true), 0.172, -0.3829);
    show("max v", extreme(v, false), 0.156, 0.3710);
    show("min v", extreme(v, true), 0.906, -0.5155);
}

flow::Model modelNamed(const std::string& name) {
    return name == "sa" ? flow::Model::SpalartAllmaras : name == "ke" ? flow::Model::KEpsilon : flow::Model::Sst;
}

// Re 18,000 on the channel's height and its mean velocity, as in the measurement (20,000 on the velocity in its
// middle); the flow comes to its developed state in the channel ahead.
void diffuser(double factor, double yPlus, const std::string& model) {
    const double nu = 1.0 / 18000.0;
    Run r = plane(modelNamed(model), nu);
    // So little that what sustains it adds nothing to the wide channel, where omega falls to tenths.
    r.c.settings.turbulenceIntensity = 0.02;
    r.c.settings.turbulenceLength = 2.0;
    r.c.settings.relaxation = 0.7;  // cautious: the settled flow does not depend on it
    bench::Diffuser d;
    d.size = 1.0 / factor;
    d.growth = std::pow(1.2, 1.0 / factor);
    d.firstHeight = 2.0 * yPlus * nu / 0.055;  // friction velocity of the developed channel
    r.grid = bench::diffuserGrid(d);
    r.settle(8000, 1e-8);
    std::map<double, double> level, falling;  // friction along the wind, over the dynamic pressure
    std::map<double, double> pressure;        // on the falling wall
    for (const auto& w : r.solver->read().wallSamples()) {
        const Vec3& at = r.geometry.faceCentre[static_cast<std::size_t>(w.face)];
        (at.z() > 0.99 ? level : falling)[at.x()] = 2.0 * w.shear.x();
        if (at.z() < 0.99) pressure[at.x()] = 2.0 * w.p;
    }
    fmt::print("  channel: cf {:.5f} at x -5, {:.5f} at -20 (Dean 1978: {:.5f})\n", at(level, -5.0), at(level, -20.0),
               0.073 * std::pow(18000.0, -0.25));
    for (const double x : {0.0, 5.0, 10.0, 15.0, 20.0, 25.0, 30.0, 40.0, 60.0})
        fmt::print("  x {:4.0f}: cf {:+.5f} level, {:+.5f} falling; Cp {:.3f}\n", x, at(level, x), at(falling, x),
                   at(pressure, x) - at(pressure, -5.0));
    // The longest stretch of flow that runs back.
    double from = 0.0, to = 0.0, begin = 0.0, before = -1.0, last = 1.0;
    for (const auto& [x, cf] : falling) {
        const auto zero = [&] { return before + (x - before) * last / (last - cf); };
        if (last > 0.0 && cf <= 0.0) begin = zero();
        if (last < 0.0 && cf >= 0.0 && zero() - begin > to - from) from = begin, to = zero();
        before = x;
        last = cf;
    }
    fmt::print("plane diffuser, y+ {}: separates at {:.1f}, comes back at {:.1f} (measured 7.4 and 29.2)\n", yPlus,
               from, to);
}

void sstPlate(double factor, double yPlus, const std::string& model) {
    const double nu = 2e-7;
    Run r = plane(modelNamed(model), nu);
    r.c.settings.turbulenceIntensity = 0.00039;  // k = 2.25e-7 U^2, as in the verification case
    grid::PlateGrid s;
    s.length = 2.0;
    s.upstream = 0.33;
    s.height = 1.0;
    s.along = static_cast<int>(112 * factor);
    s.ahead = static_cast<int>(24 * factor);
    s.firstAlong = 2e-3 / factor;
    s.firstHeight = 2.0 * yPlus * nu / 0.0368;  // friction velocity at x = 1
    // Cells grow by about 1.2 over factor from the wall.
    const double growth = std::pow(1.2, 1.0 / factor);
    s.across =
        std::max(20, static_cast<int>(std::log(1.0 + s.height * (growth - 1.0) / s.firstHeight) / std::log(growth)));
    r.grid = grid::plateGrid(s);
    r.settle(6000, 1e-8);
    const auto cf = r.friction();
    double wall = 0.0;
    for (const auto& l : r.solver->read().loadsByPatch()) wall += l.friction.x();
    const double CD = wall / (0.5 * r.c.wind.air.density);
    fmt::print(
        "turbulent plate, y+ {}: cf at x = 0.97 {:.6f} ({:+.2f} % of 0.00271), CD {:.6f} ({:+.2f} % of 0.00286)\n",
        yPlus, at(cf, 0.97), 100.0 * (at(cf, 0.97) / 0.00271 - 1.0), CD, 100.0 * (CD / 2.0 / 0.00286 - 1.0));
}

// Orders of the coupled equations on three kinds of grid, each halved twice.
void manufactured(double factor, const std::string& only) {
    const auto show = [&](const char* what, int first, auto&& make) {
        if (!only.empty() && only != what) return;
        const flow::Ranks ranks;
        std::array<double, 2> before{};
        double sizeBefore = 1.0;
        for (int n = static_cast<int>(std::lround(first * factor)), turn = 0; turn < 3; n *= 2, ++turn) {
            const auto g = make(n);
            const auto e = bench::manufacturedErrors(g, ranks);
            // Mean size of the cells that a point in the air lies in, as the errors are means over the air.
            double sum = 0.0, volume = 0.0;
            for (const double V : grid::geometryOf(g).volume) {
                sum += V * std::cbrt(V);
                volume += V;
            }
            const double size = sum / volume, finer = std::log(sizeBefore / size);
            if (ranks.rank() == 0) {
                fmt::print("  {:8} {:3d}, {} cells of {:.4f}: U {:.3e}, p {:.3e}", what, n, g.cells(), size, e[0],
                           e[1]);
                if (turn > 0)
                    fmt::print("; orders {:.2f}, {:.2f}", std::log(before[0] / e[0]) / finer,
                               std::log(before[1] / e[1]) / finer);
                fmt::print("\n");
                std::fflush(stdout);
            }
            before = e;
            sizeBefore = size;
        }
    };
    const Box box{{0, 0, 0}, {1, 1, 1}};
    show("uniform", 8, [](int n) {
        return grid::boxGrid(grid::evenLine(0, 1, n), grid::evenLine(0, 1, n), grid::evenLine(0, 1, n), {});
    });
    show("hanging", 6, [&](int n) {
        return grid::refinedBrick(box, {n, n, n}, {{grid::reachesInto({{0.0, 0.0, 0.0}, {0.499, 0.499, 0.999}}), 1}});
    });
    show("layers", 12, [](int n) {
        return grid::boxGrid(grid::evenLine(0, 1, n), grid::evenLine(0, 1, n), grid::gradedLine(0, 1, n, 0.025 / n),
                             {});
    });
    // A ball with layers in an octree whose largest cells are about halved each time, the others at least.
    show("ball", 10, [](int n) {
        const grid::Tunnel tunnel{1.0, 1.0, 1.0, 1.0, 1.0, grid::Floor::None, 0.0, false};
        grid::GridSettings s;
        s.cellBudget = 3 * n * n * n;
        s.layers = 3;
        s.firstHeight = 0.12 / n;
        s.curvatureLevels = 0;
        s.wakeLength = 0.0;
        s.bufferCells = 2;
        s.finerPlaces = {{grid::FinerPlace::Shape::Box, Vec3::Constant(-1.0), Vec3::Constant(1.0), 0.0, 1.3 / n}};
        return grid::build(bench::sphere(0.2, 60), tunnel, s, {});
    });
}

}  // namespace

int main(int argc, char** argv) {
    MPI_Init(&argc, &argv);
    const std::string name = argc > 1 ? argv[1] : "plate";
    const double factor = argc > 2 ? std::stod(argv[2]) : 1.0,
                 extra = argc > 3 && name != "manufactured" ? std::stod(argv[3]) : 0.0;
    if (name == "manufactured") manufactured(factor, argc > 3 ? argv[3] : "");
    if (name == "plate") plate(factor);
    if (name == "cylinder") cylinder(factor, extra > 0.0 ? extra : 40.0, argc > 4 ? std::stod(argv[4]) : 60.0);
    if (name == "cavity") cavity(factor, extra > 0.0 ? extra : 1000.0, argc > 4 && std::string(argv[4]) == "even");
    if (name == "sstplate") sstPlate(factor, extra > 0.0 ? extra : 0.2, argc > 4 ? argv[4] : "sst");
    if (name == "diffuser") diffuser(factor, extra > 0.0 ? extra : 1.0, argc > 4 ? argv[4] : "sst");
    MPI_Finalize();
}
