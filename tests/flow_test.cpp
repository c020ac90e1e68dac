// Run on one rank and on two: every statement holds for any number of ranks.
#include <gtest/gtest.h>

#include <array>
#include <cmath>

#include "ball.h"
#include "base/errors.h"
#include "base/files.h"
#include "base/units.h"
#include "bench/models.h"
#include "flow/limiter.h"
#include "flow/one_equation_law.h"
#include "flow/settle.h"
#include "flow/solver.h"
#include "flow/transport.h"
#include "flow/wall_law.h"
#include "folder.h"
#include "grid/brick.h"
#include "grid/build.h"
#include "grid/cgns_file.h"
#include "grid/structured.h"

using namespace cvane;
using test::Ball;

namespace {
const double pi = std::acos(-1.0);

grid::Grid hanging() {
    return grid::refinedBrick({{0, 0, 0}, {1, 1, 1}}, {4, 4, 4},
                              {{grid::reachesInto({{0.3, 0.3, 0.3}, {0.6, 0.6, 0.6}}), 2}});
}

/// Cells around a cylinder of 24 flat sides.
grid::Grid ringOf24(int across, double firstHeight) {
    grid::CylinderGrid ring;
    ring.around = 24;
    ring.across = across;
    ring.rim = 5.0;
    ring.firstHeight = firstHeight;
    return grid::cylinderGrid(ring);
}

struct Patch {
    grid::Grid grid;
    grid::Geometry geometry;
    flow::Ranks ranks;
    flow::Piece piece;
    explicit Patch(grid::Grid g, flow::Ranks r = {})
        : grid(std::move(g)),
          geometry(grid::geometryOf(grid)),
          ranks(r),
          piece(flow::cutPiece(grid, geometry, ranks.rank(), ranks.size())) {}
};

// Manufactured scalar transport on the unit cube: phi = sin(pi x) cos(pi y) e^z carried by U with diffusivity gamma;
// the source makes it exact. @return L2 error of the settled discrete solution.
double manufacturedError(const grid::Grid& g, const Vec3& U, double gamma) {
    const Patch t{g};
    const flow::Piece& p = t.piece;
    const auto exact = [](const Vec3& x) { return std::sin(pi * x.x()) * std::cos(pi * x.y()) * std::exp(x.z()); };
    const auto source = [&](const Vec3& x) {
        const double e = std::exp(x.z());
        const double dx = pi * std::cos(pi * x.x()) * std::cos(pi * x.y()) * e,
                     dy = -pi * std::sin(pi * x.x()) * std::sin(pi * x.y()) * e, dz = exact(x);
        return U.dot(Vec3(dx, dy, dz)) - gamma * (1.0 - 2.0 * pi * pi) * exact(x);
    };
    const std::size_t nb = p.faces() - p.linked;
    const flow::Gradient gradient(p, std::vector<char>(nb, 1));
    std::vector<double> flux(p.faces()), diffusivity(p.stored(), gamma), phi(p.stored(), 0.0), atBoundary(nb);
    for (std::size_t f = 0; f < p.faces(); ++f) flux[f] = U.dot(p.S[f]);
    for (std::size_t i = 0; i < nb; ++i) atBoundary[i] = exact(p.xf[p.linked + i]);
    flow::CellMatrix A(p);
    std::vector<Vec3> grad;
    for (int iteration = 0; iteration < 400; ++iteration) {
        gradient(phi, atBoundary, grad);
        std::vector<double> b(p.stored(), 0.0);
        A.clear();
        flow::addTransport<flow::Scheme::SecondOrder>(p, flux, diffusivity, phi, grad, A, b);
        for (std::size_t f = p.linked; f < p.faces(); ++f) {
            const auto P = static_cast<std::size_t>(p.P[f]);
            const double c = std::max(-flux[f], 0.0) + gamma * p.gap[f];
            // Outflow: the upwind reconstruction as at inner faces, and the boundary value through diffusion.
            A.diag[P] += c;
            b[P] += c * atBoundary[f - p.linked] - std::max(flux[f], 0.0) * grad[P].dot(p.xf[f] - p.x[P]);
        }
        double change = 0.0;
        for (std::size_t c = 0; c < static_cast<std::size_t>(p.cells); ++c) {
            b[c] += p.V[c] * source(p.x[c]);
            b[c] += 0.25 * A.diag[c] * phi[c];
            A.diag[c] *= 1.25;
        }
        const auto before = phi;
        for (int sweep = 0; sweep < 4; ++sweep) {
            flow::gaussSeidel(A, b, phi, sweep % 2 == 0);
            p.halo.exchange(phi);
        }
        for (std::size_t c = 0; c < static_cast<std::size_t>(p.cells); ++c)
            change = std::max(change, std::abs(phi[c] - before[c]));
        if (t.ranks.max(change) < 1e-9) break;
    }
    double sums[2] = {0.0, 0.0};
    for (std::size_t c = 0; c < static_cast<std::size_t>(p.cells); ++c) {
        sums[0] += p.V[c] * std::pow(phi[c] - exact(p.x[c]), 2);
        sums[1] += p.V[c];
    }
    t.ranks.sum(std::span<double>(sums, 2));
    return std::sqrt(sums[0] / sums[1]);
}

/// Observed orders from 8 to 16 and from 16 to 32 cells a side.
std::array<double, 2> ordersOf(const Vec3& U, double gamma) {
    const Box box{{0, 0, 0}, {1, 1, 1}};
    const auto error = [&](int n) { return manufacturedError(grid::brick(box, {n, n, n}), U, gamma); };
    const double e8 = error(8), e16 = error(16), e32 = error(32);
    return {std::log2(e8 / e16), std::log2(e16 / e32)};
}

}  // namespace

TEST(Gradient, IsExactForALinearFieldAcrossHangingNodes) {
    const Patch t(hanging());
    const Vec3 slope(1.0, -2.0, 3.0);
    std::vector<double> phi, at;
    for (const Vec3& x : t.piece.x) phi.push_back(slope.dot(x));
    for (std::size_t f = t.piece.linked; f < t.piece.faces(); ++f) at.push_back(slope.dot(t.piece.xf[f]));
    std::vector<Vec3> g;
    flow::Gradient(t.piece, std::vector<char>(at.size(), 1))(phi, at, g);
    for (const Vec3& v : g) EXPECT_LT((v - slope).norm(), 1e-8);
}

