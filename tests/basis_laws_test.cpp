// What the methods stand on: curves, panels, aggregates, differences in time, the nearest of many points. Each is held
// against its exact answer or against the plain way to do the same.
#include <gtest/gtest.h>

#include <cmath>
#include <random>

#include "base/errors.h"
#include "base/nearest_point.h"
#include "base/units.h"
#include "flow/aggregation.h"
#include "flow/time_levels.h"
#include "grid/tunnel_sides.h"
#include "section/outline/spline.h"
#include "section/potential/panel_flow.h"

using namespace cvane;
using section::Vec2;

namespace {
const double pi = std::acos(-1.0);

// A circle of diameter 1 from its rearmost point over the top and back, cut by places on it.
section::Panels circle(int panels) {
    const auto at = [&](double i) {
        const double t = 2.0 * pi * i / panels;
        return Vec2(0.5 + 0.5 * std::cos(t), 0.5 * std::sin(t));
    };
    section::Panels out;
    for (int i = 0; i <= panels; ++i) out.nodes.push_back(at(i));
    out.nodes.back() = out.nodes.front();
    for (int i = 0; i < panels; ++i) out.between.push_back({at(i + 0.25), at(i + 0.5), at(i + 0.75)});
    return out;
}

// A chain of cells, each bound to the next, the odd links ten times as strongly.
flow::Sparse chain(std::int32_t rows) {
    flow::Sparse A;
    A.rows = rows;
    A.rowStart = {0};
    for (std::int32_t c = 0; c < rows; ++c) {
        double sum = 0.0;
        for (const std::int32_t n : {c - 1, c + 1}) {
            if (n < 0 || n >= rows) continue;
            const double link = std::min(c, n) % 2 == 0 ? -10.0 : -1.0;
            A.col.push_back(n);
            A.val.push_back(link);
            sum -= link;
        }
        A.diag.push_back(sum + 0.1);
        A.rowStart.push_back(static_cast<std::int32_t>(A.col.size()));
    }
    A.findAbove();
    return A;
}
}  // namespace

TEST(Spline, ThroughPointsOnALineIsThatLineHoweverTheyStand) {
    std::vector<Vec2> points;
    for (const double x : {0.0, 0.3, 0.5, 1.1, 1.4, 2.0}) points.emplace_back(x, 0.0);
    const section::Spline line(points);
    EXPECT_NEAR(line.length(), 2.0, 1e-14);
    for (const double s : {0.05, 0.4, 0.9, 1.7}) {
        EXPECT_NEAR((line.at(s) - Vec2(s, 0.0)).norm(), 0.0, 1e-13);
        EXPECT_NEAR((line.slope(s) - Vec2(1.0, 0.0)).norm(), 0.0, 1e-12);
        EXPECT_NEAR(line.curvature(s), 0.0, 1e-11);
    }
}

TEST(Spline, HasTheCurvatureAndTheExtremesOfACircle) {
    std::vector<Vec2> points;
    for (int i = 0; i <= 40; ++i) points.emplace_back(2.0 * std::cos(pi * i / 40), 2.0 * std::sin(pi * i / 40));
    const section::Spline arc(points);
    for (const double share : {0.02, 0.3, 0.5, 0.77, 0.98})
        EXPECT_NEAR(arc.curvature(share * arc.length()), 0.5, 2e-3) << share;  // it turns to the left
    const double top = arc.extreme(Vec2(0.0, 1.0), 0.0, arc.length());
    EXPECT_NEAR(arc.at(top).y(), 2.0, 1e-5);
    EXPECT_NEAR(arc.at(top).x(), 0.0, 1e-4);
    EXPECT_NEAR(arc.extreme(Vec2(1.0, 0.0), 0.0, arc.length()), 0.0, 1e-6);  // nowhere level: the end that reaches on
}

TEST(Spline, RefusesWhatHasNoCurveThroughIt) {
    EXPECT_THROW(section::Spline({{0.0, 0.0}, {1.0, 0.0}}), base::InputError);
    EXPECT_THROW(section::Spline({{0.0, 0.0}, {1.0, 0.0}, {1.0, 0.0}, {2.0, 1.0}}), base::InputError);
}

