#include <gtest/gtest.h>

#include <cmath>
#include <numeric>

#include "base/errors.h"
#include "bench/models.h"
#include "folder.h"
#include "grid/brick.h"
#include "grid/build.h"
#include "grid/cgns_file.h"
#include "grid/cut.h"
#include "grid/quality.h"
#include "grid/wall_layers.h"

using namespace cvane;

namespace {
grid::Grid ballGrid(int cells = 20000) {
    grid::GridSettings s;
    s.cellBudget = cells;
    s.layers = 3;
    return grid::build(bench::sphere(0.5, 60), {3, 4, 3, 3, 3, grid::Floor::None, 0, false}, s, {});
}
const grid::Grid& ball() {
    static const grid::Grid g = ballGrid();
    return g;
}
double wallArea(const grid::Grid& g) {
    return grid::qualityOf(g, grid::geometryOf(g)).wettedArea;
}
}  // namespace

TEST(Grid, CellsAreClosedAndFillTheTunnelAroundTheModel) {
    const auto geo = grid::geometryOf(ball());
    const auto q = grid::qualityOf(ball(), geo);
    EXPECT_LT(q.worstOpenness, 1e-10);
    EXPECT_EQ(q.negativeCells, 0u);
    Box air;
    for (const Vec3& p : ball().points) air.add(p);
    const double volume = std::accumulate(geo.volume.begin(), geo.volume.end(), 0.0);
    const double box = air.size().prod(), model = std::acos(-1.0) / 6.0;
    EXPECT_NEAR(box - volume, model, 0.02 * model);  // chords of cells a tenth of the radius wide
}

TEST(Grid, WallPointsLieOnTheModel) {
    const shape::TriangleTree tree(bench::sphere(0.5, 60));
    for (const auto& p : ball().patches) {
        if (p.kind != grid::PatchKind::Wall) continue;
        for (auto f = p.first; f < p.first + p.count; ++f)
            for (const auto i : ball().polygon(f))
                EXPECT_LT(tree.nearest(ball().points[static_cast<std::size_t>(i)]).distance, 1e-2 * ball().surfaceCell);
    }
}

TEST(Grid, EveryWallFaceCarriesAWallLayer) {
    for (const auto& p : ball().patches) {
        if (p.kind != grid::PatchKind::Wall) continue;
        for (auto f = p.first; f < p.first + p.count; ++f)
            EXPECT_EQ(ball().layer[static_cast<std::size_t>(ball().owner[static_cast<std::size_t>(f)])], 1);
    }
}

TEST(Grid, KeepsToTheBudget) {
    EXPECT_NEAR(ball().cells(), 20000, 0.1 * 20000);
}

TEST(Grid, OfASymmetricModelIsSymmetric) {
    Vec3 sum = Vec3::Zero();
    const auto geo = grid::geometryOf(ball());
    for (std::size_t c = 0; c < geo.volume.size(); ++c)
        sum += geo.volume[c] * Vec3(0, geo.cellCentre[c].y(), geo.cellCentre[c].z());
    EXPECT_LT(sum.norm(), 1e-3);
}

TEST(Grid, KeepsTheSharpEdgesOfACube) {
    grid::GridSettings s;
    s.cellBudget = 30000;
    const auto g = grid::build(bench::cube(1.0), {3, 4, 3, 3, 3, grid::Floor::None, 0, false}, s, {});
    EXPECT_NEAR(wallArea(g), 6.0, 0.01 * 6.0);
    EXPECT_EQ(grid::qualityOf(g, grid::geometryOf(g)).negativeCells, 0u);
}