TEST(Transport, OfConvectionAloneIsSecondOrder) {
    EXPECT_GE(ordersOf({1.0, 0.5, 0.25}, 1e-6)[1], 1.8);
}
TEST(Transport, OfDiffusionAloneIsSecondOrder) {
    EXPECT_GE(ordersOf(Vec3::Zero(), 0.1)[1], 1.8);
}
// Together the two errors cancel in part on coarse grids: e = a h^2 + b h^3 with opposite signs, so the observed order
// lies below two by an amount proportional to h, which has to halve with each refinement.
TEST(Transport, OfBothComesToSecondOrderAsTheGridIsRefined) {
    const auto order = ordersOf({1.0, 0.5, 0.25}, 0.1);
    EXPECT_LT(order[0], 2.0);
    EXPECT_LT(2.0 - order[1], 0.55 * (2.0 - order[0]));
}

// A quarter of the cube has cells of half the size, so hanging nodes lie on the rim between.
TEST(Transport, AcrossHangingNodesComesToSecondOrder) {
    const Box box{{0, 0, 0}, {1, 1, 1}};
    const auto error = [&](int n) {
        return manufacturedError(
            grid::refinedBrick(box, {n, n, n}, {{grid::reachesInto({{0.0, 0.0, 0.0}, {0.499, 0.499, 0.999}}), 1}}),
            {1.0, 0.5, 0.25}, 0.02);
    };
    EXPECT_GE(std::log2(error(8) / error(16)), 1.6);
}
// Cells that start at 1/40 of the mean size on the wall z = 0 and grow towards the middle, as wall layers do.
TEST(Transport, ThroughWallLayersComesToSecondOrder) {
    const auto error = [&](int n) {
        return manufacturedError(
            grid::boxGrid(grid::evenLine(0, 1, n), grid::evenLine(0, 1, n), grid::gradedLine(0, 1, n, 0.025 / n), {}),
            {1.0, 0.5, 0.25}, 0.02);
    };
    EXPECT_GE(std::log2(error(24) / error(48)), 1.6);
}

TEST(Damping, TakesNothingFromALinearVelocityAndTheSumOfNone) {
    const Patch t{hanging()};
    const flow::Piece& p = t.piece;
    const Mat3 G = (Mat3() << 0.3, -1.0, 0.2, 0.7, 0.1, -0.4, 0.0, 2.0, -0.4).finished();
    const std::vector<double> still(p.faces(), 0.0);
    const auto out = [&](const std::function<Vec3(const Vec3&)>& velocity, const std::vector<Mat3>& slopes) {
        std::vector<Vec3> U(p.stored());
        for (std::size_t c = 0; c < p.stored(); ++c) U[c] = velocity(p.x[c]);
        flow::CellMatrix A(p);
        A.clear();
        std::vector<Vec3> b(p.stored(), Vec3::Zero()), force(static_cast<std::size_t>(p.cells));
        flow::addDamping(p, 0.1, still, U, slopes, A, b);
        for (std::size_t c = 0; c < force.size(); ++c) {
            force[c] = b[c] - A.diag[c] * U[c];
            for (auto e = A.rowStart[c]; e < A.rowStart[c + 1]; ++e)
                force[c] -= A.val[static_cast<std::size_t>(e)] *
                            U[static_cast<std::size_t>(A.col[static_cast<std::size_t>(e)])];
        }
        return force;
    };
    for (const Vec3& f :
         out([&](const Vec3& x) -> Vec3 { return Vec3(1, 2, 3) + G * x; }, std::vector<Mat3>(p.stored(), G)))
        EXPECT_LT(f.norm(), 1e-13);
    // Any other velocity is moved from cell to cell, and none is made; what alternates is made less.
    const auto wild = [](const Vec3& x) -> Vec3 { return {std::sin(40.0 * x.x()), std::cos(33.0 * x.y()), 1.0}; };
    double sums[4] = {0.0, 0.0, 0.0, 0.0};
    const auto force = out(wild, std::vector<Mat3>(p.stored(), Mat3::Zero()));
    for (std::size_t c = 0; c < force.size(); ++c) {
        for (int k = 0; k < 3; ++k) sums[k] += force[c][k];
        sums[3] += force[c].dot(wild(p.x[c]));
    }
    t.ranks.sum(std::span<double>(sums, 4));
    for (int k = 0; k < 3; ++k) EXPECT_NEAR(sums[k], 0.0, 1e-12);
    EXPECT_LT(sums[3], -1e-3);
}

TEST(VanLeer, IsOneForALinearProfileAndZeroAtAnExtremum) {
    EXPECT_DOUBLE_EQ(flow::vanLeer(2.0, 1.0), 1.0);
    EXPECT_DOUBLE_EQ(flow::vanLeer(-1.0, 1.0), 0.0);
}

TEST(WallLaw, IsLinearAtTheWallAndLogarithmicOutside) {
    const double nu = 1e-5;
    EXPECT_NEAR(flow::frictionVelocity(0.01, 1e-5, nu), std::sqrt(nu * 0.01 / 1e-5),
                1e-4 * std::sqrt(0.01));  // y+ << 1: tau = mu U / y
    const double uTau = 0.5, yPlus = 150.0, uPlus = std::log(yPlus) / 0.41 + 5.0;
    EXPECT_NEAR(flow::frictionVelocity(uPlus * uTau, yPlus * nu / uTau, nu), uTau, 0.02 * uTau);
    EXPECT_EQ(flow::frictionVelocity(0.0, 1e-5, nu), 0.0);
}

namespace {
// u+ of a viscosity 1 + chi fv1 with chi = 0.41 y+, summed over 20,000 steps (P. R. Spalart, S. R. Allmaras 1994).
double summedSpeed(double yPlus) {
    const int n = 20000;
    double sum = 0.0;
    for (int i = 0; i < n; ++i) {
        const double chi = 0.41 * yPlus * (i + 0.5) / n, chi3 = chi * chi * chi;
        sum += yPlus / n / (1.0 + chi * chi3 / (chi3 + 357.911));
    }
    return sum;
}
}  // namespace

TEST(OneEquationLaw, IsTheIntegralOverItsOwnViscosity) {
    const double nu = 1.5e-5, y = 1e-3;
    for (const double yPlus : {0.1, 2.0, 8.0, 20.0, 60.0, 400.0}) {
        const double uPlus = summedSpeed(yPlus), uTau = yPlus * nu / y;
        EXPECT_NEAR(flow::speedIntegral(0.41 * yPlus) / 0.41, uPlus, 1e-4 * uPlus);
        EXPECT_NEAR(flow::inverseSpeedIntegral(0.41 * uPlus), 0.41 * yPlus, 1e-3 * yPlus);
        EXPECT_NEAR(flow::oneEquationFrictionVelocity(uPlus * uTau, y, nu, 0.0), uTau, 1e-4 * uTau);
    }
    EXPECT_EQ(flow::oneEquationFrictionVelocity(0.0, y, nu, 0.0), 0.0);
    EXPECT_NEAR(flow::speedIntegral(0.41e5) / 0.41, std::log(1e5) / 0.41 + 5.03, 0.01);
    for (double Re = 1e-3; Re < 1e9; Re *= 1.7) {
        const double uTau = flow::oneEquationFrictionVelocity(Re * nu / y, y, nu, 0.0), yPlus = uTau * y / nu;
        EXPECT_NEAR(yPlus * flow::speedIntegral(0.41 * yPlus) / 0.41 / Re, 1.0, 1e-8) << "U y / nu " << Re;
    }
}