// Speed on a circle in a wind along x: 2 |sin|. With a corner of the trailing edge on its rearmost point, at an angle
// of attack a the circulation brings the rear stagnation point back there: 2 |sin(theta - a) + sin a|.
TEST(PanelFlow, OnACircleIsTheExactOneWithAndWithoutCirculation) {
    const section::PanelFlow flow(circle(120));
    for (const double alpha : {0.0, 5.0 * base::degree}) {
        const auto speed = flow.speedAt(alpha);
        double worst = 0.0;
        for (int i = 4; i < 117; ++i) {
            const double theta = 2.0 * pi * i / 120;
            worst = std::max(worst,
                             std::abs(std::abs(speed[i]) - 2.0 * std::abs(std::sin(theta - alpha) + std::sin(alpha))));
        }
        EXPECT_LT(worst, 0.01) << alpha;
    }
    // Off the circle, by its dipole: u = 1 - cos(2 theta) r^2 / R^2.
    const auto speed = flow.speedAt(0.0);
    const Vec2 above = flow.velocityAt({0.5, 1.5}, speed, 0.0);
    EXPECT_NEAR(above.x(), 1.0 + 0.25 / 2.25, 2e-3);
    EXPECT_NEAR(above.y(), 0.0, 2e-3);
}

TEST(Source, OnAPieceSendsOutItsLengthThroughAnyRingAndIsTheSlopeOfItsPotential) {
    const Vec2 a(0.1, 0.0), b(0.6, 0.2);
    double through = 0.0;
    constexpr int kParts = 400;
    for (int i = 0; i < kParts; ++i) {
        const double t = 2.0 * pi * (i + 0.5) / kParts;
        const Vec2 out(std::cos(t), std::sin(t));
        through += section::sourceVelocity(a, b, 3.0 * out).dot(out) * 3.0 * 2.0 * pi / kParts;
    }
    EXPECT_NEAR(through, (b - a).norm(), 1e-4);
    const Vec2 x(0.3, 0.7);
    constexpr double h = 1e-5;
    const Vec2 slope(
        (section::sourcePotential(a, b, x + Vec2(h, 0)) - section::sourcePotential(a, b, x - Vec2(h, 0))) / (2 * h),
        (section::sourcePotential(a, b, x + Vec2(0, h)) - section::sourcePotential(a, b, x - Vec2(0, h))) / (2 * h));
    EXPECT_NEAR((section::sourceVelocity(a, b, x) - slope).norm(), 0.0, 1e-7);
}

TEST(Aggregates, HoldEachRowOnceAndJoinTheStronglyBound) {
    const auto A = chain(40);
    std::vector<std::int32_t> aggregate;
    const auto count = flow::pairRows(A, aggregate);
    ASSERT_EQ(aggregate.size(), 40u);
    EXPECT_EQ(count, 20);
    for (std::size_t c = 0; c < 40; c += 2) EXPECT_EQ(aggregate[c], aggregate[c + 1]) << c;  // links of -10
    std::vector<int> members(static_cast<std::size_t>(count), 0);
    for (const auto a : aggregate) {
        ASSERT_GE(a, 0);
        ASSERT_LT(a, count);
        ++members[static_cast<std::size_t>(a)];
    }
    for (const int m : members) EXPECT_GE(m, 1);
}

// A correction that is constant over each aggregate is the same to the coarse matrix as to the fine one, summed.
TEST(CoarseMatrix, DoesToAConstantPieceWhatTheFineOneDoes) {
    const auto A = chain(37);
    std::vector<std::int32_t> aggregate, target;
    const auto rows = flow::pairRows(A, aggregate);
    auto C = flow::coarsePattern(A, aggregate, rows, target);
    flow::galerkin(A, aggregate, target, C);
    std::mt19937 random(5);
    std::uniform_real_distribution<double> any(-1.0, 1.0);
    std::vector<double> coarse(static_cast<std::size_t>(rows)), fine(37);
    for (double& x : coarse) x = any(random);
    for (std::size_t c = 0; c < 37; ++c) fine[c] = coarse[static_cast<std::size_t>(aggregate[c])];
    const auto times = [](const flow::Sparse& M, const std::vector<double>& x) {
        std::vector<double> y(static_cast<std::size_t>(M.rows));
        for (std::int32_t c = 0; c < M.rows; ++c) {
            const auto i = static_cast<std::size_t>(c);
            y[i] = M.diag[i] * x[i];
            for (std::int32_t k = M.rowStart[i]; k < M.rowStart[i + 1]; ++k) y[i] += M.term(k, x);
        }
        return y;
    };
    std::vector<double> summed(static_cast<std::size_t>(rows), 0.0);
    const auto onFine = times(A, fine), onCoarse = times(C, coarse);
    for (std::size_t c = 0; c < 37; ++c) summed[static_cast<std::size_t>(aggregate[c])] += onFine[c];
    for (std::size_t r = 0; r < summed.size(); ++r) EXPECT_NEAR(onCoarse[r], summed[r], 1e-12) << r;
}