TEST(HalfModel, IsOpenAtTheMirrorPlane) {
    grid::GridSettings s;
    s.cellBudget = 40000;
    grid::Tunnel t{3, 4, 3, 3, 3, grid::Floor::None, 0, true};
    const auto wing = bench::rectangularHalfWing(0.12, 2.0, 40, 20);
    const auto g = grid::build(wing, t, s, {});
    const auto geo = grid::geometryOf(g);
    EXPECT_EQ(grid::qualityOf(g, geo).negativeCells, 0u);
    EXPECT_NEAR(wallArea(g), wing.area(), 0.02 * wing.area());
    for (const auto& p : g.patches) {
        if (p.kind != grid::PatchKind::Wall) continue;
        double facing = 0.0;
        for (auto f = p.first; f < p.first + p.count; ++f) facing += geo.faceArea[static_cast<std::size_t>(f)].y();
        // The wall's shadow on the mirror plane is the tip alone: no face closes the root.
        EXPECT_LT(facing, 0.0);
    }
}

TEST(Ground, IsTheLowerSideOfTheGridAndTheModelMayTouchIt) {
    grid::GridSettings s;
    s.cellBudget = 25000;
    grid::Tunnel t{3, 4, 3, 3, 3, grid::Floor::Moving, -0.02, false};
    const auto g = grid::build(bench::sphere(0.5, 60), t, s, {});
    double low = 1e300;
    for (const Vec3& p : g.points) low = std::min(low, p.z());
    EXPECT_NEAR(low, -0.48, 1e-9);
    EXPECT_EQ(grid::qualityOf(g, grid::geometryOf(g)).negativeCells, 0u);
}

TEST(DirtyModel, OfTwoBallsThroughEachOtherWithHolesStillGivesAGrid) {
    auto s = bench::sphere(0.5, 60);
    shape::addSphere(s, "second", {0.55, 0.1, 0.05}, 0.4, 50);
    s.facets.erase(s.facets.begin() + 2000);
    s.partOf.erase(s.partOf.begin() + 2000);
    std::swap(s.facets[500][0], s.facets[500][1]);
    grid::GridSettings settings;
    settings.cellBudget = 25000;
    const auto g = grid::build(s, {3, 4, 3, 3, 3, grid::Floor::None, 0, false}, settings, {});
    EXPECT_EQ(grid::qualityOf(g, grid::geometryOf(g)).negativeCells, 0u);
    int walls = 0;
    for (const auto& p : g.patches) walls += p.kind == grid::PatchKind::Wall;
    EXPECT_EQ(walls, 2);
}

TEST(Grid, CanBeCancelled) {
    int calls = 0;
    grid::GridSettings s;
    EXPECT_THROW(grid::build(bench::sphere(0.5, 30), {}, s, [&](double, std::string_view) { return ++calls < 3; }),
                 base::Cancelled);
}

TEST(Grid, RefusesWhatCannotWork) {
    const auto ball = bench::sphere(0.5, 12);
    grid::GridSettings s;
    s.cellBudget = 2000000000;
    EXPECT_THROW(grid::build(ball, {}, s, {}), base::InputError);  // would not fit in memory
    s.cellBudget = 100;
    EXPECT_THROW(grid::build(ball, {}, s, {}), base::InputError);
    s = {};
    s.firstHeight = std::nan("");
    EXPECT_THROW(grid::build(ball, {}, s, {}), base::InputError);
    grid::Tunnel t;
    t.upstream = -1.0;
    EXPECT_THROW(grid::build(ball, t, {}, {}), base::InputError);
    t = {};
    t.halfModel = true;
    auto port = ball;
    for (auto& p : port.points) p.y() -= 5.0;
    EXPECT_THROW(grid::build(port, t, {}, {}), base::InputError);
    auto hidden = ball;
    hidden.parts[0].inTheAir = false;
    EXPECT_THROW(grid::build(hidden, {}, {}, {}), base::InputError);
}

TEST(LayerHeights, GrowByOneRatioHoweverManyTheyAre) {
    for (const int n : {1, 2, 3, 7, 20})
        for (const double gap : {1.001e-3 * n, 0.01 * n, 1e3 * n}) {
            const auto h = grid::layerHeights(gap, 1e-3, n);
            EXPECT_NEAR(std::accumulate(h.begin(), h.end(), 0.0), gap, 1e-12 * gap);
            if (n > 1) {
                EXPECT_NEAR(h[0], 1e-3, 1e-9);
            }
            for (std::size_t k = 2; k < h.size(); ++k) EXPECT_NEAR(h[k] * h[0] / (h[k - 1] * h[1]), 1.0, 1e-9);
        }
}

