// Flows with exact or published answers, on grids small enough for the suite. bench/verify_bench runs them finer.
#include <gtest/gtest.h>

#include <cmath>
#include <map>

#include "base/errors.h"
#include "bench/manufactured.h"
#include "flow/one_equation_law.h"
#include "flow/solver.h"
#include "flow/wall_law.h"
#include "grid/brick.h"
#include "grid/quality.h"
#include "grid/structured.h"

using namespace cvane;

namespace {
const double pi = std::acos(-1.0);

struct Flow {
    grid::Grid grid;
    grid::Geometry geometry;
    flow::Ranks ranks;
    flow::Solver solver;
    Flow(grid::Grid g, const flow::Case& c)
        : grid(std::move(g)), geometry(grid::geometryOf(grid)), solver(grid, geometry, c, ranks) {
        solver.start().fromPotentialFlow();
    }
    void settle(int most, double rest) {
        for (int i = 0; i < most; ++i)
            if (solver.iterate().worst() < rest && i > 20) break;
    }
    /// |cf| by x of the wall face, on every rank.
    std::map<double, double> friction(double speed) const {
        std::vector<double> mine;
        for (const auto& w : solver.read().wallSamples())
            mine.insert(mine.end(), {geometry.faceCentre[static_cast<std::size_t>(w.face)].x(),
                                     w.shear.norm() / (0.5 * speed * speed)});
        const auto all = ranks.gather(mine);
        std::map<double, double> cf;
        for (std::size_t i = 0; i < all.size(); i += 2) cf[all[i]] = all[i + 1];
        return cf;
    }
};

flow::Case plane(flow::Model model, double nu) {
    flow::Case c;
    c.wind.speed = 1.0;
    c.tunnel.closed = true;  // one cell across, between walls along which the air slips
    c.settings.model = model;
    c.wind.air.viscosity = c.wind.air.density * nu;
    return c;
}

grid::Grid turbulentPlate(double yPlus) {
    grid::PlateGrid s;
    s.length = 2.0;
    s.upstream = 0.33;
    s.height = 1.0;
    s.along = 50;
    s.ahead = 12;
    s.firstAlong = 4e-3;
    s.firstHeight = 2.0 * yPlus * 2e-7 / 0.0368;
    s.across = static_cast<int>(std::log(1.0 + 0.25 / s.firstHeight) / std::log(1.25));
    return grid::plateGrid(s);
}
double cfOfTurbulentPlate(flow::Model model, double yPlus, double sandGrain = 0.0) {
    auto c = plane(model, 2e-7);
    c.settings.turbulenceIntensity = 0.00039;
    if (sandGrain > 0.0) c.rough = {{"plate", sandGrain}};
    Flow r(turbulentPlate(yPlus), c);
    r.settle(900, 1e-7);
    const auto cf = r.friction(1.0);
    return cf.lower_bound(0.97)->second;
}
}  // namespace

TEST(BlockGrid, OfARingIsClosedAndHoldsTheRingsVolume) {
    grid::CylinderGrid s;
    s.around = 64;
    s.across = 20;
    s.rim = 4.0;
    const auto g = grid::cylinderGrid(s);
    const auto geo = grid::geometryOf(g);
    double volume = 0.0;
    for (const double v : geo.volume) volume += v;
    const double polygon = 0.5 * 64 * std::sin(2.0 * pi / 64);  // area over radius squared
    EXPECT_NEAR(volume, polygon * (4.0 * 4.0 - 0.5 * 0.5), 1e-9);
    EXPECT_LT(grid::qualityOf(g, geo).worstOpenness, 1e-12);
    EXPECT_EQ(g.cells(), 64 * 20);
    EXPECT_NEAR(g.wallDistance[0], 0.5 * s.firstHeight, 0.05 * s.firstHeight);
}

