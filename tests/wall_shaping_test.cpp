// From the staircase to the wall, step by step: images on the model, curves, normals, the offset, columns of layers.
#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <numeric>

#include "bench/models.h"
#include "grid/curve_paths.h"
#include "grid/grid.h"
#include "grid/shape_cells.h"
#include "grid/staircase.h"
#include "grid/wall_layers.h"
#include "grid/wall_projection.h"
#include "shape/feature_curves.h"

using namespace cvane;

namespace {
constexpr double kGap = 1.3;

/// A model in a tunnel of three metres, its staircase and where that lands on the model.
struct Stage {
    shape::Surface surface;
    shape::TriangleTree model;
    grid::Octree tree;
    grid::Staircase stairs;
    Box air;
    grid::WallImage wall;
    explicit Stage(shape::Surface s, int level = 3, Vec3 low = Vec3::Constant(-1.5))
        : surface(std::move(s)), model(surface), tree({low, Vec3::Constant(1.5)}, {6, 6, 6}, model) {
        grid::Sizing sizing;
        sizing.surfaceLevel = level;
        sizing.extraLevels = 0;
        sizing.bufferCells = 2;
        EXPECT_TRUE(grid::refine(tree, surface, sizing));
        stairs = grid::makeStaircase(tree, grid::keepCells(tree, model, 0.35));
        for (const Vec3& p : stairs.points) air.add(p);
        wall = grid::projectToWall(stairs, model, air);
    }
    const Vec3& top(std::size_t w) const { return stairs.points[static_cast<std::size_t>(wall.point[w])]; }
    grid::CurvePaths curves() {
        return grid::followCurves(stairs, shape::featureCurves(surface, model, 0.6), model, air, wall);
    }
};
const Stage& ball() {
    static const Stage s(bench::sphere(0.5, 60));
    return s;
}

shape::FeatureCurve corner() {
    return {{{0, 0, 0}, {3, 0, 0}, {3, 4, 0}}, false};
}

/// Columns on every image of a stage, all of n layers.
grid::Layers layersOf(const Stage& s, int n) {
    return grid::planLayers(s.stairs, s.wall, 0.01,
                            std::vector<std::uint8_t>(s.stairs.gapCorners.size(), static_cast<std::uint8_t>(n)));
}
struct Grown {
    std::vector<Vec3> moved;
    grid::Layers layers;
    grid::Grid grid;
};
Grown grown(Stage s, int n, std::vector<std::size_t> thinned = {}) {
    Grown out;
    grid::findNormals(s.stairs, s.wall);
    out.moved = grid::moveToOffset(s.stairs, s.wall, kGap);
    out.layers = layersOf(s, n);
    const std::vector<std::uint8_t> levels(s.stairs.cellSize.size(), 3);
    const auto grow = [&] {
        return grid::addWallLayers(
            s.stairs, s.wall, out.moved, out.layers, {"ball"}, [](const Vec3&) { return 0; }, levels);
    };
    out.grid = grow();
    if (!thinned.empty()) {
        std::vector<grid::CellIndex> cells;
        const auto numbers = grid::numberCells(s.stairs, out.layers);
        for (const auto j : thinned) cells.push_back(numbers.column[j] + 1);
        std::sort(cells.begin(), cells.end());
        EXPECT_TRUE(grid::thinToOneLayer(s.stairs, s.wall, cells, out.layers));
        out.grid = grow();
    }
    return out;
}
double volumeOf(const grid::Grid& g) {
    const auto geo = grid::geometryOf(g);
    return std::accumulate(geo.volume.begin(), geo.volume.end(), 0.0);
}
double worstOpenness(const grid::Grid& g) {
    const auto geo = grid::geometryOf(g);
    std::vector<Vec3> net(geo.volume.size(), Vec3::Zero());
    for (std::size_t f = 0; f < g.owner.size(); ++f) {
        net[static_cast<std::size_t>(g.owner[f])] += geo.faceArea[f];
        if (f < g.neighbour.size()) net[static_cast<std::size_t>(g.neighbour[f])] -= geo.faceArea[f];
    }
    double worst = 0.0;
    for (const Vec3& n : net) worst = std::max(worst, n.norm());
    return worst;
}
}  // namespace

TEST(Images, LieOnTheModelAndAreItsNearestPoints) {
    const Stage& s = ball();
    ASSERT_GT(s.wall.point.size(), 100u);
    for (std::size_t w = 0; w < s.wall.point.size(); ++w) {
        EXPECT_LT(s.model.nearest(s.wall.onWall[w]).distance, 1e-12);
        EXPECT_NEAR((s.top(w) - s.wall.onWall[w]).norm(), s.model.nearest(s.top(w)).distance, 1e-12);
    }
}

