// Compressible flows with exact or published answers.
//   gas_bench wedge|corner [cells along] [Mach] [angle_deg]      shock or expansion at a corner of the floor
//   gas_bench section [level] [Mach] [alpha_deg] [Reynolds M]    0012; without a Reynolds number frictionless
//   gas_bench tube [cells]                                       the shock tube of G. A. Sod, J. Comput. Phys. 27, 1978
//   gas_bench plate [Mach] [y+]                                  turbulent plate, adiabatic: friction by van Driest's
//   second method, recovery factor
//   gas_bench slow [level]                                       0012 at Mach 0.05 beside the same of incompressible
//   air Further words: name=value with iterations, relaxation, order (1: first), far (chords), model (0 SST, 1 one
//   equation), rest (residual at which it ends).
#include <fmt/format.h>
#include <mpi.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <map>
#include <string>

#include "base/units.h"
#include "bench/corner_flow.h"
#include "flow/solver.h"
#include "grid/c_grid.h"
#include "grid/structured.h"

using namespace cvane;

namespace {

using Options = std::map<std::string, double>;

double option(const Options& o, const std::string& name, double otherwise) {
    const auto it = o.find(name);
    return it == o.end() ? otherwise : it->second;
}

air::FreeStream windOf(double mach, double alpha) {
    air::FreeStream w;
    w.speed = mach * w.air.soundSpeed;
    w.alpha = alpha;
    return w;
}

struct Run {
    grid::Grid grid;
    grid::Geometry geometry;
    flow::Case c;
    flow::Ranks ranks;
    std::unique_ptr<flow::Solver> solver;
    int iterations = 0;
    double chord = 1.0;

