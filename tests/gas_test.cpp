// Gases, their state in motion and at rest, and the compressible flow of an ideal gas.
#include "air/gas.h"

#include <gtest/gtest.h>

#include <cmath>

#include "base/errors.h"
#include "base/units.h"
#include "bench/corner_flow.h"
#include "flow/solver.h"

namespace cvane {
namespace {
const air::Gas& gasNamed(const std::string& name) {
    for (const auto& g : air::commonGases())
        if (g.name == name) return g;
    throw std::logic_error(name);
}

air::FreeStream windAt(double mach) {
    air::FreeStream w;
    w.speed = mach * w.air.soundSpeed;
    return w;
}
}  // namespace

TEST(Gas, AirIsThatOfTheStandardAtmosphere) {
    const auto air = air::stateOf(gasNamed("air"), 101325.0, 288.15);
    const auto standard = air::standardAtmosphere(0.0, 0.0);
    EXPECT_NEAR(air.density, standard.density, 1e-6);
    EXPECT_NEAR(air.soundSpeed, standard.soundSpeed, 1e-3);
    EXPECT_NEAR(air.viscosity, standard.viscosity, 1e-9);
    EXPECT_NEAR(air.gasConstant(), 287.05287, 1e-4);
    EXPECT_NEAR(air.ratioOfHeats(), 1.4, 1e-9);
}

// Speeds of sound at 0 deg C: CRC Handbook of Chemistry and Physics, 97th ed., 14-48. Constant heats near 300 K are
// good for half a per cent of it there, carbon dioxide, whose heats change most, for a per cent.
TEST(Gas, CarriesSoundAsFastAsMeasured) {
    EXPECT_NEAR(air::stateOf(gasNamed("helium"), 101325.0, 273.15).soundSpeed, 973.0, 5.0);
    EXPECT_NEAR(air::stateOf(gasNamed("argon"), 101325.0, 273.15).soundSpeed, 307.8, 1.5);
    EXPECT_NEAR(air::stateOf(gasNamed("hydrogen"), 101325.0, 273.15).soundSpeed, 1261.0, 10.0);
    EXPECT_NEAR(air::stateOf(gasNamed("oxygen"), 101325.0, 273.15).soundSpeed, 315.5, 1.6);
    EXPECT_NEAR(air::stateOf(gasNamed("carbon dioxide"), 101325.0, 273.15).soundSpeed, 258.0, 2.6);
}

// Viscosity at 300 K and 400 K [micropascal seconds]: the same handbook, 6-231.
TEST(Gas, GrowsMoreViscousAsMeasured) {
    const struct {
        const char* gas;
        double at300, at400;
    } known[] = {{"nitrogen", 17.9, 22.1},
                 {"oxygen", 20.7, 25.8},
                 {"helium", 20.0, 24.4},
                 {"argon", 22.7, 28.6},
                 {"hydrogen", 9.0, 10.9},
                 {"carbon dioxide", 15.0, 19.7},
                 {"sulphur hexafluoride", 15.3, 19.7}};
    for (const auto& k : known) {
        EXPECT_NEAR(1e6 * air::stateOf(gasNamed(k.gas), 1e5, 300.0).viscosity / k.at300, 1.0, 0.02) << k.gas;
        EXPECT_NEAR(1e6 * air::stateOf(gasNamed(k.gas), 1e5, 400.0).viscosity / k.at400, 1.0, 0.02) << k.gas;
    }
}

// 998.2 kg/m3, 1.002 mPa s, 1482 m/s at 20 deg C.
TEST(Gas, WaterIsALiquid) {
    const auto water = air::stateOf(gasNamed("water"), 101325.0, 293.15);
    EXPECT_NEAR(water.density, 998.2, 0.1);
    EXPECT_NEAR(water.viscosity, 1.002e-3, 1e-6);
    EXPECT_NEAR(water.soundSpeed, 1482.3, 0.5);
    EXPECT_NEAR(air::stateOf(gasNamed("water"), 101325.0, 323.15).viscosity, 5.47e-4, 5e-6);
    EXPECT_NEAR(air::totalPressure(water, 10.0), 101325.0 + 0.5 * water.density * 100.0, 1e-6);
    EXPECT_THROW(air::stateOf(gasNamed("water"), 101325.0, 263.15), base::InputError);
}

TEST(Gas, RefusesWhatCannotBe) {
    air::Gas odd;
    EXPECT_THROW(air::stateOf(odd, 101325.0, -3.0), base::InputError);
    EXPECT_THROW(air::stateOf(odd, 0.0, 288.0), base::InputError);
    odd.ratioOfHeats = 0.9;
    EXPECT_THROW(air::stateOf(odd, 101325.0, 288.0), base::InputError);
}

// At Mach 1 the total pressure is 1.8929 of the static one, the total temperature 1.2; sonic at Cp -0.4346 of a stream
// of Mach 0.8 (isentropic tables).
TEST(Gas, ComesToRestWithoutLoss) {
    const air::Air air;
    EXPECT_NEAR(air::totalPressure(air, air.soundSpeed) / air.pressure, 1.8929, 1e-4);
    EXPECT_NEAR(air::totalTemperature(air, air.soundSpeed) / air.temperature, 1.2, 1e-6);
    EXPECT_NEAR(air::speedFromTotalPressure(air::totalPressure(air, 250.0), air), 250.0, 1e-6);
    EXPECT_EQ(air::speedFromTotalPressure(air.pressure, air), 0.0);
    EXPECT_NEAR(air::criticalPressureCoefficient(0.8, 1.4), -0.4346, 1e-4);
    EXPECT_NEAR(air::criticalPressureCoefficient(1.0, 1.4), 0.0, 1e-12);
}

namespace {
struct Duct {
    grid::Grid grid;
    flow::Case c;
    flow::Ranks ranks;
    std::unique_ptr<flow::Solver> solver;
    int cells;

