// Cells where a flow asks for them: weights, and the second grid that follows.
#include "flow/marks.h"

#include <gtest/gtest.h>

#include <cmath>

#include "bench/models.h"
#include "grid/quality.h"

using namespace cvane;

namespace {
grid::Grid ballGrid(const grid::GridSettings& s) {
    return grid::build(bench::sphere(0.5, 60), {3, 4, 3, 3, 3, grid::Floor::None, 0, false}, s, {});
}
grid::GridSettings settings(int cells) {
    grid::GridSettings s;
    s.cellBudget = cells;
    s.layers = 3;
    return s;
}
double largestCell(const grid::Grid& g, const grid::Geometry& geo, const Box& where) {
    double most = 0.0;
    for (std::size_t c = 0; c < geo.volume.size(); ++c)
        if (g.layer[c] == 0 && where.contains(geo.cellCentre[c])) most = std::max(most, std::cbrt(geo.volume[c]));
    return most;
}
}  // namespace

TEST(Marks, HalveTheCellsOfTheFirstGridAndKeepTheOthersWithinTheBudget) {
    const auto first = ballGrid(settings(12000));
    const auto geo = grid::geometryOf(first);
    const Box wake{{1.0, -0.4, -0.4}, {1.8, 0.4, 0.4}}, ahead{{-2.0, -0.4, -0.4}, {-1.2, 0.4, 0.4}};
    auto second = settings(24000);
    grid::Marks marks;
    marks.firstBudget = 12000;
    for (std::size_t c = 0; c < geo.volume.size(); ++c)
        if (first.layer[c] == 0 && wake.contains(geo.cellCentre[c])) marks.places.push_back(geo.cellCentre[c]);
    ASSERT_GT(marks.places.size(), 20u);
    second.marks = std::make_shared<grid::Marks>(marks);
    const auto g = ballGrid(second);
    const auto fine = grid::geometryOf(g);
    EXPECT_LE(g.cells(), 24000 * 1.05);
    EXPECT_EQ(g.surfaceCell, first.surfaceCell);
    EXPECT_LT(largestCell(g, fine, wake), 0.55 * largestCell(first, geo, wake));
    EXPECT_NEAR(largestCell(g, fine, ahead) / largestCell(first, geo, ahead), 1.0, 0.01);
    const auto q = grid::qualityOf(g, fine);
    EXPECT_LT(q.worstOpenness, 1e-10);
    EXPECT_EQ(q.negativeCells, 0u);
}

TEST(Marks, OnTheWallHalveItsCellsAndTheBudgetHoldsThemBack) {
    const auto first = ballGrid(settings(12000));
    const auto geo = grid::geometryOf(first);
    grid::Marks marks;
    marks.firstBudget = 12000;
    for (std::size_t c = 0; c < geo.volume.size(); ++c)
        if (first.layer[c] == 0 && geo.cellCentre[c].norm() < 0.75) marks.places.push_back(geo.cellCentre[c]);
    auto second = settings(20000);
    second.marks = std::make_shared<grid::Marks>(marks);
    const auto g = ballGrid(second);
    EXPECT_GT(g.cells(), 14000);
    EXPECT_LE(g.cells(), 20000 * 1.05);
    EXPECT_GT(g.fit.shareOn, 0.99);  // the wall stays on the model
    const auto q = grid::qualityOf(g, grid::geometryOf(g));
    EXPECT_EQ(q.negativeCells, 0u);
    EXPECT_NEAR(q.wettedArea, std::acos(-1.0), 0.03);
}

TEST(Marks, WeighPressureAndVorticityByTheCellsAndLeaveWallLayersOut) {
    const auto g = ballGrid(settings(12000));
    const auto geo = grid::geometryOf(g);
    flow::FlowCloud flow;
    for (const Vec3& x : geo.cellCentre) {
        flow.x.push_back(x);
        // A shear of 4 1/s ahead of the ball, a pressure that falls by 6 m/s2 behind it.
        Mat3 shear = Mat3::Zero();
        if (x.x() < -1.0) shear(0, 2) = 4.0;
        flow.gradU.push_back(shear);
        flow.gradP.push_back(x.x() > 1.0 ? Vec3(-6.0, 0.0, 0.0) : Vec3::Zero());
    }
    const auto weights = flow::refinementWeights(flow, g, geo, 2.0);
    for (std::size_t c = 0; c < weights.size(); ++c) {
        const double h = std::cbrt(geo.volume[c]), x = geo.cellCentre[c].x();
        const double asked = g.layer[c] > 0 ? 0.0 : x < -1.0 ? 4.0 * h / 2.0 : x > 1.0 ? 6.0 * h / 2.0 : 0.0;
        ASSERT_NEAR(weights[c], asked, 1e-12);
    }
    const auto marks = flow::marksOf(weights, geo, 6000);
    ASSERT_FALSE(marks.places.empty());
    EXPECT_GT(marks.places.front().x(), 1.0);  // the pressure's change is the larger one
    for (const Vec3& p : marks.places) EXPECT_GT(std::abs(p.x()), 1.0);
}