TEST(BlockGrid, RefusesFoldedCells) {
    grid::Block b;
    b.cells = {2, 2, 2};
    b.place = [](int i, int j, int k) { return Vec3(-i, j, k); };
    b.patch = [](int side, const Vec3&) {
        return grid::Patch{std::to_string(side), grid::PatchKind::Side, -1, side, 0, 0};
    };
    EXPECT_THROW(grid::blockGrid(b), base::InputError);
}

TEST(GradedLine, StartsWithTheFirstStepAndEndsAtTheEnd) {
    const auto x = grid::gradedLine(1.0, 3.0, 20, 0.01);
    EXPECT_NEAR(x[1] - x[0], 0.01, 1e-9);
    EXPECT_DOUBLE_EQ(x.back(), 3.0);
    const auto both = grid::gradedLineBothEnds(0.0, 1.0, 10, 0.02);
    EXPECT_NEAR(both[1], 0.02, 1e-9);
    EXPECT_NEAR(1.0 - both[9], 0.02, 1e-9);
}

// H. Blasius 1908: cf = 0.664 / sqrt(Re_x). 2 % is asked for from Re_x 1e4 on.
TEST(LaminarPlate, HasBlasiusFriction) {
    grid::PlateGrid s;
    s.along = 50;
    s.ahead = 16;
    s.across = 36;
    s.firstAlong = 4e-3;
    s.firstHeight = 2e-4;
    s.height = 4.0;
    s.upstream = 0.5;
    Flow r(grid::plateGrid(s), plane(flow::Model::Laminar, 1e-5));
    r.settle(800, 1e-9);
    double looked = 0.0;
    for (const auto& [x, cf] : r.friction(1.0))
        if (x > 0.1 && x < 0.95) {
            EXPECT_NEAR(cf, 0.664 / std::sqrt(x / 1e-5), 0.02 * cf) << x;
            looked += 1.0;
        }
    EXPECT_GT(r.ranks.sum(looked), 15.0);  // of the 50 faces along it
}

// The grown layer of a plate taken on over the same time in steps of one length, of half and of a quarter of it: what
// the length still matters falls with its square.
TEST(TimeSteps, AreOfSecondOrder) {
    grid::PlateGrid s;
    s.along = 16;
    s.ahead = 8;
    s.across = 30;
    s.height = 8.0;
    s.firstAlong = 0.02;
    s.firstHeight = 4e-3;
    Flow r(grid::plateGrid(s), plane(flow::Model::Laminar, 1e-3));
    r.solver.setTimeStep(0.01);
    for (int i = 0; i < 20; ++i) r.solver.iterate();
    const flow::State begin = r.solver.state();
    const auto after = [&](int steps) {
        r.solver.restore(begin);
        r.solver.setTimeStep(0.4 / steps);
        // Each step to rounding, so that what is compared is the step alone.
        for (int i = 0; i < steps; ++i) r.solver.iterate(1e-9, 200);
        return r.solver.state().U;
    };
    const auto whole = after(8), half = after(16), quarter = after(32);
    double coarse = 0.0, fine = 0.0;
    for (std::size_t c = 0; c < static_cast<std::size_t>(r.solver.piece().cells); ++c) {
        coarse = std::max(coarse, (whole[c] - half[c]).norm());
        fine = std::max(fine, (half[c] - quarter[c]).norm());
    }
    coarse = r.ranks.max(coarse);
    fine = r.ranks.max(fine);
    EXPECT_GT(coarse, 1e-4);  // a step matters at all
    EXPECT_GT(std::log2(coarse / fine), 1.7);
}