TEST(SeriesViscosity, CarriesTheStressOfTheLawBetweenAnyTwoCells) {
    const std::vector<double> yPlus{0.0, 1.0, 5.0, 16.0, 30.0, 100.0, 1000.0};
    std::vector<double> nuTilde;
    for (const double y : yPlus) nuTilde.push_back(0.41 * y * 1e-5);
    flow::SeriesViscosity v;
    v.update(nuTilde, 1e-5);
    for (std::size_t a = 0; a < yPlus.size(); ++a)
        for (std::size_t b = 0; b < a; ++b) {
            const double slope = (summedSpeed(yPlus[a]) - summedSpeed(yPlus[b])) / (yPlus[a] - yPlus[b]);
            EXPECT_NEAR(v(a, b, 0.5, 0.0) / 1e-5 * slope, 1.0, 1e-3) << yPlus[a] << ' ' << yPlus[b];
            EXPECT_EQ(v(a, b, 0.5, 0.0), v(b, a, 0.5, 0.0));
        }
    EXPECT_EQ(v(3, 3, 0.5, 7.0), 7.0);  // no difference: the mean
}

TEST(WallLaw, HoldsFromCreepingFlowToTheThickestCell) {
    // D. B. Spalding, J. Appl. Mech. 28 (1961), with u+ y+ = U y / nu.
    const double k = 0.41, B = 5.0, nu = 1.5e-5, y = 1e-3;
    for (double Re = 1e-3; Re < 1e9; Re *= 1.7) {
        const double U = Re * nu / y, uPlus = U / flow::frictionVelocity(U, y, nu), s = k * uPlus;
        const double yPlus = uPlus + std::exp(-k * B) * (std::exp(s) - 1.0 - s - s * s / 2.0 - s * s * s / 6.0);
        EXPECT_NEAR(uPlus * yPlus / Re, 1.0, 1e-9) << "U y / nu " << Re;
    }
}

namespace {
struct Poisson {
    Patch patch;
    flow::CellMatrix A;
    std::vector<double> b, x;
    explicit Poisson(int n, flow::Ranks ranks = {})
        : patch(grid::brick({{0, 0, 0}, {1, 1, 1}}, {n, n, n}), ranks),
          A(patch.piece),
          b(patch.piece.stored(), 0.0),
          x(b) {
        const auto& p = patch.piece;
        for (std::size_t f = 0; f < p.faces(); ++f) {
            A.diag[static_cast<std::size_t>(p.P[f])] += p.gap[f];
            if (p.isBoundary(f)) continue;
            A.val[static_cast<std::size_t>(A.atP[f])] = -p.gap[f];
            if (f < p.inner) {
                A.val[static_cast<std::size_t>(A.atN[f])] = -p.gap[f];
                A.diag[static_cast<std::size_t>(p.N[f])] += p.gap[f];
            }
        }
        for (std::size_t c = 0; c < static_cast<std::size_t>(p.cells); ++c)
            b[c] = p.V[c] * std::sin(7.0 * p.x[c].x()) * p.x[c].y();
    }
};
}  // namespace

TEST(Multigrid, SolvesPoissonInAFewIterationsWhateverTheSize) {
    int most = 0;
    for (const int n : {12, 24}) {
        Poisson t(n);
        flow::Multigrid mg(t.A, t.patch.piece.halo, t.patch.ranks);
        const auto out = mg.solve(t.A, t.b, t.x, 1e-8, 100, false);
        EXPECT_LE(out.reduction, 1e-8);
        EXPECT_LE(flow::residual(t.A, t.b, t.x), 1e-6);
        most = std::max(most, out.iterations);
    }
    EXPECT_LE(most, 25);
}

TEST(Multigrid, FindsOnAllRanksWhatOneFindsAlone) {
    // Enough cells for levels that are shared among the ranks and levels that each of them has as a whole.
    Poisson shared(20), whole(20, flow::Ranks::alone());
    flow::Multigrid together(shared.A, shared.patch.piece.halo, shared.patch.ranks),
        alone(whole.A, whole.patch.piece.halo, whole.patch.ranks);
    EXPECT_NEAR(together.levels(), alone.levels(), 1);
    const auto a = together.solve(shared.A, shared.b, shared.x, 1e-10, 100, false),
               b = alone.solve(whole.A, whole.b, whole.x, 1e-10, 100, false);
    EXPECT_LE(a.iterations, b.iterations + 3);
    double largest = 0.0;
    for (const double v : whole.x) largest = std::max(largest, std::abs(v));
    const flow::Piece& p = shared.patch.piece;
    for (std::size_t c = 0; c < static_cast<std::size_t>(p.cells); ++c)
        EXPECT_NEAR(shared.x[c], whole.x[static_cast<std::size_t>(p.firstCell) + c], 1e-7 * largest);
}

TEST(Multigrid, SolvesBeyondSinglePrecisionWithCyclesInSinglePrecision) {
    // Far below what a float resolves, and for coefficients and a right side that a float could not hold.
    Poisson t(16);
    for (double& v : t.A.val) v *= 1e25;
    for (double& v : t.A.diag) v *= 1e25;
    for (double& v : t.b) v *= 1e-30;
    flow::Multigrid single(t.A, t.patch.piece.halo, t.patch.ranks, flow::Precision::Mixed),
        twice(t.A, t.patch.piece.halo, t.patch.ranks);
    auto y = t.x;
    const auto out = single.solve(t.A, t.b, t.x, 1e-12, 100, false),
               straight = twice.solve(t.A, t.b, y, 1e-12, 100, false);
    EXPECT_LE(out.reduction, 1e-12);
    EXPECT_LE(out.iterations, straight.iterations + 3);
}