    void settle(const Options& o, int most, double rest) {
        most = static_cast<int>(option(o, "iterations", most));
        rest = option(o, "rest", rest);
        c.settings.relaxation = option(o, "relaxation", c.settings.relaxation);
        c.settings.secondOrder = option(o, "order", 2.0) > 1.5;
        geometry = grid::geometryOf(grid);
        solver = std::make_unique<flow::Solver>(grid, geometry, c, ranks);
        solver->start().fromPotentialFlow();
        const auto t0 = std::chrono::steady_clock::now();
        flow::Residuals r;
        for (iterations = 0; iterations < most; ++iterations) {
            r = solver->iterate();
            const auto k = solver->coefficients();
            if (c.vortexAt) solver->setCirculation(0.5 * k.CL * c.wind.speed * chord);
            if (iterations < 5 || iterations % std::max(1, most / 15) == 0)
                fmt::print("  {:5d} U {:.1e} m {:.1e} H {:.1e} k {:.1e} w {:.1e} CL {:.5f} CD {:.6f} p-its {}\n",
                           iterations, r.momentum, r.mass, r.energy, r.first, r.second, k.CL, k.CD,
                           solver->pressureIterations());
            if (!(std::abs(k.CD) < 1e6) || (iterations > 20 && r.worst() < rest)) break;
        }
        fmt::print("  {} cells, {} iterations, {:.1f} s; U {:.1e} m {:.1e} H {:.1e}\n", grid.cells(), iterations,
                   std::chrono::duration<double>(std::chrono::steady_clock::now() - t0).count(), r.momentum, r.mass,
                   r.energy);
    }
    double mach(std::size_t i) const {
        const auto& f = solver->flow();
        return f.state.U[i].norm() / f.gas->soundSpeedAt(f.temperatureIn(i));
    }
};

int corner(int n, double M, double angle, const Options& o) {
    Run r;
    r.grid = bench::cornerGrid(n, angle);
    r.c.wind = windOf(M, 0.0);
    r.c.compressible = true;
    r.c.settings.model = flow::Model::Inviscid;
    r.c.tunnel.closed = true;
    r.settle(o, 600, 1e-6);
    const auto& f = r.solver->flow();
    const double g = f.gas->gamma;
    double ratio = 0.0, machBehind = 0.0, most = 0.0, least = 1e300;
    int count = 0;
    std::vector<Vec3> shock;
    for (std::size_t i = 0; i < static_cast<std::size_t>(f.piece.cells); ++i) {
        const Vec3& x = f.piece.x[i];
        const double p = f.gas->pressureOf(f.state.p[i]) / f.gas->pressure(), up = x.z() - x.x() * std::tan(angle);
        most = std::max(most, p), least = std::min(least, p);
        if (x.x() > 0.5 && x.x() < 0.8 && up > 0.03 && up < 0.12) {
            ratio += p, machBehind += r.mach(i), ++count;
        }
    }
    ratio /= count, machBehind /= count;
    fmt::print("  pressures from {:.4f} to {:.4f} of the free stream's\n", least, most);
    if (angle < 0.0) {
        double low = M, high = 10.0;
        for (int i = 0; i < 60; ++i) {
            const double m = 0.5 * (low + high);
            (bench::prandtlMeyer(m, g) - bench::prandtlMeyer(M, g) < -angle ? low : high) = m;
        }
        fmt::print("Mach behind the corner {:.4f}, exact {:.4f} ({:+.2f} %)\n", machBehind, low,
                   100.0 * (machBehind / low - 1.0));
        return 0;
    }
    const auto exact = bench::obliqueShock(M, angle, g);
    // The shock by columns: where the pressure passes half of its rise.
    std::map<int, std::map<double, double>> columns;
    for (std::size_t i = 0; i < static_cast<std::size_t>(f.piece.cells); ++i)
        columns[static_cast<int>(i) % n][f.piece.x[i].z()] = f.gas->pressureOf(f.state.p[i]) / f.gas->pressure();
    double sxx = 0, sxz = 0, sx = 0, sz = 0, m = 0;
    for (const auto& [column, line] : columns) {
        const double x = -0.25 + 1.25 * (column + 0.5) / n, half = 0.5 * (1.0 + exact[1]);
        if (x < 0.3 || x > 0.9) continue;
        for (auto a = line.begin(), b = std::next(a); b != line.end(); ++a, ++b)
            if (a->second >= half && b->second < half) {
                const double z = a->first + (a->second - half) / (a->second - b->second) * (b->first - a->first);
                sxx += x * x, sxz += x * z, sx += x, sz += z, ++m;
                break;
            }
    }
    if (option(o, "profile", 0.0) > 0.5)
        for (const auto& [z, p] : columns[n * 2 / 3]) fmt::print("  z {:.4f} p {:.4f}\n", z, p);
    const double slope = (m * sxz - sx * sz) / (m * sxx - sx * sx);
    fmt::print("shock at {:.2f} deg, exact {:.2f}; pressure ratio {:.4f}, exact {:.4f} ({:+.2f} %)\n",
               std::atan(slope) / base::degree, exact[0] / base::degree, ratio, exact[1],
               100.0 * (ratio / exact[1] - 1.0));
    return 0;
}

// The 0012 of E. N. Jacobs, K. E. Ward, R. M. Pinkerton, NACA Rep. 460, 1933, carried on to where its sides meet and
// scaled to a chord of 1, as J. C. Vassberg, A. Jameson, J. Aircraft 47(4), 2010, have it; from the lower corner of the
// trailing edge by the nose.
std::vector<Eigen::Vector2d> sharp0012(int perSide) {
    constexpr double kEnd = 1.008930411365;
    std::vector<Eigen::Vector2d> out;
    for (int i = -perSide; i <= perSide; ++i) {
        // Denser at the trailing edge and densest at the nose.
        const double t = std::abs(i) / static_cast<double>(perSide),
                     x = kEnd * (0.5 * (1.0 - std::cos(std::acos(-1.0) * t)) * 0.7 + 0.3 * t * t);
        const double y =
            std::abs(i) == perSide
                ? 0.0
                : 0.6 * (0.2969 * std::sqrt(x) + x * (-0.1260 + x * (-0.3516 + x * (0.2843 - 0.1015 * x))));
        out.emplace_back(x / kEnd, (i < 0 ? -y : y) / kEnd);
    }
    return out;
}

Run sectionRun(int level, double M, double alpha, double reynolds, bool compressible, const Options& o) {
    Run r;
    grid::CGrid g;
    g.outline = sharp0012(32 << level);
    g.away = 30 << level, g.wake = 16 << level;
    g.far = option(o, "far", 25.0);
    r.c.wind = windOf(M, alpha);
    r.c.compressible = compressible;
    r.c.tunnel.sideways = -0.1;
    r.c.reference = {1.0, 1.0, 1.0, Vec3(0.25, 0.0, 0.0)};
    r.c.vortexAt = Vec3(0.25, 0.0, 0.0);
    if (reynolds > 0.0) {
        r.c.wind.air.viscosity = r.c.wind.air.density * r.c.wind.speed / reynolds;
        r.c.settings.model = option(o, "model", 0.0) > 0.5 ? flow::Model::SpalartAllmaras : flow::Model::Sst;
        g.firstHeight = 2.0 * 8.0 / reynolds * 2.5 / (1 << level) * 4.0;
        g.away = 40 << level;
    } else {
        r.c.settings.model = flow::Model::Inviscid;
        g.firstHeight = 0.016 / (1 << level);
    }
    r.grid = grid::cGrid(g);
    return r;
}

int section(int level, double M, double alpha, double reynolds, const Options& o) {
    Run r = sectionRun(level, M, alpha, reynolds, true, o);
    r.settle(o, 2000, 1e-6);
    const auto k = r.solver->coefficients();
    double most = 0.0;
    for (std::size_t i = 0; i < static_cast<std::size_t>(r.solver->piece().cells); ++i)
        most = std::max(most, r.mach(i));
    if (option(o, "where", 0.0) > 0.5) {
        const auto& f = r.solver->flow();
        std::vector<std::size_t> cells(static_cast<std::size_t>(f.piece.cells));
        for (std::size_t i = 0; i < cells.size(); ++i) cells[i] = i;
        std::partial_sort(cells.begin(), cells.begin() + 12, cells.end(),
                          [&](std::size_t a, std::size_t b) { return r.mach(a) > r.mach(b); });
        for (std::size_t k = 0; k < 12; ++k) {
            const auto i = cells[k];
            const Vec3& x = f.piece.x[i];
            fmt::print(
                "  Mach {:.2f} at {:.4f} {:.5f}: U {:.1f} {:.1f}, p {:.3f}, density {:.3f}, shock {:.2f}, wall "
                "{:.6f}\n",
                r.mach(i), x.x(), x.z(), f.state.U[i].x(), f.state.U[i].z(), f.state.p[i] / f.gas->pressure(),
                f.state.density[i], f.shock[i], f.piece.wallDistance[i]);
        }
    }
    const auto y = r.solver->read().yPlusRange();
    fmt::print("Mach {} alpha {:.2f}: CL {:.4f} CD {:.5f} Cm {:.4f}; highest Mach {:.3f}; y+ to {:.2f}\n", M,
               alpha / base::degree, k.CL, k.CD, k.Cm, most, y.second);
    if (option(o, "cp", 0.0) > 0.5)
        for (const auto& w : r.solver->read().wallSamples())
            fmt::print("cp {:.4f} {:.4f} {:.4f}\n", w.place.x(), w.place.z(),
                       2.0 * w.p / (r.c.wind.speed * r.c.wind.speed));
    return 0;
}

// Friction of a turbulent adiabatic plate by E. R. van Driest's second method (Aero. Eng. Review 15, 1956): that of
// incompressible flow, 1 / sqrt(cf) = 4.15 log10(Re cf) + 1.7, at Re F_x, over F_c.
double vanDriestFriction(double Re, double M, double g, double recovery, double viscosityRatio) {
    const double rm = recovery * 0.5 * (g - 1.0) * M * M, Fc = rm / std::pow(std::asin(std::sqrt(rm / (1.0 + rm))), 2);
    double cf = 0.003;
    for (int i = 0; i < 50; ++i) cf = std::pow(4.15 * std::log10(Re / (viscosityRatio * Fc) * cf) + 1.7, -2.0);
    return cf / Fc;
}

int plate(double M, double yPlus, const Options& o) {
    Run r;
    const double reynolds = option(o, "reynolds", 10e6), factor = option(o, "factor", 1.0);
    r.c.wind = windOf(M, 0.0);
    r.c.wind.air.viscosity = r.c.wind.air.density * r.c.wind.speed / reynolds;
    r.c.compressible = true;
    r.c.tunnel.closed = true;
    r.c.settings.model = option(o, "model", 0.0) > 0.5 ? flow::Model::SpalartAllmaras : flow::Model::Sst;
    grid::PlateGrid g;
    g.height = 0.8, g.along = static_cast<int>(100 * factor), g.ahead = static_cast<int>(30 * factor),
    g.across = static_cast<int>(90 * factor);
    // The friction velocity of cf 0.0022 at the wall's density.
    const double wall = 1.0 + 0.89 * 0.2 * M * M;
    g.firstHeight = 2.0 * yPlus * wall * std::pow(wall, 0.76) / (reynolds * std::sqrt(0.0011 * wall));
    r.grid = grid::plateGrid(g);
    r.settle(o, 1500, 1e-6);
    const auto& f = r.solver->flow();
    for (const double x : {0.4, 0.6, 0.8}) {
        double cf = 0.0, nearest = 1e300;
        for (const auto& w : r.solver->read().wallSamples())
            if (std::abs(w.place.x() - x) < nearest) {
                nearest = std::abs(w.place.x() - x);
                cf = w.shear.norm() / (0.5 * r.c.wind.speed * r.c.wind.speed);
            }
        // The wall is as warm as the air of the cell on it.
        double T = 0.0, low = 1e300;
        for (std::size_t i = 0; i < static_cast<std::size_t>(f.piece.cells); ++i)
            if (std::abs(f.piece.x[i].x() - x) < 0.01 && f.piece.x[i].z() < low) {
                low = f.piece.x[i].z();
                T = f.temperatureIn(i);
            }
        const double recovery = (T / f.gas->T - 1.0) / (f.gas->totalTemperature() / f.gas->T - 1.0);
        const double exact = vanDriestFriction(reynolds * x, M, f.gas->gamma, 0.89,
                                               f.gas->viscosityOf((1.0 + 0.89 * 0.2 * M * M) * f.gas->T) / f.gas->nu);
        fmt::print("x {:.1f}: cf {:.6f}, van Driest {:.6f} ({:+.1f} %); recovery factor of the first cell {:.4f}\n", x,
                   cf, exact, 100.0 * (cf / exact - 1.0), recovery);
    }
    return 0;
}

int slow(int level, const Options& o) {
    air::Coefficients k[2];
    for (const bool compressible : {false, true}) {
        Run r =
            sectionRun(level, option(o, "mach", 0.05), 2.0 * base::degree, option(o, "reynolds", 0.0), compressible, o);
        r.settle(o, 1000, 1e-6);
        k[compressible] = r.solver->coefficients();
    }
    fmt::print("incompressible CL {:.5f} CD {:.6f}; compressible CL {:.5f} ({:+.2f} %) CD {:.6f}\n", k[0].CL, k[0].CD,
               k[1].CL, 100.0 * (k[1].CL / k[0].CL - 1.0), k[1].CD);
    return 0;
}

// Density of Sod's tube at x / t, in its own units: left 1, 1, right 0.125, 0.1.
double sodDensity(double s, double g) {
    const double aL = std::sqrt(g), aR = std::sqrt(g * 0.1 / 0.125);
    double low = 0.1, high = 1.0;  // pressure between: the speeds from either side agree
    double u = 0.0;
    for (int i = 0; i < 80; ++i) {
        const double p = 0.5 * (low + high);
        u = 2.0 * aL / (g - 1.0) * (1.0 - std::pow(p, 0.5 * (g - 1.0) / g));
        const double right = (p - 0.1) * std::sqrt(2.0 / (0.125 * ((g + 1.0) * p + (g - 1.0) * 0.1)));
        (u > right ? low : high) = p;
    }
    const double p = 0.5 * (low + high), aM = aL * std::pow(p, 0.5 * (g - 1.0) / g);
    const double shock = aR * std::sqrt(0.5 * (g + 1.0) / g * p / 0.1 + 0.5 * (g - 1.0) / g);
    if (s < -aL) return 1.0;
    if (s < u - aM) return std::pow(2.0 / (g + 1.0) - (g - 1.0) / (g + 1.0) * s / aL, 2.0 / (g - 1.0));
    if (s < u) return std::pow(p, 1.0 / g);
    if (s < shock) return 0.125 * (p / 0.1 + (g - 1.0) / (g + 1.0)) / ((g - 1.0) / (g + 1.0) * p / 0.1 + 1.0);
    return 0.125;
}

int tube(int n, const Options& o) {
    const auto x = grid::evenLine(0.0, 1.0, n), across = grid::evenLine(0.0, 1.0 / n, 1);
    Run r;
    r.grid = grid::boxGrid(x, across, across, {0, 1, 2, 3, 4, 5});
    r.geometry = grid::geometryOf(r.grid);
    auto& air = r.c.wind.air;
    air.pressure = 1e4, air.density = 0.125, air.temperature = 1e4 / (0.125 * 287.05),
    air.soundSpeed = std::sqrt(1.4e4 / 0.125);
    r.c.wind.speed = 100.0;  // a scale alone: nothing blows in
    r.c.compressible = true;
    r.c.tunnel.closed = true;
    r.c.settings.model = flow::Model::Inviscid;
    flow::Solver solver(r.grid, r.geometry, r.c, r.ranks);
    flow::State s = solver.state();
    const flow::GasLaw gas(r.c.wind);
    const double unit = std::sqrt(1e5);  // of speed, sqrt(p / rho) on the left
    for (std::size_t c = 0; c < s.p.size(); ++c) {
        const bool left = solver.piece().x[c].x() < 0.5;
        const double T = left ? 1e5 / 287.05 : air.temperature;
        s.U[c] = Vec3::Zero();
        s.p[c] = left ? (1e5 - 1e4) / 0.125 : 0.0;
        s.enthalpy[c] = gas.cp() * (T - gas.T) - 0.5 * gas.speed * gas.speed;
        s.density[c] = left ? 8.0 : 1.0;
    }
    std::fill(s.flux.begin(), s.flux.end(), 0.0);
    solver.restore(s);
    const double end = 0.2 / unit, courant = option(o, "courant", 0.5), step = courant / n / (2.2 * unit);
    const int steps = static_cast<int>(std::ceil(end / step));
    solver.setTimeStep(end / steps);
    for (int i = 0; i < steps; ++i) solver.iterate(option(o, "share", 1e-3), static_cast<int>(option(o, "inner", 10)));
    double error = 0.0, most = 0.0, least = 1e300;
    for (std::size_t c = 0; c < static_cast<std::size_t>(n); ++c) {
        const double at = solver.piece().x[c].x(), rho = 0.125 * solver.state().density[c],
                     exact = sodDensity((at - 0.5) / 0.2, 1.4);
        error += std::abs(rho - exact) / n;
        most = std::max(most, rho), least = std::min(least, rho);
        if (option(o, "profile", 0.0) > 0.5) fmt::print("  {:.4f} {:.4f} {:.4f}\n", at, rho, exact);
    }
    fmt::print("{} cells, {} steps: mean error of the density {:.5f}; it lies between {:.4f} and {:.4f} (0.125, 1)\n",
               n, steps, error, least, most);
    return 0;
}

}  // namespace