// A plate that the air meets all at once: far behind the leading edge, and before word of it has come there, the layer
// grows as u = V erf(z / (2 sqrt(nu t))).  Source: G. G. Stokes, Trans. Camb. Phil. Soc. 9 (1851); e.g. F. M. White,
// Viscous Fluid Flow.
TEST(TimeSteps, LetTheLayerOfAPlateGrowAsItDoes) {
    grid::PlateGrid s;
    s.along = 30;
    s.ahead = 10;
    s.across = 45;
    s.height = 8.0;  // the displaced air must go somewhere: it speeds up the rest by 0.3 %
    s.firstAlong = 0.01;
    s.firstHeight = 2e-3;
    const double nu = 1e-3, dt = 2.5e-3;
    const int steps = 120;
    Flow r(grid::plateGrid(s), plane(flow::Model::Laminar, nu));
    r.solver.setTimeStep(dt);
    for (int i = 0; i < steps; ++i) r.solver.iterate();
    const double width = 2.0 * std::sqrt(nu * dt * steps);
    const auto& p = r.solver.piece();
    // The layer's leading edge pushes the air aside, which is faster by 2 % outside: the layer grows below that speed.
    std::map<double, std::pair<double, double>> edge;  // by x: how far out, and the speed there
    for (std::size_t c = 0; c < static_cast<std::size_t>(p.cells); ++c)
        if (p.x[c].z() < 3.0 * width)
            edge[std::round(1e6 * p.x[c].x())] =
                std::max(edge[std::round(1e6 * p.x[c].x())], {p.x[c].z(), r.solver.state().U[c].x()});
    int seen = 0;
    for (std::size_t c = 0; c < static_cast<std::size_t>(p.cells); ++c) {
        if (p.x[c].x() < 0.6 || p.x[c].x() > 0.9 || p.x[c].z() > 3.0 * width) continue;
        ++seen;
        const double outside = edge.at(std::round(1e6 * p.x[c].x())).second;
        EXPECT_NEAR(r.solver.state().U[c].x() / outside, std::erf(p.x[c].z() / width), 0.01) << p.x[c].z() / width;
    }
    EXPECT_GT(r.ranks.sum(seen), 50);
}

// Drag 2.00 to 2.05: S. C. R. Dennis, G.-Z. Chang, J. Fluid Mech. 42 (1970); B. Fornberg, J. Fluid Mech. 98 (1980).
TEST(Cylinder, AtReynoldsTwentyHasThePublishedDrag) {
    grid::CylinderGrid s;
    s.around = 80;
    s.across = 60;
    s.firstHeight = 0.015;
    s.rim = 60.0;
    Flow r(grid::cylinderGrid(s), plane(flow::Model::Laminar, 1.0 / 20.0));
    r.settle(900, 1e-6);
    EXPECT_GT(r.solver.coefficients().CD, 1.99);
    EXPECT_LT(r.solver.coefficients().CD, 2.06);
    EXPECT_LT(std::abs(r.solver.coefficients().CL), 1e-3);
    EXPECT_LT(r.solver.read().massImbalance(), 1e-8);
}

// Potential flow about a cylinder, R its radius: u_theta = -V (1 + R^2 / r^2) sin(theta), no drag, the same total
// pressure everywhere.
struct FrictionlessCylinder : testing::Test {
    static constexpr double R = 0.5;
    static grid::Grid aboutIt() {
        grid::CylinderGrid s;
        s.radius = R;
        s.around = 96;
        s.across = 48;
        s.firstHeight = 0.02;
        return grid::cylinderGrid(s);
    }
    Flow r{aboutIt(), plane(flow::Model::Inviscid, 1e-5)};
    FrictionlessCylinder() { r.settle(400, 1e-8); }
};

TEST_F(FrictionlessCylinder, HasNoDragAndKeepsItsTotalPressure) {
    EXPECT_LT(std::abs(r.solver.coefficients().CD),
              0.02);  // 0.2, and never at rest, while velocities alternate from layer to layer
    const auto& p = r.solver.piece();
    double most = 0.0;
    for (std::size_t c = 0; c < static_cast<std::size_t>(p.cells); ++c) {
        const double x = p.x[c].x(), z = p.x[c].z();
        if (x < 0.0 && std::hypot(x, z) > 1.1 * R)
            most = std::max(most, std::abs(2.0 * r.solver.state().p[c] + r.solver.state().U[c].squaredNorm() - 1.0));
    }
    EXPECT_LT(r.ranks.max(most), 0.05);
}