TEST(Precision, DoesNotChangeTheSettledFlow) {
    test::Ball b(flow::Model::Laminar, 4000);
    const flow::Ranks ranks;
    double CD[2];
    for (const auto precision : {flow::Precision::Double, flow::Precision::Mixed}) {
        b.c.settings.precision = precision;
        flow::Solver s(b.grid, b.geometry, b.c, ranks);
        s.start().fromPotentialFlow();
        for (int i = 0; i < 150; ++i) s.iterate();
        CD[precision == flow::Precision::Mixed] = s.coefficients().CD;
    }
    EXPECT_NEAR(CD[1], CD[0], 1e-6 * CD[0]);
}

TEST(FreeStream, StaysUniformOnAGridWithHangingNodes) {
    const grid::Grid g = hanging();
    const auto geo = grid::geometryOf(g);
    const flow::Ranks ranks;
    flow::Case c;
    c.wind = {10.0, 3.0 * base::degree, 2.0 * base::degree, {}};
    flow::Solver s(g, geo, c, ranks);
    s.start().fromPotentialFlow();
    for (int i = 0; i < 5; ++i) s.iterate();
    for (const Vec3& u : s.state().U) EXPECT_LT((u - c.wind.velocity()).norm(), 1e-10 * c.wind.speed);
}

TEST(FreeStream, StaysUniformOnAGridWithWallLayersAndStretchedCells) {
    // A ring of cells around a hole that lets the air through: all its sides are tunnel sides.
    auto g = ringOf24(12, 1e-3);
    for (auto& p : g.patches)
        if (p.kind == grid::PatchKind::Wall) p.kind = grid::PatchKind::Side, p.side = 0;
    const auto geo = grid::geometryOf(g);
    const flow::Ranks ranks;
    flow::Case c;
    c.wind = {10.0, 0.0, 0.0, {}};
    c.settings.model = flow::Model::Laminar;
    flow::Solver s(g, geo, c, ranks);
    // Every side takes the wind or lets it out as it is.
    s.start().fromPotentialFlow();
    for (int i = 0; i < 5; ++i) s.iterate();
    for (const Vec3& u : s.state().U) EXPECT_LT((u - c.wind.velocity()).norm(), 1e-9 * c.wind.speed);
}

// The faces of the ball take the wind as it is, so nothing disturbs it: what is left is what the discrete equations
// add.
TEST(FreeStream, StaysUniformThroughFittedCellsToTheLastDigits) {
    Ball b(flow::Model::Laminar, 15000);
    const Vec3 wind(0.9, -0.3, 0.3);
    b.c.givenVelocity = [wind](const Vec3&) { return wind; };
    b.c.wind = {wind.norm(), std::atan2(wind.z(), wind.x()), std::asin(-wind.y() / wind.norm()), b.c.wind.air};
    const flow::Ranks ranks;
    flow::Solver s(b.grid, b.geometry, b.c, ranks);
    s.start().fromPotentialFlow();
    for (int i = 0; i < 10; ++i) s.iterate();
    double worst = 0.0;
    for (const Vec3& u : s.state().U) worst = std::max(worst, (u - wind).norm());
    EXPECT_LT(ranks.max(worst), 1e-12 * wind.norm());
}

TEST(Pieces, ReadFromAFileByAllRanksAreThoseCutFromTheWholeGrid) {
    Ball b(flow::Model::Laminar, 5000);
    const flow::Ranks ranks;
    const test::Folder folder;
    // Each rank reads a file of its own: in a run they read one.
    const auto file = folder / "grid.cgns";
    grid::writeCgns(b.grid, file);
    const auto read = flow::readPiece(file, ranks);
    const auto own = flow::cutPiece(b.grid, b.geometry, ranks.rank(), ranks.size());
    EXPECT_EQ(read.cells, own.cells);
    EXPECT_EQ(read.ghosts, own.ghosts);
    EXPECT_EQ(read.inner, own.inner);
    EXPECT_EQ(read.linked, own.linked);
    EXPECT_EQ(read.P, own.P);
    EXPECT_EQ(read.N, own.N);
    EXPECT_EQ(read.reversed, own.reversed);
    EXPECT_EQ(read.patchOf, own.patchOf);
    EXPECT_EQ(read.S, own.S);
    EXPECT_EQ(read.x, own.x);
    EXPECT_EQ(read.V, own.V);
    EXPECT_EQ(read.gap, own.gap);
    EXPECT_EQ(read.w, own.w);
    EXPECT_EQ(read.wallDistance, own.wallDistance);
    EXPECT_EQ(read.globalFace, own.globalFace);
    EXPECT_EQ(read.lowest, own.lowest);
    ASSERT_EQ(read.patches.size(), own.patches.size());
    EXPECT_EQ(read.patches.back().name, own.patches.back().name);
    ASSERT_EQ(read.halo.neighbours.size(), own.halo.neighbours.size());
    for (std::size_t i = 0; i < own.halo.neighbours.size(); ++i)
        EXPECT_EQ(read.halo.neighbours[i].send, own.halo.neighbours[i].send);
}

TEST(CoarseStart, IsNearerToTheSettledFlowThanPotentialFlowIs) {
    Ball coarse(flow::Model::Laminar, 5000), fine(flow::Model::Laminar, 20000);
    const flow::Ranks ranks;
    flow::Solver first(coarse.grid, coarse.geometry, coarse.c, ranks), second(fine.grid, fine.geometry, fine.c, ranks),
        plain(fine.grid, fine.geometry, fine.c, ranks);
    first.start().fromPotentialFlow();
    for (int i = 0; i < 80; ++i) first.iterate();
    second.start().fromCoarser(first.cloud());
    plain.start().fromPotentialFlow();
    for (int i = 0; i < 10; ++i) {
        second.iterate();
        plain.iterate();
    }
    const double early = second.coefficients().CD, without = plain.coefficients().CD;
    for (int i = 0; i < 100; ++i) second.iterate();
    const double settled = second.coefficients().CD;
    EXPECT_LT(std::abs(early - settled), 0.25 * std::abs(without - settled));
    EXPECT_LT(second.read().massImbalance(), 1e-6);
}