TEST(TimeLevels, ChangeOfAParabolaIsExactFromTheSecondStepOn) {
    const auto value = [](double t) { return 2.0 - 3.0 * t + 0.7 * t * t; };
    flow::TimeLevels levels;
    levels.set(0.25);
    flow::State s;
    const auto begin = [&](double t) {
        s.U = {Vec3(value(t), 0, 0)};
        s.first = {value(t)};
        s.second = {0.0};
        levels.begin(s, {0.0});
    };
    const auto change = [&](double t) {
        return levels.weight() * value(t) - levels.fromBefore(&flow::State::first, 0);
    };
    begin(1.0);
    EXPECT_EQ(levels.known(), 1);
    EXPECT_NEAR(change(1.25), (value(1.25) - value(1.0)) / 0.25, 1e-12);
    begin(1.25);
    EXPECT_NEAR(change(1.5), -3.0 + 1.4 * 1.5, 1e-12);
    EXPECT_NEAR((levels.weight() * value(1.5) - levels.fromBefore(&flow::State::U, 0).x()), -3.0 + 1.4 * 1.5, 1e-12);
    // Taken up from a file, one step is known: of first order again, and of second behind the next.
    const auto rows = levels.kept(1);
    flow::TimeLevels again;
    again.set(0.25);
    again.remember(rows, 1, {0.0}, false);
    EXPECT_EQ(again.known(), 1);
    EXPECT_EQ(again.kept(1), rows);
    EXPECT_EQ(rows.at(0), value(1.25));
}

TEST(NearestPoint, IsTheOneThatLookingAtAllOfThemFinds) {
    std::mt19937 random(11);
    std::uniform_real_distribution<double> any(-1.0, 1.0);
    std::vector<Vec3> points(500);
    for (Vec3& p : points) p = Vec3(any(random), any(random), 0.01 * any(random));
    const base::NearestPoint nearest(points);
    for (int i = 0; i < 200; ++i) {
        const Vec3 x(2.0 * any(random), 2.0 * any(random), any(random));
        std::size_t best = 0;
        for (std::size_t k = 1; k < points.size(); ++k)
            if ((points[k] - x).squaredNorm() < (points[best] - x).squaredNorm()) best = k;
        EXPECT_EQ(nearest(x), best);
    }
}

TEST(TunnelSides, HoldPointsOnFacesEdgesAndCorners) {
    Box tunnel;
    tunnel.add(Vec3(-1, -2, 0));
    tunnel.add(Vec3(3, 2, 4));
    const auto corner = grid::sidesAt(Vec3(3.0, -2.0, 0.0), tunnel, 1e-9);
    for (int k = 0; k < 3; ++k) EXPECT_TRUE(grid::holds(corner, k)) << k;
    Vec3 moved(2.9, -1.8, 0.2);
    grid::holdInSides(moved, corner, tunnel);
    EXPECT_EQ(moved, Vec3(3, -2, 0));
    const auto face = grid::sidesAt(Vec3(1.0, 0.5, 4.0), tunnel, 1e-9);
    EXPECT_TRUE(grid::holds(face, 2));
    EXPECT_FALSE(grid::holds(face, 0) || grid::holds(face, 1));
    Vec3 along(0.3, -0.4, 0.5);
    grid::dropSideParts(along, face);
    EXPECT_EQ(along, Vec3(0.3, -0.4, 0.0));
    EXPECT_EQ(grid::sidesAt(Vec3(1, 1, 1), tunnel, 1e-9), 0);
}
