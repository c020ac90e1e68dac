// Air that gets into a model, and how it is kept out.
#include <gtest/gtest.h>

#include <cmath>

#include "bench/models.h"
#include "grid/build.h"
#include "grid/quality.h"
#include "shape/triangle_tree.h"

using namespace cvane;

namespace {
const grid::Tunnel kTunnel{3, 4, 3, 3, 3, grid::Floor::None, 0, false};

// A ball without the facets within an angle of the top.
shape::Surface ballWithHole(double angle_deg) {
    auto s = bench::sphere(0.5, 120);
    const double top = 0.5 * std::cos(angle_deg / 180.0 * std::acos(-1.0));
    shape::Surface out = s;
    out.facets.clear();
    out.partOf.clear();
    for (std::size_t f = 0; f < s.facets.size(); ++f)
        if (std::min({s.corner(f, 0).z(), s.corner(f, 1).z(), s.corner(f, 2).z()}) < top) {
            out.facets.push_back(s.facets[f]);
            out.partOf.push_back(0);
        }
    return out;
}

grid::GridSettings cells(int budget) {
    grid::GridSettings s;
    s.cellBudget = budget;
    s.wakeLength = 0.0;
    return s;
}
double wetted(const grid::Grid& g) {
    return grid::qualityOf(g, grid::geometryOf(g)).wettedArea;
}
const double kBall = std::acos(-1.0);  // area of a ball of diameter 1
}  // namespace

TEST(WindingNumber, IsOneInsideZeroOutsideAndTheSolidAngleOfAHole) {
    const auto ball = bench::sphere(0.5, 60);
    const shape::TriangleTree tree(ball);
    for (const Vec3& p : {Vec3(0.1, 0.2, -0.1), Vec3(0.0, 0.0, 0.49), Vec3(-0.3, 0.3, 0.0)})
        EXPECT_NEAR(tree.winding(p), 1.0, 0.03);
    for (const Vec3& p : {Vec3(0.1, 0.2, -0.6), Vec3(3.0, 0.0, 0.0), Vec3(0.0, 0.0, 0.52)})
        EXPECT_NEAR(tree.winding(p), 0.0, 0.03);
    // Seen from the middle, a cap of an angle a takes (1 - cos a) / 2 of all directions.
    const auto holed = ballWithHole(30.0);
    const double cosRim = 2.0 * holed.bounds().high.z();
    EXPECT_NEAR(shape::TriangleTree(holed).winding(Vec3::Zero()), 1.0 - 0.5 * (1.0 - cosRim), 0.02);
}

TEST(Leak, SmallerThanACellClosesByItself) {
    auto s = cells(8000);
    s.curvatureLevels = 0;
    const auto g = grid::build(ballWithHole(3.0), kTunnel, s, {});
    // Two facets are missing, each a hole of its own; no air has found a way through.
    EXPECT_EQ(g.leaks.size(), 2u);
    for (const auto& l : g.leaks) EXPECT_TRUE(l.sealed && l.path.empty());
    EXPECT_NEAR(wetted(g), kBall, 0.02 * kBall);
}

TEST(Leak, WiderThanACellIsFoundAndShownAsAPath) {
    auto s = cells(40000);
    s.layers = 5;
    s.sealWidth = 0.01;  // narrower than the hole, so it stays open
    const auto g = grid::build(ballWithHole(15.0), kTunnel, s, {});
    ASSERT_EQ(g.leaks.size(), 1u);
    const auto& leak = g.leaks[0];
    EXPECT_FALSE(leak.sealed);
    // A round hole of radius 0.5 sin 15 deg at the top, to about a cell.
    EXPECT_NEAR(leak.width, std::sqrt(std::acos(-1.0)) * 0.5 * std::sin(std::acos(-1.0) / 12.0), 0.06);
    EXPECT_LT((leak.place - Vec3(0, 0, 0.48)).norm(), 0.08);
    ASSERT_GE(leak.path.size(), 3u);
    EXPECT_GT(leak.path.front().norm(), 0.5);
    EXPECT_LT(leak.path.back().norm(), 0.45);
    EXPECT_NE(g.notes.find("air gets into the model"), std::string::npos);
    EXPECT_GT(wetted(g), 1.5 * kBall);  // wet inside and outside
}

TEST(Leak, UpToTheAskedWidthIsClosed) {
    auto s = cells(40000);
    s.sealWidth = 0.4;
    const auto g = grid::build(ballWithHole(15.0), kTunnel, s, {});
    ASSERT_FALSE(g.leaks.empty());
    for (const auto& l : g.leaks) EXPECT_TRUE(l.sealed);
    // The lid is flatter than the cap that is missing, by some 2 % of its area.
    EXPECT_NEAR(wetted(g), kBall, 0.02 * kBall);
    EXPECT_EQ(grid::foldedCells(g, grid::geometryOf(g)).size(), 0u);
}

TEST(Leak, AnOpenBowlIsNone) {
    const auto g = grid::build(ballWithHole(100.0), kTunnel, cells(20000), {});
    EXPECT_TRUE(g.leaks.empty()) << g.notes;
}

TEST(Leak, TheOpenRootOfAHalfModelIsNone) {
    const grid::Tunnel half{3, 4, 3, 3, 3, grid::Floor::None, 0, true};
    auto s = cells(30000);
    auto wing = bench::rectangularHalfWing(0.18, 1.5, 40, 20);
    // A hole that is not in the plane makes the builder look: it must find that one and not the root.
    wing.facets.pop_back();
    wing.partOf.pop_back();
    const auto g = grid::build(wing, half, s, {});
    for (const auto& l : g.leaks) EXPECT_GT(l.place.y(), 0.1);
}