TEST(Images, HaveEachOtherForNeighbours) {
    const Stage& s = ball();
    for (std::size_t w = 0; w < s.wall.ring.size(); ++w) {
        EXPECT_GE(s.wall.ring[w].size(), 2u);
        for (const auto j : s.wall.ring[w]) {
            const auto& back = s.wall.ring[static_cast<std::size_t>(j)];
            EXPECT_TRUE(std::binary_search(back.begin(), back.end(), static_cast<std::int32_t>(w)));
        }
    }
}

TEST(Images, OfPointsInTheMirrorPlaneStayInIt) {
    Stage s(bench::sphere(0.5, 60), 3, Vec3(-1.5, 0.0, -1.5));
    int inPlane = 0;
    for (std::size_t w = 0; w < s.wall.point.size(); ++w) {
        if (!grid::holds(s.stairs.sidesOf[static_cast<std::size_t>(s.wall.point[w])], 1)) continue;
        ++inPlane;
        EXPECT_EQ(s.wall.onWall[w].y(), 0.0);
        EXPECT_LT(s.model.nearest(s.wall.onWall[w]).distance, 1e-9);
    }
    EXPECT_GT(inPlane, 10);
    const auto before = s.wall.onWall;
    grid::evenOut(s.stairs, s.model, s.air, std::vector<char>(before.size(), 0), 4, s.wall);
    for (std::size_t w = 0; w < before.size(); ++w)
        if (before[w].y() == 0.0 && grid::holds(s.stairs.sidesOf[static_cast<std::size_t>(s.wall.point[w])], 1)) {
            EXPECT_EQ(s.wall.onWall[w].y(), 0.0);
        }
}

TEST(EveningOut, MakesTheStepsAlikeAndKeepsToTheModelAndToWhatIsHeld) {
    Stage s = ball();
    const auto unevenness = [&] {
        double sum = 0.0;
        for (std::size_t w = 0; w < s.wall.ring.size(); ++w) {
            Vec3 mean = Vec3::Zero();
            for (const auto j : s.wall.ring[w]) mean += s.wall.onWall[static_cast<std::size_t>(j)];
            sum += (mean / static_cast<double>(s.wall.ring[w].size()) - s.wall.onWall[w]).norm() / s.wall.size[w];
        }
        return sum / static_cast<double>(s.wall.ring.size());
    };
    std::vector<char> held(s.wall.point.size(), 0);
    held[7] = 1;
    const Vec3 stays = s.wall.onWall[7];
    const double before = unevenness();
    grid::evenOut(s.stairs, s.model, s.air, held, 4, s.wall);
    EXPECT_LT(unevenness(), 0.8 * before);
    EXPECT_EQ(s.wall.onWall[7], stays);
    for (const Vec3& x : s.wall.onWall) EXPECT_LT(s.model.nearest(x).distance, 1e-12);
}

TEST(Normals, PointIntoTheAir) {
    Stage s = ball();
    grid::findNormals(s.stairs, s.wall);
    for (std::size_t w = 0; w < s.wall.point.size(); ++w) {
        EXPECT_NEAR(s.wall.normal[w].norm(), 1.0, 1e-12);
        EXPECT_GT(s.wall.normal[w].dot(s.wall.onWall[w].normalized()),
                  0.85);  // the ball's own, smoothed over its facets
        EXPECT_LT(s.wall.inwards[w].dot(s.wall.onWall[w].normalized()), 0.0);
    }
}

TEST(Offset, StandsOffByTheAskedNumberOfCellsAndMovesNothingFarAway) {
    Stage s = ball();
    grid::findNormals(s.stairs, s.wall);
    const auto moved = grid::moveToOffset(s.stairs, s.wall, kGap);
    double share = 0.0;
    for (std::size_t w = 0; w < s.wall.point.size(); ++w) {
        const double off = s.model.nearest(moved[static_cast<std::size_t>(s.wall.point[w])]).distance / s.wall.size[w];
        share += std::abs(off - kGap) < 0.25 * kGap;
    }
    EXPECT_GT(share / static_cast<double>(s.wall.point.size()), 0.9);
    for (std::size_t p = 0; p < moved.size(); ++p)
        if (s.stairs.points[p].norm() > 1.2) {
            EXPECT_EQ(moved[p], s.stairs.points[p]);
        }
}