TEST_F(FrictionlessCylinder, LetsNothingThroughItsWallInThatWhichTheSlopesRebuild) {
    const auto& p = r.solver.piece();
    double through = 0.0;
    for (std::size_t f = p.linked; f < p.faces(); ++f) {
        if (!r.solver.roles()[p.patch(f)].onModel) continue;
        const auto c = static_cast<std::size_t>(p.P[f]);
        through = std::max(
            through,
            std::abs((r.solver.state().U[c] + r.solver.flow().gradU[c] * (p.xf[f] - p.x[c])).dot(p.S[f])) / p.area[f]);
    }
    EXPECT_LT(r.ranks.max(through), 1e-12);
}

// Between a turning and a resting cylinder the laminar flow is u = a r + b / r (Couette).
TEST(TurningWall, DragsTheAirRoundAsInTheExactSolution) {
    const double inner = 0.5, outer = 1.0, spin = 2.0;
    grid::Block b;
    b.ring = true;
    b.cells = {48, 1, 16};
    b.place = [&](int i, int j, int k) {
        const double r = inner + (outer - inner) * k / 16.0, t = 2.0 * pi * i / 48;
        return Vec3(-r * std::cos(t), j, r * std::sin(t));
    };
    b.patch = [](int side, const Vec3&) {
        return side == 4   ? grid::Patch{"shaft", grid::PatchKind::Wall, 0, -1, 0, 0}
               : side == 5 ? grid::Patch{"housing", grid::PatchKind::Wall, 1, -1, 0, 0}
                           : grid::Patch{side == 2 ? "y-" : "y+", grid::PatchKind::Side, -1, side, 0, 0};
    };
    auto c = plane(flow::Model::Laminar, 0.1);
    c.moving = {{"shaft", Vec3::Zero(), Vec3(0.0, spin, 0.0), Vec3::Zero()}};
    Flow r(grid::blockGrid(b), c);
    r.settle(800, 1e-9);
    const double q = outer * outer - inner * inner, a = -spin * inner * inner / q,
                 k = spin * inner * inner * outer * outer / q;
    const auto& p = r.solver.piece();
    for (std::size_t cell = 0; cell < static_cast<std::size_t>(p.cells); ++cell) {
        const Vec3 x(p.x[cell].x(), 0.0, p.x[cell].z());
        const Vec3 exact = Vec3(0.0, 1.0, 0.0).cross(x.normalized()) * (a * x.norm() + k / x.norm());
        EXPECT_LT((r.solver.state().U[cell] - exact).norm(), 0.01 * spin * inner);
    }
}

// Public verification case (Rumsey): cf = 0.00271 at Re_x 4.85 M. 5 % for a grid of 50 cells along the plate; the
// bench, with twice as many, stays within 3 %.
TEST(TurbulentPlate, HasThePublishedFrictionWithTheWallResolvedAndNot) {
    for (const double yPlus : {1.0, 10.0, 40.0})
        EXPECT_NEAR(cfOfTurbulentPlate(flow::Model::Sst, yPlus), 0.00271, 0.05 * 0.00271) << "y+ " << yPlus;
}
// cf = 0.455 / ln^2(0.06 Re_x) (White) gives 0.00287 there; models lie some per cent around it.
TEST(TurbulentPlate, HasPlausibleFrictionWithTheOtherModels) {
    EXPECT_NEAR(cfOfTurbulentPlate(flow::Model::SpalartAllmaras, 40.0), 0.00287, 0.08 * 0.00287);
    EXPECT_NEAR(cfOfTurbulentPlate(flow::Model::KEpsilon, 40.0), 0.00287, 0.10 * 0.00287);
}
TEST(TurbulentPlate, OfTheOneEquationModelHasOneFrictionWhateverTheFirstCell) {
    const double resolved = cfOfTurbulentPlate(flow::Model::SpalartAllmaras, 0.5);
    for (const double yPlus : {5.0, 12.0, 40.0, 150.0})
        EXPECT_NEAR(cfOfTurbulentPlate(flow::Model::SpalartAllmaras, yPlus), resolved, 0.03 * resolved)
            << "y+ " << yPlus;
}
// Fully rough plate: cf = (3.476 + 0.707 ln(x / ks))^-2.46 (A. F. Mills, X. Hang, J. Fluids Eng. 105, 1983).
TEST(TurbulentPlate, ThatIsRoughHasMoreFrictionAsMeasured) {
    const double ks = 5e-4, expected = std::pow(3.476 + 0.707 * std::log(0.97 / ks), -2.46);
    EXPECT_NEAR(cfOfTurbulentPlate(flow::Model::Sst, 200.0, ks), expected, 0.08 * expected);
    EXPECT_NEAR(cfOfTurbulentPlate(flow::Model::SpalartAllmaras, 200.0, ks), expected, 0.08 * expected);
}