TEST(CoarseChange, TakesANeighboursFlowMostOfTheWayToThatOfTheNewWind) {
    Ball coarse(flow::Model::Laminar, 5000), fine(flow::Model::Laminar, 20000);
    const flow::Ranks ranks;
    const auto settle = [](flow::Solver& s) {
        for (int i = 0; i < 100; ++i) s.iterate();
    };
    const auto settled = [&](const Ball& b) {
        flow::Solver s(b.grid, b.geometry, b.c, ranks);
        s.start().fromPotentialFlow();
        settle(s);
        return s.checkpoint();
    };
    const auto coarseBefore = settled(coarse), fineBefore = settled(fine);
    const auto before = fine.c.wind;
    coarse.c.wind.speed = fine.c.wind.speed = 2.0 * before.speed;

    flow::Solver onCoarse(coarse.grid, coarse.geometry, coarse.c, ranks);
    onCoarse.start().fromNeighbour(coarseBefore, before);
    flow::FlowChange change{onCoarse.cloud(), {}};
    settle(onCoarse);
    change.to = onCoarse.cloud();

    flow::Solver plain(fine.grid, fine.geometry, fine.c, ranks), follows(fine.grid, fine.geometry, fine.c, ranks);
    plain.start().fromNeighbour(fineBefore, before);
    follows.start().fromNeighbour(fineBefore, before);
    follows.start().followCoarser(change);
    EXPECT_LT(follows.read().massImbalance(), 1e-4);
    for (int i = 0; i < 5; ++i) {
        plain.iterate();
        follows.iterate();
    }
    const double early = follows.coefficients().CD, without = plain.coefficients().CD;
    settle(plain);
    const double there = plain.coefficients().CD;
    EXPECT_LT(std::abs(early - there), 0.5 * std::abs(without - there)) << early << " " << without << " " << there;
}

TEST(Roles, OfAClosedTunnelAreSlipOnAllFourSidesAndItsWindRunsAlong) {
    const auto g = grid::brick({{0, 0, 0}, {1, 1, 1}}, {2, 2, 2});
    flow::Case c;
    c.tunnel.closed = true;
    c.wind.speed = 10.0;
    int slip = 0;
    for (const auto& r : flow::rolesFor(g.patches, c)) {
        slip += r.boundary->slides();
        // Its speed is that at the inlet, whatever the pressure there.
        EXPECT_FALSE(r.boundary->isInlet() && r.boundary->tiesPressure());
    }
    EXPECT_EQ(slip, 4);
    c.wind.alpha = 2.0 * base::degree;
    EXPECT_THROW(flow::rolesFor(g.patches, c), base::InputError);
    c.tunnel.closed = false;
    EXPECT_NO_THROW(flow::rolesFor(g.patches, c));
}

TEST(Roles, FollowTheWindAndRefuseWindThroughTheGround) {
    const auto g = grid::brick({{0, 0, 0}, {1, 1, 1}}, {2, 2, 2});
    flow::Case c;
    c.wind = {10.0, 5.0 * base::degree, 0.0, {}};
    const auto r = flow::rolesFor(g.patches, c);
    for (std::size_t i = 0; i < g.patches.size(); ++i) {
        const auto& b = *r[i].boundary;
        EXPECT_EQ(b.isInlet(), g.patches[i].side == grid::kUpstream) << g.patches[i].name;
        EXPECT_EQ(b.holdsPressure(), g.patches[i].side == grid::kDownstream) << g.patches[i].name;
        EXPECT_TRUE(b.tiesPressure()) << g.patches[i].name;
    }
    c.tunnel.floor = grid::Floor::Moving;
    EXPECT_THROW(flow::rolesFor(g.patches, c), base::InputError);
    c.tunnel = {};
    c.tunnel.halfModel = true;
    c.wind = {10.0, 0.0, 0.1, {}};
    EXPECT_THROW(flow::rolesFor(g.patches, c), base::InputError);
}

// A disc that brakes the air holds it back as far as the inlet: there it is slower by what the pressure is higher.
TEST(FreeInlet, KeepsTheTotalPressureThatTheWindHas) {
    const auto g = grid::brick({{-1.0, -1.0, -1.0}, {3.0, 1.0, 1.0}}, {24, 12, 12});
    const flow::Ranks ranks;
    flow::Case c;
    c.wind = {10.0, 0.0, 0.0, {}};
    c.settings.model = flow::Model::Laminar;
    flow::Disc brake;
    brake.outer = 0.6;
    brake.thrust = -0.4 * 1.225 * 100.0 * std::acos(-1.0) * 0.36;
    c.discs.push_back(brake);
    flow::Solver s(g, grid::geometryOf(g), c, ranks);
    s.start().fromPotentialFlow();
    for (int i = 0; i < 150; ++i) s.iterate();
    const flow::Piece& p = s.piece();
    double least = 1e300, most = -1e300, pressure = 0.0;
    for (std::size_t cell = 0; cell < static_cast<std::size_t>(p.cells); ++cell) {
        if (p.x[cell].x() > -1.0 + 4.0 / 24.0) continue;
        const double total = (s.state().p[cell] + 0.5 * s.state().U[cell].squaredNorm()) / 50.0;
        least = std::min(least, total);
        most = std::max(most, total);
        pressure = std::max(pressure, s.state().p[cell] / 50.0);
    }
    EXPECT_GT(ranks.max(pressure), 0.05);
    EXPECT_NEAR(-ranks.max(-least), 1.0, 0.02);
    EXPECT_NEAR(ranks.max(most), 1.0, 0.02);
}

// Cells hold means; what a parabola and a cubic have at faces follows from them exactly where cells are even.
TEST(Rebuild, OfMeansOverEvenCellsIsExactForACubic) {
    const double h = 1.0 / 12.0;
    const Patch t(grid::brick({{0, 0, 0}, {1.0, 0.25, 0.25}}, {12, 3, 3}));
    const auto mean = [&](double x) {  // of x^3 - 2 x^2 + x over a cell
        return x * x * x + x * h * h / 4.0 - 2.0 * (x * x + h * h / 12.0) + x;
    };
    std::vector<double> phi;
    for (const Vec3& x : t.piece.x) phi.push_back(mean(x.x()));
    const std::vector<double> none(t.piece.faces() - t.piece.linked, 0.0);
    std::vector<Vec3> g;
    flow::Gradient(t.piece, std::vector<char>(none.size(), 0))(phi, none, g);
    int faces = 0;
    for (std::size_t f = 0; f < t.piece.linked; ++f) {
        const double x = t.piece.xf[f].x();
        if (std::abs(t.piece.S[f].normalized().x()) < 0.9 || x < 2.5 * h || x > 1.0 - 2.5 * h) continue;
        ++faces;
        EXPECT_NEAR(flow::betweenCells(t.piece, f, phi, g), x * x * x - 2.0 * x * x + x, 1e-12);
    }
    EXPECT_GT(faces, 0);
}