TEST(MeasuredCurve, IsFollowedByItsLength) {
    const grid::MeasuredCurve c(corner());
    EXPECT_DOUBLE_EQ(c.length(), 7.0);
    EXPECT_EQ(c.place(3.0), Vec3(3, 0, 0));
    EXPECT_EQ(c.place(5.0), Vec3(3, 2, 0));
    EXPECT_EQ(c.place(-1.0), Vec3(0, 0, 0));
    EXPECT_EQ(c.place(99.0), Vec3(3, 4, 0));
    EXPECT_EQ(c.tangent(1.0), Vec3::UnitX());
    EXPECT_EQ(c.tangent(6.0), Vec3::UnitY());
    for (const double along : {0.0, 0.4, 2.9, 3.1, 7.0})
        EXPECT_NEAR(c.nearest(c.place(along) + Vec3(0, 0, 2.0)), along, 1e-12);
}

TEST(MeasuredCurve, OfALoopComesBackToItsStart) {
    auto loop = corner();
    loop.closed = true;
    const grid::MeasuredCurve c(loop);
    EXPECT_DOUBLE_EQ(c.length(), 12.0);
    EXPECT_EQ(c.place(12.0), c.place(0.0));
}

TEST(MeasuredCurve, InPartsIsTheWhole) {
    const grid::MeasuredCurve c(corner());
    const auto first = c.part(0.0, 3.5), second = c.part(3.5, 7.0);
    EXPECT_DOUBLE_EQ(first.length() + second.length(), c.length());
    for (const double along : {0.0, 1.0, 2.9, 3.2}) EXPECT_LT((first.place(along) - c.place(along)).norm(), 1e-12);
    for (const double along : {0.0, 0.7, 3.5}) EXPECT_LT((second.place(along) - c.place(3.5 + along)).norm(), 1e-12);
}

TEST(Curves, OfACubeTakeTheirPointsAndItsCornersThree) {
    Stage s(bench::cube(1.0));
    const auto paths = s.curves();
    EXPECT_NEAR(paths.seen, 12.0, 1e-9);
    EXPECT_NEAR(paths.followed, paths.seen, 1e-9);
    int corners = 0;
    for (std::size_t w = 0; w < s.wall.point.size(); ++w) {
        const Vec3 x = s.wall.onWall[w].cwiseAbs() * 2.0;
        const auto onSides = ((x.array() - 1.0).abs() < 1e-9).count();
        if (paths.fixed[w]) {
            ++corners;
            EXPECT_EQ(onSides, 3);
        } else if (paths.curveOf[w] >= 0) {
            EXPECT_GE(onSides, 2);
        }
    }
    EXPECT_EQ(corners, 8);
}

TEST(Curves, ThatLieHiddenInAnotherPartAreNotLookedFor) {
    auto s = bench::cube(0.3);
    shape::addSphere(s, "ball", Vec3::Zero(), 0.5, 40);
    shape::orientFacets(s);
    Stage stage(std::move(s));
    EXPECT_EQ(stage.curves().seen, 0.0);
}

TEST(Columns, BeginAtTheStaircaseAndEndOnTheWallWithTheAskedHeightThere) {
    Stage s = ball();
    grid::findNormals(s.stairs, s.wall);
    const auto moved = grid::moveToOffset(s.stairs, s.wall, kGap);
    const auto layers = layersOf(s, 4);
    std::vector<Vec3> columns(4 * s.wall.point.size());
    grid::cutColumns(s.wall.onWall, s.wall, moved, layers, columns);
    for (std::size_t w = 0; w < s.wall.point.size(); ++w) {
        EXPECT_EQ(columns[4 * w + 3], s.wall.onWall[w]);
        const Vec3& top = moved[static_cast<std::size_t>(s.wall.point[w])];
        const double gap = (top - s.wall.onWall[w]).norm();
        if (gap > 4 * 0.01) {
            EXPECT_NEAR((columns[4 * w + 2] - columns[4 * w + 3]).norm(), 0.01, 1e-9);
        }
        double sum = (columns[4 * w] - top).norm();
        for (std::size_t k = 1; k < 4; ++k) sum += (columns[4 * w + k] - columns[4 * w + k - 1]).norm();
        EXPECT_NEAR(sum, gap, 1e-9);  // on a straight line
    }
}