TEST(WallLaw, OfARoughWallLosesAsTheLogarithmOfTheGrain) {
    const double nu = 1e-5, uTau = 1.0, y = 0.02, ks = 1e-3;  // y+ = 2000, ks+ = 100
    const double uPlus = std::log(y * uTau / nu / (1.0 + 0.3 * ks * uTau / nu)) / 0.41 + 5.0;
    EXPECT_NEAR(flow::frictionVelocity(uPlus * uTau, y, nu, ks), uTau, 0.02);
    EXPECT_NEAR(flow::frictionVelocity(20.0, y, nu, 0.0), flow::frictionVelocity(20.0, y, nu, 1e-9), 1e-5);
    EXPECT_NEAR(flow::oneEquationFrictionVelocity(uPlus * uTau, y, nu, ks), uTau, 0.02);
    EXPECT_NEAR(flow::oneEquationFrictionVelocity(20.0, y, nu, 0.0),
                flow::oneEquationFrictionVelocity(20.0, y, nu, 1e-9), 1e-5);
}

namespace {
grid::Grid channel(int n, double length) {
    return grid::boxGrid(grid::evenLine(0.0, length, n), grid::evenLine(0.0, 1.0, 4), grid::evenLine(0.0, 1.0, 4), {});
}
}  // namespace

TEST(PorousBlock, DropsThePressureByItsResistance) {
    auto c = plane(flow::Model::Laminar, 0.01);
    c.tunnel.closed = true;  // so much comes in, whatever the block resists
    flow::PorousBlock b;
    b.name = "core";
    b.from = Vec3(1.5, -1.0, -1.0);
    b.to = Vec3(2.0, 2.0, 2.0);
    b.linear = 50.0;
    b.quadratic = 4.0;
    c.blocks = {b};
    Flow r(channel(40, 4.0), c);
    r.settle(300, 1e-9);
    // dp / rho = L (nu linear U + quadratic U^2 / 2)
    const double drop = 0.5 * (0.01 * 50.0 * 1.0 + 0.5 * 4.0);
    const auto& p = r.solver.piece();
    double front = 0.0;
    for (std::size_t i = 0; i < static_cast<std::size_t>(p.cells); ++i)
        if (p.x[i].x() < 0.1) front = std::max(front, r.solver.state().p[i]);
    EXPECT_NEAR(r.ranks.max(front), drop, 3e-3 * drop);
    const auto reading = r.solver.read().blocks().at(0);
    EXPECT_NEAR(reading.pressureDrop, drop * c.wind.air.density * 1.0, 3e-3 * drop);
}

TEST(Disc, InAChannelRaisesThePressureByItsThrustOverTheSection) {
    auto c = plane(flow::Model::Inviscid, 1e-5);
    flow::Disc d;
    d.name = "fan";
    d.centre = Vec3(2.0, 0.5, 0.5);
    d.outer = 5.0;  // fills the channel: one-dimensional
    d.thrust = 0.3;
    c.discs = {d};
    Flow r(channel(40, 4.0), c);
    r.settle(300, 1e-9);
    const auto& p = r.solver.piece();
    double front = 0.0;
    for (std::size_t i = 0; i < static_cast<std::size_t>(p.cells); ++i)
        if (p.x[i].x() < 0.1) front = std::min(front, r.solver.state().p[i]);
    EXPECT_NEAR(-r.ranks.max(-front), -0.3 / c.wind.air.density, 1e-3);  // the outlet holds p = 0
    const auto reading = r.solver.read().discs().at(0);
    EXPECT_NEAR(reading.inflow, 1.0, 1e-3);
    EXPECT_NEAR(reading.power, 0.3, 1e-3);
}