TEST(LayerHeights, StartAtTheFirstHeightAndFillTheGap) {
    const auto six = grid::layerHeights(0.02, 0.001, 6);
    EXPECT_NEAR(std::accumulate(six.begin(), six.end(), 0.0), 0.02, 1e-12);
    EXPECT_NEAR(six[0], 0.001, 1e-8);
    for (std::size_t k = 2; k < 6; ++k) EXPECT_NEAR(six[k] / six[k - 1], six[1] / six[0], 1e-8);
    const auto two = grid::layerHeights(0.02, 0.001, 2);
    EXPECT_NEAR(two[0], 0.001, 1e-8);
    EXPECT_NEAR(two[1], 0.019, 1e-8);
    for (const double h : grid::layerHeights(0.001, 0.001, 4)) EXPECT_DOUBLE_EQ(h, 0.00025);  // no room: equal cells
}

TEST(Brick, HasHangingNodesThatAreClosed) {
    const auto g = grid::refinedBrick({{0, 0, 0}, {1, 1, 1}}, {4, 4, 4},
                                      {{grid::reachesInto({{0.3, 0.3, 0.3}, {0.6, 0.6, 0.6}}), 2}});
    const auto q = grid::qualityOf(g, grid::geometryOf(g));
    EXPECT_LT(q.worstOpenness, 1e-14);
    EXPECT_GT(g.cells(), 64);
}

TEST(CgnsFile, ReadsBackWhatWasWritten) {
    const test::Folder folder;
    grid::writeCgns(ball(), folder / "g.cgns");
    const auto g = grid::readCgns(folder / "g.cgns");
    EXPECT_EQ(g.facePoints, ball().facePoints);
    EXPECT_EQ(g.faceStart, ball().faceStart);
    EXPECT_EQ(g.owner, ball().owner);
    EXPECT_EQ(g.neighbour, ball().neighbour);
    EXPECT_EQ(g.wallDistance, ball().wallDistance);
    EXPECT_EQ(g.layer, ball().layer);
    for (std::size_t i = 0; i < g.points.size(); ++i) ASSERT_EQ(g.points[i], ball().points[i]);
    ASSERT_EQ(g.patches.size(), ball().patches.size());
    for (std::size_t i = 0; i < g.patches.size(); ++i) {
        EXPECT_EQ(g.patches[i].name, ball().patches[i].name);
        EXPECT_EQ(g.patches[i].first, ball().patches[i].first);
        EXPECT_EQ(g.patches[i].side, ball().patches[i].side);
    }
    EXPECT_THROW(grid::readCgns(folder / "absent.cgns"), base::InputError);
}

TEST(Cut, CoversTheTunnelsCrossSectionButTheModel) {
    const auto cut = grid::cutAlongAxis(ball(), 1, 0.0137);
    double area = 0.0;
    for (std::size_t i = 0; i < cut.cell.size(); ++i) {
        Vec3 a = Vec3::Zero();
        for (auto k = cut.start[i] + 1; k + 1 < cut.start[i + 1]; ++k)
            a += 0.5 * (cut.points[static_cast<std::size_t>(k)] - cut.points[static_cast<std::size_t>(cut.start[i])])
                           .cross(cut.points[static_cast<std::size_t>(k + 1)] -
                                  cut.points[static_cast<std::size_t>(cut.start[i])]);
        area += a.norm();
    }
    Box air;
    for (const Vec3& p : ball().points) air.add(p);
    const double expected = air.size().x() * air.size().z() - std::acos(-1.0) * (0.25 - 0.0137 * 0.0137);
    EXPECT_NEAR(area, expected, 0.005 * expected);
}