TEST(InviscidSphere, FeelsNoSideForceAndHasStagnationPressureInFront) {
    const Ball b(flow::Model::Inviscid, 25000);
    const flow::Ranks ranks;
    flow::Solver s(b.grid, b.geometry, b.c, ranks);
    s.start().fromPotentialFlow();
    for (int i = 0; i < 60; ++i) s.iterate();
    const auto k = s.coefficients();
    EXPECT_LT(std::abs(k.CL), 0.01);
    EXPECT_LT(std::abs(k.CY), 0.01);
    EXPECT_LT(std::abs(k.CD), 0.08);  // d'Alembert; coarse cells leave a little
    double front = -10.0, sums[2] = {0.0, 0.0};
    for (const auto& w : s.read().wallSamples()) {
        const auto f = static_cast<std::size_t>(w.face);
        const Vec3 x = b.geometry.faceCentre[f].normalized();
        if (x.x() < -0.98) front = std::max(front, 2.0 * w.p);
        const double exact = 1.0 - 2.25 * (1.0 - x.x() * x.x()), area = b.geometry.faceArea[f].norm();
        sums[0] += area * (2.0 * w.p - exact) * (2.0 * w.p - exact);
        sums[1] += area;
    }
    EXPECT_NEAR(ranks.max(front), 1.0, 0.06);
    ranks.sum(std::span<double>(sums, 2));
    // Of a range of 2.25. Gradients that were bounded in the thin cells on the wall left twice as much.
    EXPECT_LT(std::sqrt(sums[0] / sums[1]), 0.03);
    EXPECT_LT(s.read().massImbalance(), 1e-5);
}

TEST(Resume, GoesOnToTheSameBits) {
    const Ball b(flow::Model::Sst, 8000);
    const flow::Ranks ranks;
    flow::Solver straight(b.grid, b.geometry, b.c, ranks), first(b.grid, b.geometry, b.c, ranks),
        second(b.grid, b.geometry, b.c, ranks);
    straight.start().fromPotentialFlow();
    first.start().fromPotentialFlow();
    for (int i = 0; i < 5; ++i) {
        straight.iterate();
        first.iterate();
    }
    const test::Folder folder;
    auto c = first.checkpoint();
    c.key = "k";
    flow::writeCheckpoint(c, folder / "c.bin");
    second.resume(*flow::readCheckpoint(folder / "c.bin"));
    for (int i = 0; i < 5; ++i) {
        straight.iterate();
        second.iterate();
    }
    EXPECT_EQ(straight.coefficients().CD, second.coefficients().CD);
    EXPECT_EQ(straight.coefficients().CL, second.coefficients().CL);
}

TEST(Checkpoint, NoticesDamage) {
    const test::Folder folder;
    flow::Checkpoint c;
    c.cellData.assign(700, 1.5);
    c.flux.assign(10, 2.5);
    flow::writeCheckpoint(c, folder / "c.bin");
    EXPECT_EQ(flow::readCheckpoint(folder / "c.bin")->cellData, c.cellData);
    auto bytes = base::readFile(folder / "c.bin");
    bytes[300] ^= 1;
    base::replaceFile(folder / "c.bin", bytes);
    EXPECT_THROW(flow::readCheckpoint(folder / "c.bin"), base::InputError);
    base::replaceFile(folder / "c.bin", bytes.substr(0, 100));
    EXPECT_THROW(flow::readCheckpoint(folder / "c.bin"), base::InputError);
    EXPECT_FALSE(flow::readCheckpoint(folder / "absent.bin").has_value());
}

TEST(GradientLimiter, BoundsWhereItIsAskedToAndNowhereElse) {
    // A peak in one cell of sound cubes: left alone by default, bounded in all cells on request.
    const auto g = grid::refinedBrick({{0, 0, 0}, {1, 1, 1}}, {5, 5, 5}, {});
    const auto geo = grid::geometryOf(g);
    const auto p = flow::cutPiece(g, geo, 0, 1);
    const std::vector<char> none(p.faces() - p.linked, 0);
    const std::vector<double> atBoundary(none.size(), 0.0);
    std::vector<double> phi(p.stored(), 0.0);
    std::size_t peak = 0;
    for (std::size_t c = 0; c < phi.size(); ++c)
        if ((p.x[c] - Vec3(0.5, 0.5, 0.5)).norm() < 0.01) peak = c;
    phi[peak] = 1.0;
    const auto steepest = [&](flow::Limiter where) {
        std::vector<Vec3> gradient(p.stored(), Vec3::Zero());
        // Towards a value above all others: wherever it is bounded, nothing is left of it in the peak.
        gradient[peak] = Vec3(1.0, 0.0, 0.0);
        flow::GradientLimiter(p, where, true)(phi, atBoundary, none, gradient);
        return gradient[peak].norm();
    };
    EXPECT_EQ(flow::GradientLimiter(p, flow::Limiter::PoorCells, true).cells(), 0u);
    EXPECT_DOUBLE_EQ(steepest(flow::Limiter::PoorCells), 1.0);
    EXPECT_DOUBLE_EQ(steepest(flow::Limiter::None), 1.0);
    EXPECT_DOUBLE_EQ(steepest(flow::Limiter::AllCells), 0.0);
}

// Cells round a cylinder of 24 flat sides: where they are thin, the face between two lies aside by more than they are
// thick.
TEST(GradientLimiter, BoundsVelocitiesAndNotPressureWhereThinCellsBend) {
    const auto bounded = [](double firstHeight, int across, bool atBends) {
        const Patch patch(ringOf24(across, firstHeight));
        return flow::GradientLimiter(patch.piece, flow::Limiter::PoorCells, atBends).cells();
    };
    EXPECT_GT(bounded(1e-3, 30, true), 0u);
    EXPECT_EQ(bounded(1e-3, 30, false), 0u);
    EXPECT_EQ(bounded(0.2, 10, true), 0u);
}