TEST(Disc, NeedsMomentumTheorysPower) {
    const double rho = 1.2, A = 0.5, V = 20.0, v = 3.0, T = 2.0 * rho * A * (V + v) * v;
    EXPECT_NEAR(flow::idealDiscPower(T, V, A, rho), T * (V + v), 1e-9 * T * V);
    EXPECT_DOUBLE_EQ(flow::idealDiscPower(0.0, V, A, rho), 0.0);
}

TEST(Disc, WithRadiiThatMakeNoRingIsRefused) {
    auto c = plane(flow::Model::Inviscid, 1e-5);
    c.discs = {{"fan", Vec3::Zero(), Vec3::UnitX(), 0.2, 0.1, 1.0, 0.0, 0.0}};
    const auto g = channel(10, 4.0);
    const auto geo = grid::geometryOf(g);
    const flow::Ranks ranks;
    EXPECT_THROW(flow::Solver(g, geo, c, ranks), base::InputError);
}

TEST(FreeTurbulence, HasTheAskedIntensityAndLength) {
    flow::FlowSettings s;
    s.turbulenceIntensity = 0.01;
    s.turbulenceLength = 0.05;
    const auto f = flow::freeTurbulenceOf(s, 30.0, 1.0);
    EXPECT_NEAR(std::sqrt(2.0 / 3.0 * f.k) / 30.0, 0.01, 1e-12);
    EXPECT_NEAR(std::sqrt(f.k) / (std::pow(0.09, 0.25) * f.omega), 0.05, 1e-12);
}

namespace {
/// Observed orders of velocity and pressure from n to 2 n cells a side.
template <class MakeGrid>
std::array<double, 2> flowOrders(int n, MakeGrid&& make) {
    const flow::Ranks ranks;
    const auto coarse = bench::manufacturedErrors(make(n), ranks), fine = bench::manufacturedErrors(make(2 * n), ranks);
    return {std::log2(coarse[0] / fine[0]), std::log2(coarse[1] / fine[1])};
}
}  // namespace

// Momentum, continuity and pressure together, every boundary face with the exact velocity.
TEST(ManufacturedFlow, IsSecondOrderOnUniformCells) {
    const auto order = flowOrders(12, [](int n) {
        return grid::boxGrid(grid::evenLine(0, 1, n), grid::evenLine(0, 1, n), grid::evenLine(0, 1, n), {});
    });
    EXPECT_GE(order[0], 1.9);
    EXPECT_GE(order[1], 1.9);
}
TEST(ManufacturedFlow, KeepsItsOrderAcrossHangingNodes) {
    const Box box{{0, 0, 0}, {1, 1, 1}};
    const auto order = flowOrders(8, [&](int n) {
        return grid::refinedBrick(box, {n, n, n}, {{grid::reachesInto({{0.0, 0.0, 0.0}, {0.499, 0.499, 0.999}}), 1}});
    });
    EXPECT_GE(order[0], 1.6);
    EXPECT_GE(order[1], 1.6);
}
TEST(ManufacturedFlow, KeepsItsOrderThroughWallLayers) {
    const auto order = flowOrders(16, [](int n) {
        return grid::boxGrid(grid::evenLine(0, 1, n), grid::evenLine(0, 1, n), grid::gradedLine(0, 1, n, 0.025 / n),
                             {});
    });
    EXPECT_GE(order[0], 1.6);
    EXPECT_GE(order[1], 1.6);
}
