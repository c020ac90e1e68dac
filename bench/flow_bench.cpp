// Flow cases with published answers.
//   flow_bench sphere100|inviscid|section|wing|hemisphere|endon|disc|box|ellipsoid [cells] [alpha_deg] [iterations]
//   [buffer cells] [relaxation] [name=value ...] Names: stretch (of cells along y), tunnel (its lengths times this),
//   levels (for curvature), layers, first (height [m]), speed [m/s], model (0 SST, 4 inviscid), limiter (0 poor cells,
//   1 all, 2 none), precision (0 double, 1 mixed), from (which iteration, a multiple of ten, steps of time are taken;
//   0: once the flow swings), floor (0 none, 1 fixed, 2 moving), slant (of the box's back [deg]), half (1: half a
//   model), order (1: first), beta [deg], least (iterations), sideways (of the section's tunnel, in spans; -0.3 leaves
//   3.2 m between the walls), facets (of the ball, around), intensity and eddies (of the free stream's turbulence: rms
//   over speed, length [m]).
#include <fmt/format.h>
#include <mpi.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <string>

#include "air/plate_layer.h"
#include "base/units.h"
#include "bench/lifting_surface.h"
#include "bench/models.h"
#include "flow/course.h"
#include "flow/marks.h"
#include "flow/solver.h"
#include "grid/build.h"
#include "grid/memory.h"
#include "grid/quality.h"

using namespace cvane;