// Each component and each cell by itself, as the formula is written: what the limiter that takes the components
// together has to come to.
TEST(GradientLimiter, BoundsEachComponentByItsOwnNeighbours) {
    const Patch patch(ringOf24(30, 1e-3));
    const flow::Piece& p = patch.piece;
    const auto number = [](std::size_t i, int k) { return std::sin(7.0 * static_cast<double>(i) + k); };
    std::vector<Vec3> u(p.stored()), atBoundary(p.faces() - p.linked);
    std::vector<char> uses(atBoundary.size());
    std::vector<Mat3> slopes(p.stored());
    for (std::size_t c = 0; c < u.size(); ++c) {
        u[c] = Vec3(number(c, 0), number(c, 1), 1.0);
        for (int k = 0; k < 9; ++k) slopes[c](k / 3, k % 3) = 3.0 * number(c, k);
    }
    p.halo.exchange(u);
    p.halo.exchange(slopes);
    for (std::size_t i = 0; i < uses.size(); ++i) {
        atBoundary[i] = Vec3(number(i, 3), number(i, 4), 1.0);
        uses[i] = i % 3 != 0;
    }
    auto bounded = slopes;
    flow::GradientLimiter(p, flow::Limiter::AllCells, true)(u, atBoundary, uses, bounded);
    std::vector<std::vector<std::size_t>> facesOf(static_cast<std::size_t>(p.cells));
    for (std::size_t f = 0; f < p.faces(); ++f) {
        if (p.isBoundary(f) && !uses[f - p.linked]) continue;
        facesOf[static_cast<std::size_t>(p.P[f])].push_back(f);
        if (f < p.inner) facesOf[static_cast<std::size_t>(p.N[f])].push_back(f);
    }
    for (std::size_t c = 0; c < facesOf.size(); ++c)
        for (int k = 0; k < 3; ++k) {
            double low = u[c][k], high = low, a = 1.0;
            for (const auto f : facesOf[c]) {
                const auto P = static_cast<std::size_t>(p.P[f]);
                const double other =
                    p.isBoundary(f) ? atBoundary[f - p.linked][k] : u[P == c ? static_cast<std::size_t>(p.N[f]) : P][k];
                low = std::min(low, other);
                high = std::max(high, other);
            }
            for (const auto f : facesOf[c]) {
                const double change = slopes[c].row(k).dot(p.xf[f] - p.x[c]);
                if (u[c][k] + change > high) a = std::min(a, (high - u[c][k]) / change);
                if (u[c][k] + change < low) a = std::min(a, (low - u[c][k]) / change);
            }
            ASSERT_LT((bounded[c].row(k) - a * slopes[c].row(k)).norm(), 1e-13) << c << ' ' << k;
        }
}

// div(gamma grad(U)^T) of a linear velocity and a linear diffusivity is grad(U)^T grad(gamma): over a cell of an even
// brick exactly that.
TEST(Transport, TransposedStressIsThatOfTheDiffusivitysSlope) {
    const Patch patch(grid::brick({{0, 0, 0}, {1, 1, 1}}, {5, 4, 6}));
    const flow::Piece& p = patch.piece;
    Mat3 G;
    G << 0.3, -1.1, 0.4, 2.0, 0.7, -0.6, 0.9, 0.2, -1.3;
    const Vec3 h(0.5, -0.2, 0.8);
    std::vector<Vec3> U(p.stored()), with(p.stored(), Vec3::Zero()), without(p.stored(), Vec3::Zero());
    std::vector<double> gamma(p.stored());
    for (std::size_t c = 0; c < p.stored(); ++c) {
        U[c] = G * p.x[c];
        gamma[c] = 2.0 + h.dot(p.x[c]);
    }
    const std::vector<Mat3> grad(p.stored(), G);
    const std::vector<double> still(p.faces(), 0.0);
    flow::CellMatrix A(p), B(p);
    flow::addTransport<flow::Scheme::SecondOrder, true>(p, still, gamma, U, grad, A, with);
    flow::addTransport<flow::Scheme::SecondOrder>(p, still, gamma, U, grad, B, without);
    EXPECT_EQ(A.val, B.val);
    std::vector<char> atRim(p.stored(), 0);
    for (std::size_t f = p.linked; f < p.faces(); ++f) atRim[static_cast<std::size_t>(p.P[f])] = 1;
    int inside = 0;
    for (std::size_t c = 0; c < static_cast<std::size_t>(p.cells); ++c) {
        if (atRim[c]) continue;
        ++inside;
        EXPECT_LT((with[c] - without[c] - p.V[c] * (G.transpose() * h)).norm(), 1e-14);
    }
    EXPECT_GT(patch.ranks.sum(inside), 0.0);
}

TEST(SettleWatch, TellsSettledUnsteadyAndDivergedApart) {
    flow::FlowSettings s;
    s.mostIterations = 300;
    const flow::SettleWatch watch(s);
    const auto history = [](int n, auto&& CD) {
        std::vector<air::Coefficients> h;
        for (int i = 0; i < n; ++i) h.push_back({0.0, CD(i), 0.0, 0.0, 0.0, 0.0});
        return h;
    };
    const auto creeping = [](int i) { return 0.3 + 0.5 * std::exp(-i / 20.0); };
    EXPECT_EQ(watch.judge(history(60, creeping), 1e-5), flow::Verdict::Running);
    EXPECT_EQ(watch.judge(history(250, creeping), 1e-5), flow::Verdict::Settled);
    EXPECT_EQ(watch.judge(history(250, creeping), 0.5),
              flow::Verdict::Running);  // coefficients rest, the residual does not
    EXPECT_EQ(watch.judge(history(300, [](int i) { return 0.3 + 0.03 * std::sin(0.3 * i); }), 1e-5),
              flow::Verdict::Unsteady);
    s.leastIterations = 1;
    EXPECT_EQ(flow::SettleWatch(s).judge(history(20, [](int) { return 0.3; }), 1e-5),
              flow::Verdict::Running);  // too few to tell
    EXPECT_EQ(watch.judge(history(20, [](int i) { return i == 19 ? std::nan("") : 0.3; }), 1e-5),
              flow::Verdict::Diverged);
}

TEST(SettleWatch, TellsASwingFromAStartThatDiesAway) {
    const flow::SettleWatch watch(flow::FlowSettings{});
    const auto after = [](int n, auto&& CD) {
        std::vector<air::Coefficients> h;
        for (int i = 0; i < n; ++i) h.push_back({0.0, CD(i), 0.0, 0.0, 0.0, 0.0});
        return h;
    };
    for (const int n : {120, 130, 150}) {
        EXPECT_FALSE(watch.swings(after(n, [](int i) { return 1.07 + 0.3 * std::exp(-i / 12.0) * std::cos(0.4 * i); })))
            << n;
        EXPECT_TRUE(watch.swings(after(n, [](int i) { return 1.07 + 0.03 * std::cos(0.4 * i); }))) << n;
        // Slower to die away: still beyond the tolerances, but by half in every 25 iterations.
        const auto dying = after(n, [](int i) { return 1.07 + 0.4 * std::exp2(-i / 25.0) * std::cos(0.4 * i); });
        EXPECT_FALSE(watch.swings(dying)) << n;
    }
}