int main(int argc, char** argv) {
    MPI_Init(&argc, &argv);
    std::vector<double> numbers;
    Options o;
    for (int i = 2; i < argc; ++i) {
        const std::string word = argv[i];
        if (const auto at = word.find('='); at != std::string::npos)
            o[word.substr(0, at)] = std::stod(word.substr(at + 1));
        else
            numbers.push_back(std::stod(word));
    }
    const auto number = [&](std::size_t i, double otherwise) { return i < numbers.size() ? numbers[i] : otherwise; };
    const std::string name = argc > 1 ? argv[1] : "wedge";
    int code = 2;
    if (name == "wedge")
        code = corner(static_cast<int>(number(0, 100)), number(1, 2.0), number(2, 10.0) * base::degree, o);
    else if (name == "corner")
        code = corner(static_cast<int>(number(0, 100)), number(1, 2.0), -number(2, 10.0) * base::degree, o);
    else if (name == "section")
        code = section(static_cast<int>(number(0, 1)), number(1, 0.8), number(2, 1.25) * base::degree,
                       1e6 * number(3, 0.0), o);
    else if (name == "tube")
        code = tube(static_cast<int>(number(0, 200)), o);
    else if (name == "plate")
        code = plate(number(0, 2.0), number(1, 1.0), o);
    else if (name == "slow")
        code = slow(static_cast<int>(number(0, 1)), o);
    else
        fmt::print("There is no flow \"{}\".\n", name);
    MPI_Finalize();
    return code;
}