namespace {

// Bytes that the sweeps of one SST iteration have to move if every array is read or written once a sweep: sizes of the
// arrays as stored, per face and per cell.
double bytesOfIteration(double faces, double cells, double pressureIterations) {
    struct Sweep {
        double perFace, perCell, times;
    };
    const double P = pressureIterations;
    const Sweep sweeps[] = {
        {56, 96, 2},  // gradient of U: P, N, two coefficients; U, gradU
        {56, 32, 3},  // gradients of p, k, omega
        {128, 160,
         1},  // momentum: P, N, w, gap, S, xf, d, flux, places and values of the matrix; U, gradU, x, gamma, b, diag
        {24, 84, 3},      // residual and two sweeps over the matrix, three components
        {64, 80, 1},      // pressure force
        {128, 184, 1},    // pressure equation
        {24, 28, 6 * P},  // its solution: the first sweep and its residual half of the matrix each, another sweep, a
                          // product; coarse levels as much again
        {0, 80, P},       // and its vectors
        {64, 72, 1},      // correction of the fluxes and of the velocities that follow them
        {104, 100, 2},    // k and omega
        {24, 28, 6},      // their matrices
        {0, 120, 1},      // sources, eddy viscosity
    };
    double sum = 0.0;
    for (const Sweep& s : sweeps) sum += s.times * (s.perFace * faces + s.perCell * cells);
    return sum;
}

// a = b + s c over arrays that no cache holds, all ranks at once. @return bytes a second of all ranks
double bandwidth(const flow::Ranks& ranks) {
    const std::size_t n = 8u << 20;
    std::vector<double> a(n, 0.0), b(n, 1.0), c(n, 2.0);
    double best = 0.0;
    for (int turn = 0; turn < 6; ++turn) {
        MPI_Barrier(MPI_COMM_WORLD);
        const auto t0 = std::chrono::steady_clock::now();
        for (std::size_t i = 0; i < n; ++i) a[i] = b[i] + (1.0 + turn) * c[i];
        MPI_Barrier(MPI_COMM_WORLD);
        best = std::max(best, 24.0 * static_cast<double>(n) /
                                  std::chrono::duration<double>(std::chrono::steady_clock::now() - t0).count());
    }
    return a[n / 2] > 0.0 ? ranks.sum(best) : 0.0;
}

// Length of the bubble behind a ball around the origin: to where the velocity on the axis turns forward, along the
// slope of the nearest cell. [m]
double bubbleBehindBall(const flow::FlowCloud& flow, double radius) {
    std::vector<std::size_t> near;
    for (std::size_t i = 0; i < flow.x.size(); ++i)
        if (flow.x[i].tail<2>().norm() < 0.5 * radius && flow.x[i].x() > 0.0 && flow.x[i].x() < 8.0 * radius)
            near.push_back(i);
    double before = 0.0;
    const double step = 0.002 * radius;
    for (double x = 1.05 * radius; x < 7.0 * radius && !near.empty(); x += step) {
        const Vec3 place(x, 0.0, 0.0);
        const auto i = *std::min_element(near.begin(), near.end(), [&](std::size_t a, std::size_t b) {
            return (flow.x[a] - place).squaredNorm() < (flow.x[b] - place).squaredNorm();
        });
        const double u = flow.at.U[i].x() + flow.gradU[i].row(0).dot(place - flow.x[i]);
        if (before < 0.0 && u >= 0.0) return x - radius - step * u / (u - before);
        before = u;
    }
    return 0.0;
}

// The ground's boundary layer ahead of a model whose nose is at x = 0: displacement and momentum thickness from the
// profile over the axis, by nearest cells along their slopes, and those of the turbulent plate from the inlet on.
void printGroundLayer(const flow::FlowCloud& flow, double V, double nu, const grid::Geometry& geo) {
    double inlet = 1e300, ground = 1e300;
    for (const Vec3& x : geo.faceCentre) {
        inlet = std::min(inlet, x.x());
        ground = std::min(ground, x.z());
    }
    for (const double place : {-2.0, -1.0, -0.5}) {
        std::vector<std::size_t> near;
        for (std::size_t i = 0; i < flow.x.size(); ++i)
            if (std::abs(flow.x[i].x() - place) < 1.0 && std::abs(flow.x[i].y()) < 1.0 && flow.x[i].z() < ground + 2.0)
                near.push_back(i);
        const int n = 400;
        const double top = 0.5;
        std::vector<double> u;
        for (int k = 0; k < n; ++k) {
            const Vec3 at(place, 0.02, ground + top * (k + 0.5) / n);
            const auto i = *std::min_element(near.begin(), near.end(), [&](std::size_t a, std::size_t b) {
                return (flow.x[a] - at).squaredNorm() < (flow.x[b] - at).squaredNorm();
            });
            u.push_back(flow.at.U[i].x() + flow.gradU[i].row(0).dot(at - flow.x[i]));
        }
        const double edge = u.back();
        double displacement = 0.0, momentum = 0.0;
        for (const double v : u) {
            displacement += (1.0 - v / edge) * top / n;
            momentum += v / edge * (1.0 - v / edge) * top / n;
        }
        const double run = place - inlet, delta = 0.37 * run * std::pow(V * run / nu, -0.2);
        fmt::print(
            "ground layer at x = {:.1f} m: displacement {:.2f} mm, plate {:.2f} ({:+.0f} %); momentum {:.2f} mm, plate "
            "{:.2f}\n",
            place, 1e3 * displacement, 1e3 * delta / 8.0, 100.0 * (displacement / (delta / 8.0) - 1.0), 1e3 * momentum,
            1e3 * delta * 7.0 / 72.0);
    }
}

}  // namespace