TEST(SettleWatch, DoesNotTakeTheTurningPointOfASlowSwingForRest) {
    // A wake's swing of 150 steps and 10 % of CD, seen where it turns: a short window looks still, and in steps of time
    // 200 are asked.
    flow::FlowSettings s;
    s.mostIterations = 3000;
    const flow::SettleWatch watch(s);
    std::vector<air::Coefficients> h;
    for (int i = 0; i < 165; ++i)
        h.push_back({0.0, 0.4 + 0.04 * std::cos(2.0 * std::acos(-1.0) * (i - 140) / 150.0), 0.0, 0.0, 0.0, 0.0});
    const std::size_t firstStep = 50, averaged = firstStep + flow::SettleWatch::kWashOut;
    EXPECT_FALSE(watch.atRest(h, 1e-6, averaged));
    EXPECT_EQ(watch.judge(h, 1e-6, averaged), flow::Verdict::Running);
    // A flow that does come to rest is seen to, once it has rested for so long.
    while (h.size() < firstStep + flow::SettleWatch::kSteps + 165) h.push_back({0.0, 0.4, 0.0, 0.0, 0.0, 0.0});
    EXPECT_TRUE(watch.atRest(h, 1e-6, averaged));
}

TEST(SettleWatch, StartsAveragingAnewWhereTheWakeOnlyThenBeginsToShed) {
    // Still symmetric for 500 steps, then up to another mean about which it swings.
    const flow::SettleWatch watch(flow::FlowSettings{});
    std::vector<air::Coefficients> h;
    std::size_t from = 200;
    for (int i = 0; i < 3000; ++i) {
        const double up = i < 500 ? 0.0 : 1.0 - std::exp(-(i - 500) / 150.0);
        h.push_back({0.0, 0.29 + up * (0.095 + 0.01 * std::sin(0.03 * i)), 0.0, 0.0, 0.0, 0.0});
        if (watch.driftsAway(h, from)) from = h.size();
    }
    EXPECT_GE(from, 600u);
    EXPECT_LE(from, 1600u);  // and then no more: the swing's 209 steps do not count as drift
    EXPECT_NEAR(flow::spreadOf(flow::columnOf(h, &air::Coefficients::CD), h.size() - from).mean, 0.385, 0.002);
}

TEST(SettleWatch, TakesTheMeanOfASwingingFlowForSettledWhenItIsKnown) {
    flow::FlowSettings s;
    s.mostIterations = 5000;
    const flow::SettleWatch watch(s);
    std::vector<air::Coefficients> h;
    std::optional<std::size_t> from;
    flow::Verdict v = flow::Verdict::Running;
    // The start dies out; what stays is a swing of 4 % with a period of 73 iterations.
    while (v == flow::Verdict::Running) {
        const double i = static_cast<double>(h.size());
        h.push_back({0.0, 0.3 + 0.4 * std::exp(-i / 30.0) + 0.012 * std::sin(0.086 * i), 0.0, 0.0, 0.0, 0.0});
        v = watch.judge(h, 1e-2, from);
        if (!from && watch.swings(h)) from = h.size();
    }
    EXPECT_EQ(v, flow::Verdict::Settled);
    ASSERT_TRUE(from.has_value());
    const auto CD = flow::columnOf(h, &air::Coefficients::CD);
    EXPECT_NEAR(flow::spreadOf(CD, h.size() - *from).mean, 0.3, s.toleranceCD * 0.3);
    EXPECT_NEAR(flow::spreadOf(CD, h.size() - *from).halfRange(), 0.012, 0.001);
    EXPECT_LT(h.size(), 3000u);
}

TEST(ErrorOfMean, OfIndependentNumbersIsTwiceTheirStandardError) {
    std::vector<double> h;
    std::uint32_t seed = 12345;
    for (int i = 0; i < 4800; ++i) {
        seed = seed * 1664525u + 1013904223u;
        h.push_back(static_cast<double>(seed >> 8) / (1 << 24));
    }
    // Variance 1/12. The largest of four estimates with 3 to 11 degrees of freedom lies somewhat above the true error.
    const double expected = 2.0 * std::sqrt(1.0 / 12.0 / 4800.0);
    EXPECT_GT(flow::errorOfMean(h, 0), 0.7 * expected);
    EXPECT_LT(flow::errorOfMean(h, 0), 2.5 * expected);
    EXPECT_TRUE(std::isinf(flow::errorOfMean(h, 4750)));
}

TEST(StillToGo, IsTheRestOfAnExponentialApproach) {
    std::vector<double> h;
    for (int i = 0; i < 200; ++i) h.push_back(1.0 + std::exp(-i / 40.0));
    const double left = h.back() - 1.0;
    EXPECT_NEAR(flow::stillToGo(h, 100), left, 0.35 * left);
    for (int i = 0; i < 200; ++i) h.push_back(1.0 + 0.1 * std::sin(0.7 * i));
    EXPECT_LT(flow::stillToGo(h, 100), 0.05);
}

TEST(Solver, RestoredGoesOnAsBefore) {
    const Ball b(flow::Model::Sst, 8000);
    const flow::Ranks ranks;
    flow::Solver s(b.grid, b.geometry, b.c, ranks);
    s.start().fromPotentialFlow();
    for (int i = 0; i < 3; ++i) s.iterate();
    const auto good = s.state();
    for (int i = 0; i < 3; ++i) s.iterate();
    const double CD = s.coefficients().CD;
    s.restore(good);
    for (int i = 0; i < 3; ++i) s.iterate();
    EXPECT_EQ(s.coefficients().CD, CD);
}

TEST(Mean, OfStatesIsTheirAverage) {
    const Ball b(flow::Model::Laminar, 8000);
    const flow::Ranks ranks;
    flow::Solver s(b.grid, b.geometry, b.c, ranks);
    s.start().fromPotentialFlow();
    s.iterate();
    const Vec3 first = s.state().U[10];
    s.addToMean();
    s.iterate();
    const Vec3 second = s.state().U[10];
    s.addToMean();
    s.takeMean();
    EXPECT_LT((s.state().U[10] - 0.5 * (first + second)).norm(), 1e-12);
}

TEST(RelaxationControl, IsCautiousWhileTheResidualRisesAndBoldAgainWhenItHasFallen) {
    flow::RelaxationControl control(0.8);
    double residual = 1e-3;
    for (int i = 0; i < 60; ++i) control.take(residual *= 0.97);
    EXPECT_EQ(control.now(), 0.8);
    for (int i = 0; i < 60; ++i) control.take(residual *= 1.05);
    EXPECT_LT(control.now(), 0.7);
    EXPECT_GE(control.now(), 0.5);
    flow::RelaxationControl copy(0.8);
    copy.remember(control.memory());
    for (int i = 0; i < 400; ++i) {
        control.take(residual *= 0.97);
        copy.take(residual);
        EXPECT_LE(control.now(), 0.8);
    }
    EXPECT_EQ(control.now(), 0.8);
    EXPECT_EQ(copy.now(), control.now());
}