    Duct(int n, double mach, double angle_deg) : grid(bench::cornerGrid(n, angle_deg * base::degree)), cells(n) {
        c.wind = windAt(mach);
        c.compressible = true;
        c.settings.model = flow::Model::Inviscid;
        c.tunnel.closed = true;
        solver = std::make_unique<flow::Solver>(grid, grid::geometryOf(grid), c, ranks);
        solver->start().fromPotentialFlow();
    }
    void settle(int iterations) {
        for (int i = 0; i < iterations; ++i) solver->iterate();
    }
    /// Means over the floor behind the corner: pressure over the free stream's, and Mach number. Collective.
    std::array<double, 2> behind(double angle_deg) const {
        const auto& f = solver->flow();
        double sums[3] = {0.0, 0.0, 0.0};
        for (std::size_t i = 0; i < static_cast<std::size_t>(f.piece.cells); ++i) {
            const Vec3& x = f.piece.x[i];
            const double up = x.z() - x.x() * std::tan(angle_deg * base::degree);
            if (x.x() < 0.4 || x.x() > 0.8 || up < 0.03 || up > 0.12) continue;
            sums[0] += f.gas->pressureOf(f.state.p[i]) / f.gas->pressure();
            sums[1] += f.state.U[i].norm() / f.gas->soundSpeedAt(f.temperatureIn(i));
            sums[2] += 1.0;
        }
        ranks.sum(std::span<double>(sums, 3));
        return {sums[0] / sums[2], sums[1] / sums[2]};
    }
};
}  // namespace

// Rounding and the iterations' own tolerance alone.
TEST(CompressibleFlow, AUniformStreamStaysUniform) {
    for (const double mach : {0.1, 0.6, 2.0}) {
        Duct d(24, mach, 0.0);
        d.settle(10);
        const auto& f = d.solver->flow();
        for (std::size_t i = 0; i < static_cast<std::size_t>(f.piece.cells); ++i) {
            EXPECT_NEAR(f.state.p[i] / f.gas->pressure(), 0.0, 1e-9) << mach;
            EXPECT_NEAR(f.state.U[i].x() / d.c.wind.speed, 1.0, 1e-9) << mach;
        }
    }
}

// Oblique shock of 10 deg at Mach 2: 1.7066 in pressure; the coarse grid leaves half a per cent.
TEST(CompressibleFlow, AShockAtACornerIsAsStrongAsTheLawsOfConservationHaveIt) {
    Duct d(48, 2.0, 10.0);
    d.settle(220);
    EXPECT_NEAR(d.behind(10.0)[0], bench::obliqueShock(2.0, 10.0 * base::degree, 1.4)[1], 0.01);
    // Adiabatic: what leaves has the total enthalpy of what comes in.
    EXPECT_NEAR(d.solver->read().enthalpyImbalance(), 0.0, 1e-3);
}

// Prandtl and Meyer: 10 deg from Mach 2 lead to Mach 2.385.
TEST(CompressibleFlow, ExpandsRoundACornerAsPrandtlAndMeyerHaveIt) {
    Duct d(48, 2.0, -10.0);
    d.settle(200);
    EXPECT_NEAR(d.behind(-10.0)[1], 2.385, 0.02);
}

// At Mach 0.02 the pressure behind the corner of a duct differs from that of incompressible air by M^2, far below this.
TEST(CompressibleFlow, IsTheIncompressibleOneAtLowMachNumber) {
    double drag[2];
    int iterations[2];
    for (const bool compressible : {false, true}) {
        Duct d(24, 0.02, 4.0);
        d.c.compressible = compressible;
        d.solver = std::make_unique<flow::Solver>(d.grid, grid::geometryOf(d.grid), d.c, d.ranks);
        d.solver->start().fromPotentialFlow();
        iterations[compressible] = 0;
        for (int i = 0; i < 300; ++i, ++iterations[compressible])
            if (d.solver->iterate().worst() < 1e-6 && i > 5) break;
        drag[compressible] = d.solver->coefficients().CD;
    }
    EXPECT_NEAR(drag[1] / drag[0], 1.0, 0.003);
    EXPECT_LE(iterations[1], 1.3 * iterations[0] + 2);
}

TEST(CompressibleFlow, GoesOnFromACheckpointToTheSameDigits) {
    Duct whole(24, 1.6, 6.0), first(24, 1.6, 6.0), second(24, 1.6, 6.0);
    whole.settle(30);
    first.settle(12);
    second.solver->resume(first.solver->checkpoint());
    second.settle(18);
    EXPECT_EQ(whole.solver->coefficients().CD, second.solver->coefficients().CD);
}

// A tube with a diaphragm that bursts: mass and energy stay, and nothing rises above what was there.
TEST(CompressibleFlow, MovesInTimeWithoutMakingMass) {
    const int n = 60;
    const auto across = grid::evenLine(0.0, 1.0 / n, 1);
    const auto g = grid::boxGrid(grid::evenLine(0.0, 1.0, n), across, across, {0, 1, 2, 3, 4, 5});
    flow::Case c;
    c.wind.speed = 100.0;
    c.compressible = true;
    c.tunnel.closed = true;
    c.settings.model = flow::Model::Inviscid;
    const flow::Ranks ranks;
    flow::Solver solver(g, grid::geometryOf(g), c, ranks);
    flow::State s = solver.state();
    const flow::GasLaw gas(c.wind);
    for (std::size_t i = 0; i < s.p.size(); ++i) {
        const bool left = solver.piece().x[i].x() < 0.5;
        s.U[i] = Vec3::Zero();
        s.p[i] = left ? gas.pressure() : 0.0;  // twice the pressure, at one temperature
        s.density[i] = left ? 2.0 : 1.0;
        s.enthalpy[i] = -0.5 * gas.speed * gas.speed;
    }
    std::fill(s.flux.begin(), s.flux.end(), 0.0);
    solver.restore(s);
    solver.setTimeStep(0.5 / n / gas.soundSpeed());
    for (int i = 0; i < 40; ++i) solver.iterate(1e-4, 10);
    double mass = 0.0, most = 0.0;
    const auto cells = static_cast<std::size_t>(solver.piece().cells);
    for (std::size_t i = 0; i < cells; ++i) {
        mass += solver.state().density[i];
        most = std::max(most, solver.state().density[i]);
    }
    double sums[2] = {mass, static_cast<double>(cells)};
    ranks.sum(std::span<double>(sums, 2));
    EXPECT_NEAR(sums[0] / sums[1], 1.5, 1e-3);
    EXPECT_LT(ranks.max(most), 2.0 * 1.01);
}

}  // namespace cvane