int main(int argc, char** argv) {
    MPI_Init(&argc, &argv);
    const flow::Ranks ranks;
    const bool talk = ranks.rank() == 0;
    const std::string name = argc > 1 ? argv[1] : "sphere100";
    const int cells = argc > 2 ? std::stoi(argv[2]) : 100000;
    const double alpha = argc > 3 ? std::stod(argv[3]) : 0.0;
    flow::Case c;
    c.settings.mostIterations = argc > 4 ? std::stoi(argv[4]) : 600;
    grid::GridSettings gs;
    gs.cellBudget = cells;
    const auto isNumber = [&](int i) { return argc > i && std::string(argv[i]).find('=') == std::string::npos; };
    if (isNumber(5)) gs.bufferCells = std::stoi(argv[5]);
    if (isNumber(6)) c.settings.relaxation = std::stod(argv[6]);
    shape::Surface s;
    const double pi = std::acos(-1.0);
    const bench::MappedSection section{0.06, 2.0 - 14.0 / 180.0};
    if (name == "wing") {
        s = bench::rectangularHalfWing(0.12, 3.0, 80, 60);
        c.tunnel.halfModel = true;
        c.tunnel.downstream = 7.0;
        c.wind.speed = 30.0;  // Re 2.05 M on the chord
        c.reference = {6.0, 1.0, 6.0, Vec3(0.25, 0, 0)};
        gs.firstHeight = 1.5e-3;
        gs.wakeLength = 0.2;
    } else if (name == "hemisphere" || name == "endon") {
        // Blunt bodies at Re 2 M on their diameter, drag on the frontal area.
        s = name == "endon" ? bench::cylinder(0.5, 2.0, 96) : bench::hemisphere(0.5, 96);
        c.wind.speed = 30.0;
        c.reference = {pi / 4.0, 1.0, 1.0, Vec3::Zero()};
        c.tunnel = {5.0, 8.0, 5.0, 5.0, 5.0, grid::Floor::None, 0.0, false};
        gs.wakeLength = 1.5;
        gs.firstHeight = 2e-3;
    } else if (name == "section") {
        s = bench::sectionSlab(section, 400);
        c.tunnel = {2.5, 3.0, -0.05, 2.5, 2.5, grid::Floor::None, 0.0, false};
        gs.stretch.y() = 2.0;
        c.settings.model = flow::Model::Inviscid;
        c.wind.speed = 30.0;
        c.reference = {7.2, 1.0, 1.0, Vec3(0.25, 0, 0)};
        gs.wakeLength = 0.0;
    } else if (name == "box") {
        s = bench::roundNosedBox(0.0);
        c.wind.speed = 40.0;
        c.reference = {0.389 * 0.288, 1.044, 0.389, Vec3(0.522, 0, 0)};
        c.tunnel = {5.0, 8.0, 3.0, 4.0, 4.0, grid::Floor::Fixed, 0.05, false};
        gs.firstHeight = 1e-3;
    } else if (name == "ellipsoid") {
        s = bench::ellipsoid({1.0, 0.4, 0.3}, 120);
        c.wind.speed = 20.0;
        c.reference = {pi * 0.4 * 0.3 / 4.0, 1.0, 0.4, Vec3::Zero()};
        gs.firstHeight = 1e-3;
    } else if (name == "disc") {
        // A lightly loaded disc of 1 m radius in free air, with a ball of 5 cm far aside for the grid to be built
        // around.
        s = bench::sphere(0.05, 24);
        for (Vec3& p : s.points) p += Vec3(0.0, 6.0, 0.0);
        c.settings.model = flow::Model::Inviscid;
        c.wind.speed = 20.0;
        c.reference = {1.0, 1.0, 1.0, Vec3::Zero()};
        c.tunnel = {150.0, 200.0, 180.0, 120.0, 120.0, grid::Floor::None, 0.0, false};
        gs.layers = 2;
        gs.curvatureLevels = 0;
        gs.wakeLength = 0.0;
        gs.finerPlaces = {{grid::FinerPlace::Shape::Cylinder, Vec3(-1.0, 0, 0), Vec3(4.0, 0, 0), 1.3, 0.1}};
        c.discs = {{"disc", Vec3::Zero(), Vec3::UnitX(), 0.0, 1.0, 500.0, 0.0, 0.0}};
    } else if (name == "sphere100" || name == "inviscid") {
        // Frictionless flow feels every edge of the model: its facets are to be far smaller than the cells.
        s = bench::sphere(0.5, name == "inviscid" ? 480 : 120);
        c.wind.speed = 1.0;
        c.reference = {pi / 4.0, 1.0, 1.0, Vec3::Zero()};
        c.tunnel = {10.0, 20.0, 10.0, 10.0, 10.0, grid::Floor::None, 0.0, false};
        gs.layers = 4;
        gs.wakeLength = 1.5;
        if (name == "sphere100") {
            c.settings.model = flow::Model::Laminar;
            c.wind.air.viscosity = c.wind.air.density * 0.01;
            gs.curvatureLevels = 0;
            gs.firstHeight = 0.008;
        } else {
            c.settings.model = flow::Model::Inviscid;
            gs.curvatureLevels = 0;
            gs.wakeLength = 0.0;
        }
    } else {
        if (talk)
            fmt::print(stderr,
                       "flow_bench: there is no case \"{}\": wing, hemisphere, endon, section, box, ellipsoid, disc, "
                       "sphere100 or inviscid.\n",
                       name);
        MPI_Finalize();
        return 2;
    }
    std::size_t stepFrom = 0;
    bool adapts = false;
    for (int i = 2; i < argc; ++i) {
        const std::string word = argv[i];
        const auto equals = word.find('=');
        if (equals == std::string::npos) continue;
        const std::string key = word.substr(0, equals);
        const double value = std::stod(word.substr(equals + 1));
        if (key == "stretch") gs.stretch.y() = value;
        if (key == "layers") gs.layers = static_cast<int>(value);
        if (key == "levels") gs.curvatureLevels = static_cast<int>(value);
        if (key == "first") gs.firstHeight = value;
        if (key == "speed") c.wind.speed = value;
        if (key == "model") c.settings.model = static_cast<flow::Model>(static_cast<int>(value));
        if (key == "limiter") c.settings.limiter = static_cast<flow::Limiter>(static_cast<int>(value));
        if (key == "precision") c.settings.precision = static_cast<flow::Precision>(static_cast<int>(value));
        if (key == "sideways") {
            c.tunnel.sideways = value;
            c.reference.area = 8.0 * (1.0 + 2.0 * value);
        }
        if (key == "facets") s = bench::sphere(0.5, static_cast<int>(value));
        if (key == "floor") c.tunnel.floor = static_cast<grid::Floor>(static_cast<int>(value));
        if (key == "ahead") c.groundLayerFrom = -value;
        if (key == "slant") s = bench::roundNosedBox(value * base::degree);
        if (key == "adapt") adapts = value > 0.0;
        if (key == "half") c.tunnel.halfModel = value > 0.0;
        if (key == "order") c.settings.secondOrder = value > 1.0;
        if (key == "beta") c.wind.beta = value * base::degree;
        if (key == "least") c.settings.leastIterations = static_cast<int>(value);
        if (key == "length") s = bench::cylinder(0.5, value, 96);
        if (key == "intensity") c.settings.turbulenceIntensity = value;
        if (key == "eddies") c.settings.turbulenceLength = value;
        if (key == "from") stepFrom = static_cast<std::size_t>(value);
        if (key == "tunnel")
            for (double* length :
                 {&c.tunnel.upstream, &c.tunnel.downstream, &c.tunnel.sideways, &c.tunnel.above, &c.tunnel.below})
                *length *= value;
    }
    c.wind.alpha = alpha * base::degree;
    if (c.tunnel.floor == grid::Floor::Fixed)
        gs.groundLayer =
            air::plateLayerThickness(c.groundLayerFrom ? -*c.groundLayerFrom : c.tunnel.upstream * c.reference.length,
                                     c.wind.speed, c.wind.air.kinematicViscosity());
    std::optional<flow::FlowCloud> first;
    if (adapts) {
        // Half of the cells first; where their flow asks for smaller ones, the second grid has them.
        auto half = gs;
        half.cellBudget /= 2;
        const auto g1 = grid::build(s, c.tunnel, half, {});
        const auto geo1 = grid::geometryOf(g1);
        auto short1 = c;
        short1.settings.mostIterations = 400;
        flow::Solver solver1(g1, geo1, short1, ranks);
        solver1.start().fromPotentialFlow();
        flow::Course course1(solver1, short1.settings);
        course1.onlyToRest();
        while (course1.verdict() == flow::Verdict::Running) course1.iterate();
        first = solver1.cloud();
        if (talk)
            fmt::print("first grid: {} cells, size {:.4f}, CD {:.4f}, CL {:.4f} after {}\n", g1.cells(), g1.surfaceCell,
                       course1.history().back().CD, course1.history().back().CL, course1.history().size());
        const auto whole = flow::gatheredAtRoot(*first, ranks);
        std::vector<double> weights(static_cast<std::size_t>(g1.cells()));
        if (ranks.rank() == 0) weights = flow::refinementWeights(whole, g1, geo1, c.wind.speed);
        ranks.fromRoot(weights);
        gs.marks = std::make_shared<grid::Marks>(flow::marksOf(weights, geo1, half.cellBudget));
    }
    const auto g = grid::build(s, c.tunnel, gs, {});
    const auto geo = grid::geometryOf(g);
    if (talk)
        fmt::print("{} cells, size {:.4f}; {}; {}\n", g.cells(), g.surfaceCell, g.notes,
                   grid::verdictOf(g, grid::qualityOf(g, geo)));
    flow::Solver solver(g, geo, c, ranks);
    if (first)
        solver.start().fromCoarser(*first);
    else
        solver.start().fromPotentialFlow();
    flow::Course course(solver, c.settings);
    course.stepInTimeFrom(stepFrom);
    const auto& history = course.history();
    const auto t0 = std::chrono::steady_clock::now();
    double pressureIterations = 0.0;
    while (course.verdict() == flow::Verdict::Running) {
        const auto [r, notice, wentBack] = course.iterate();
        pressureIterations += solver.pressureIterations();
        if (talk && !notice.empty()) fmt::print("{}\n", notice);
        if (wentBack) continue;
        const auto& k = history.back();
        if (talk && (history.size() % 25 == 0 || history.size() < 6 || course.verdict() != flow::Verdict::Running))
            fmt::print(
                "{:4d} U {:.2e} m {:.2e} k {:.2e} w {:.2e}  CL {:.5f} CD {:.5f} CY {:.5f} Cm {:.5f}  [{} p-its, "
                "relaxation {:.2f}, {:.1f} s]\n",
                history.size(), r.momentum, r.mass, r.first, r.second, k.CL, k.CD, k.CY, k.Cm,
                solver.pressureIterations(), solver.relaxation().now(),
                std::chrono::duration<double>(std::chrono::steady_clock::now() - t0).count());
    }
    const auto verdict = course.verdict();
    const double each = std::chrono::duration<double>(std::chrono::steady_clock::now() - t0).count() /
                        static_cast<double>(history.size());
    course.finish();
    if (const auto from = course.averagedFrom(); talk && from) {
        const auto CD = flow::columnOf(history, &air::Coefficients::CD);
        const auto s = flow::spreadOf(CD, history.size() - *from);
        fmt::print("averaged from iteration {}: CD {:.4f} +- {:.4f}, swinging by +-{:.4f}\n", *from, s.mean,
                   flow::errorOfMean(CD, *from), s.halfRange());
    }
    // The grid stands once in every rank here, more than the solver process needs (memory_GB in its monitor.csv).
    const double memory = ranks.sum(1e-9 * static_cast<double>(grid::peakMemory()));
    if (c.settings.model == flow::Model::Sst) {
        const double bytes = bytesOfIteration(static_cast<double>(g.internalFaces()), g.cells(),
                                              pressureIterations / static_cast<double>(history.size())),
                     rate = bandwidth(ranks);
        if (talk)
            fmt::print(
                "{:.3f} s an iteration, {:.2f} s a million cells; it must move {:.2f} GB, at {:.1f} GB/s {:.3f} s: "
                "{:.1f} times that\n",
                each, each * 1e6 / g.cells(), bytes * 1e-9, rate * 1e-9, bytes / rate, each * rate / bytes);
    }
    flow::Load sum;
    for (const auto& l : solver.read().loadsByPatch()) {
        sum.pressure += l.pressure;
        sum.friction += l.friction;
    }
    const double imbalance = solver.read().massImbalance();
    const Vec3 outside = solver.read().forceFromOutside();
    if (talk)
        fmt::print("force from outside {:.5f} {:.5f} {:.5f} N, on the model {:.5f} {:.5f} {:.5f} N: drag {:+.2f} %\n",
                   outside.x(), outside.y(), outside.z(), sum.force().x(), sum.force().y(), sum.force().z(),
                   100.0 * (outside.dot(c.wind.dragAxis()) / sum.force().dot(c.wind.dragAxis()) - 1.0));
    if (c.tunnel.floor == grid::Floor::Fixed) {
        const auto flow = flow::gatheredAtRoot(solver.cloud(), ranks);
        const auto felt = solver.read().groundDisplacement();
        if (talk && felt)
            fmt::print("ground layer at the model, from the friction: displacement {:.2f} mm\n", 1e3 * *felt);
        if (talk) printGroundLayer(flow, c.wind.speed, c.wind.air.kinematicViscosity(), geo);
    }
    for (const auto& d : solver.read().discs())
        if (talk)
            fmt::print(
                "disc: thrust {:.1f} N, inflow {:.3f} m/s, power {:.1f} W, momentum theory {:.1f} W: {:+.2f} %\n",
                d.thrust, d.inflow, d.power, d.theoryPower, 100.0 * (d.power / d.theoryPower - 1.0));
    if (talk)
        fmt::print("memory of all ranks {:.2f} GB, {:.2f} GB a million cells\n", memory, memory * 1e6 / g.cells());
    if (talk)
        fmt::print("{}; pressure drag share {:.3f}, imbalance {:.1e}\n", flow::nameOf(verdict),
                   sum.pressure.x() / sum.force().x(), imbalance);
    if (name == "box") {
        // Where the drag comes from: the rounded front, the back with its slant, friction.
        double parts[3] = {0.0, 0.0, 0.0};
        const double back = 1.044 - 0.23;
        for (const auto& w : solver.read().wallSamples()) {
            const auto f = static_cast<std::size_t>(w.face);
            const double p = w.p * geo.faceArea[f].x();
            parts[geo.faceCentre[f].x() < 0.2 ? 0 : geo.faceCentre[f].x() > back ? 1 : 2] += p;
        }
        ranks.sum(std::span<double>(parts, 3));
        const double qS = 0.5 * c.wind.speed * c.wind.speed * c.reference.area;
        if (talk)
            fmt::print("pressure drag: front {:.4f}, back {:.4f}, between {:.4f}; friction {:.4f}\n", parts[0] / qS,
                       parts[1] / qS, parts[2] / qS, sum.friction.x() / (c.wind.air.density * qS));
    }
    if (name == "wing" && talk && alpha != 0.0) {
        const double CL = history.back().CL, helmbold = 12.0 * pi / (2.0 + std::sqrt(40.0)) * c.wind.alpha,
                     surface = bench::liftSlopeOfFlatWing(6.0) * c.wind.alpha;
        fmt::print(
            "wing: CL {:.4f}; Helmbold {:.4f}: {:+.2f} %; flat lifting surface of this planform {:.4f}: {:+.2f} %\n",
            CL, helmbold, 100.0 * (CL / helmbold - 1.0), surface, 100.0 * (CL / surface - 1.0));
    }
    if (name == "sphere100") {
        const auto flow = flow::gatheredAtRoot(solver.cloud(), ranks);
        if (talk) fmt::print("bubble {:.3f} D behind the ball\n", bubbleBehindBall(flow, 0.5));
    }
    if (name == "section" && talk && alpha != 0.0) {
        const double exact = section.lift(c.wind.alpha);
        fmt::print("section: cl {:.4f}, in potential flow {:.4f}: {:+.2f} %; cd {:.5f}\n", history.back().CL, exact,
                   100.0 * (history.back().CL / exact - 1.0), history.back().CD);
    }
    if (name == "inviscid" && ranks.size() == 1) {
        double worst = 0.0, squares = 0.0, area = 0.0;
        Vec3 place = Vec3::Zero();
        std::vector<std::pair<double, double>> errors;  // and their areas
        for (const auto& w : solver.read().wallSamples()) {
            const Vec3& x = geo.faceCentre[static_cast<std::size_t>(w.face)];
            const double cosT = -x.normalized().x(), error = std::abs(2.0 * w.p - (1.0 - 2.25 * (1.0 - cosT * cosT)));
            const double here = geo.faceArea[static_cast<std::size_t>(w.face)].norm();
            squares += here * error * error;
            area += here;
            errors.push_back({error, here});
            if (error > worst) place = x;
            worst = std::max(worst, error);
        }
        std::sort(errors.rbegin(), errors.rend());
        double beyond = 0.0;
        std::size_t k = 0;
        while (beyond < 0.001 * area) beyond += errors[k++].second;
        fmt::print(
            "Cp: worst error {:.4f}, at ({:.3f} {:.3f} {:.3f}), {:.5f} rms over the surface, 99.9 % of it within "
            "{:.4f}\n",
            worst, place.x(), place.y(), place.z(), std::sqrt(squares / area), errors[k].first);
    }
    MPI_Finalize();
}