TEST(Columns, MadeEvenHaveLayersOfOneHeight) {
    Stage s = ball();
    grid::findNormals(s.stairs, s.wall);
    const auto moved = grid::moveToOffset(s.stairs, s.wall, kGap);
    auto layers = layersOf(s, 3);
    layers.evenness[5] = 1.0;
    std::vector<Vec3> columns(3 * s.wall.point.size());
    grid::cutColumns(s.wall.onWall, s.wall, moved, layers, columns);
    const double first = (columns[16] - columns[17]).norm(), second = (columns[15] - columns[16]).norm();
    EXPECT_NEAR(first, second, 1e-12);
    EXPECT_GT(first, 0.011);
}

TEST(Layers, FillTheGapBetweenStaircaseAndWall) {
    const auto three = grown(ball(), 3), five = grown(ball(), 5);
    EXPECT_LT(worstOpenness(three.grid), 1e-14);
    EXPECT_NEAR(volumeOf(three.grid), volumeOf(five.grid), 1e-12);
    EXPECT_EQ(five.grid.cells() - three.grid.cells(), static_cast<grid::CellIndex>(2 * three.layers.ofColumn.size()));
    // The tunnel but the ball, whose chords take away a little of it.
    EXPECT_NEAR(volumeOf(three.grid), 27.0 - std::acos(-1.0) / 6.0, 0.02 * std::acos(-1.0) / 6.0);
}

TEST(Layers, ThinnedToOneStillCloseAndFillTheSameGap) {
    const auto whole = grown(ball(), 4), thinned = grown(ball(), 4, {3, 4, 50});
    EXPECT_EQ(whole.grid.cells() - thinned.grid.cells(), 9);
    EXPECT_LT(worstOpenness(thinned.grid), 1e-14);
    EXPECT_NEAR(volumeOf(whole.grid), volumeOf(thinned.grid), 1e-12);
    EXPECT_EQ(std::count(thinned.layers.ofColumn.begin(), thinned.layers.ofColumn.end(), 1), 3);
    const auto geo = grid::geometryOf(thinned.grid);
    EXPECT_GT(*std::min_element(geo.volume.begin(), geo.volume.end()), 0.0);
}

TEST(Layers, OfCellsFarFromTheWallAreLeftAsTheyAre) {
    Stage s = ball();
    auto layers = grown(s, 3).layers;
    const auto before = layers.ofColumn;
    const std::vector<grid::CellIndex> outer{0};  // the first cell at the inlet grows no column
    EXPECT_FALSE(grid::thinToOneLayer(s.stairs, s.wall, outer, layers));
    EXPECT_EQ(layers.ofColumn, before);
}

TEST(Shaping, KeepsTheWallOnTheModelAndItsPointsInTheirSides) {
    Stage s(bench::cube(1.0), 3, Vec3(-1.5, 0.0, -1.5));
    auto paths = s.curves();
    std::vector<char> held(s.wall.point.size());
    for (std::size_t w = 0; w < held.size(); ++w) held[w] = paths.taken(w);
    grid::evenOut(s.stairs, s.model, s.air, held, 4, s.wall);
    grid::findNormals(s.stairs, s.wall);
    auto moved = grid::moveToOffset(s.stairs, s.wall, kGap);
    grid::CellShaper shaper(s.stairs, s.model, paths, s.air, kGap, moved, s.wall);
    shaper.run({});
    for (std::size_t w = 0; w < s.wall.point.size(); ++w) {
        EXPECT_LT(s.model.nearest(s.wall.onWall[w]).distance, 1e-9);
        if (grid::holds(s.stairs.sidesOf[static_cast<std::size_t>(s.wall.point[w])], 1)) {
            EXPECT_EQ(s.wall.onWall[w].y(), 0.0);
        }
    }
    const auto onModel = [&] {
        std::size_t n = 0;
        for (const Vec3& x : s.wall.onWall) n += s.model.nearest(x).distance < 1e-9;
        return n;
    };
    // What is let go of leaves the model where that makes better cells; put back, all are on it again but those let go
    // anew.
    std::vector<std::int32_t> all(s.wall.point.size());
    std::iota(all.begin(), all.end(), static_cast<std::int32_t>(s.stairs.points.size()));
    shaper.loosen(all, 1e-3, false);
    const auto loose = onModel();
    ASSERT_LT(loose, s.wall.point.size());
    const auto away = s.wall.onWall;
    shaper.putAllBack();
    EXPECT_EQ(onModel(), s.wall.point.size());
    EXPECT_TRUE(shaper.letGoAgain(all));
    EXPECT_EQ(s.wall.onWall, away);
    EXPECT_FALSE(shaper.letGoAgain(all));
}
