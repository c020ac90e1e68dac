// How the grid meets the model: edges, corners, careless exports, places that the user marks.
#include <gtest/gtest.h>

#include <cmath>
#include <numbers>
#include <random>

#include "base/errors.h"
#include "bench/setups.h"
#include "grid/kept_cells.h"
#include "grid/layer_coverage.h"
#include "grid/quality.h"
#include "grid/shape_cells.h"
#include "grid/stretch.h"
#include "grid/wall_layers.h"
#include "grid/wall_projection.h"
#include "shape/feature_curves.h"
#include "shape/seams.h"

using namespace cvane;

namespace {
const grid::Tunnel kTunnel{3, 4, 3, 3, 3, grid::Floor::None, 0, false};

grid::GridSettings cells(int budget) {
    grid::GridSettings s;
    s.cellBudget = budget;
    return s;
}

// Share of the curves' length that edges of wall faces run along, sampled; near: within `tolerance` [m].
double followed(const grid::Grid& g, const std::vector<shape::FeatureCurve>& curves, double tolerance) {
    std::vector<std::array<Vec3, 3>> edges;
    for (const auto& p : g.patches)
        if (p.kind == grid::PatchKind::Wall)
            for (auto f = p.first; f < p.first + p.count; ++f) {
                const auto poly = g.polygon(f);
                for (std::size_t k = 0; k < poly.size(); ++k) {
                    const Vec3 &a = g.points[static_cast<std::size_t>(poly[k])],
                               &b = g.points[static_cast<std::size_t>(poly[(k + 1) % poly.size()])];
                    edges.push_back({a, b, b});
                }
            }
    const shape::TriangleTree tree(std::move(edges));
    int near = 0, all = 0;
    for (const auto& c : curves)
        for (std::size_t i = 1; i < c.points.size(); ++i)
            for (int k = 0; k < 500; ++k) {
                ++all;
                near += tree.nearest(c.points[i - 1] + (k + 0.5) / 500.0 * (c.points[i] - c.points[i - 1])).distance <
                        tolerance;
            }
    return static_cast<double>(near) / all;
}

struct Judged {
    grid::Grid grid;
    grid::Quality quality;
};
Judged judged(const std::string& name, int budget) {
    auto [s, tunnel, settings] = bench::setupOf(name, std::string(CVANE_SOURCE) + "/demo");
    settings.cellBudget = budget;
    auto g = grid::build(s, tunnel, settings, {});
    const auto q = grid::qualityOf(g, grid::geometryOf(g));
    return {std::move(g), q};
}
}  // namespace

TEST(SharpEdges, OfATiltedCubeAreEdgesOfTheGrid) {
    const auto cube = bench::setupOf("tilted", "").surface;
    const auto g = grid::build(cube, kTunnel, cells(40000), {});
    // A twentieth of a cell: closer than any section that one would cut there.
    const double cell = g.surfaceCell / 4.0;  // two levels finer at edges
    EXPECT_GT(followed(g, shape::featureCurves(cube, shape::TriangleTree(cube), 0.6), 0.05 * cell), 0.99);
    EXPECT_NEAR(grid::qualityOf(g, grid::geometryOf(g)).wettedArea, 6.0, 0.005 * 6.0);
}

TEST(SharpEdges, WherePartsMeetAreFollowedToo) {
    auto s = bench::cube(1.0);
    shape::addSphere(s, "ball", {0.507, 0.013, 0.021}, 0.3, 60);
    shape::orientFacets(s);
    const auto g = grid::build(s, kTunnel, cells(40000), {});
    std::vector<shape::FeatureCurve> circle;
    for (auto& c : shape::featureCurves(s, shape::TriangleTree(s), 0.6))
        if (c.closed) circle.push_back(c);
    ASSERT_EQ(circle.size(), 1u);
    EXPECT_GT(followed(g, circle, 0.05 * g.surfaceCell), 0.95);
}

TEST(TrailingEdge, EndsInAnEdgeAtTheRightPlace) {
    const auto j = judged("wing", 100000);
    EXPECT_EQ(j.quality.foldedCells, 0u);
    const std::vector<shape::FeatureCurve> edge{{{{1.0, 0.0, 0.0}, {1.0, 3.0, 0.0}}, false}};
    EXPECT_GT(followed(j.grid, edge, 0.05 * j.grid.surfaceCell / 4.0), 0.99);
}

TEST(CarelessExport, GridsWithoutHelpLikeItsCleanTwin) {
    const auto clean = judged("clean", 60000), dirty = judged("dirty", 60000);
    EXPECT_EQ(clean.quality.foldedCells + dirty.quality.foldedCells, 0u);
    EXPECT_EQ(dirty.quality.negativeCells, 0u);
    EXPECT_NEAR(dirty.quality.wettedArea / clean.quality.wettedArea, 1.0, 0.02);
}

TEST(CarelessExport, HasItsEdgesAndItsWallFollowedAllTheSame) {
    // A cube as a careless export leaves it: each facet has corners of its own, none quite where its neighbour's are.
    auto s = bench::setupOf("tilted", "").surface;
    shape::Surface loose;
    loose.parts = s.parts;
    std::mt19937 random(4);
    std::uniform_real_distribution<double> jitter(-4e-5, 4e-5);  // of a model 1.6 m long
    for (std::size_t f = 0; f < s.facets.size(); ++f) {
        loose.facets.emplace_back();
        loose.partOf.push_back(s.partOf[f]);
        for (std::size_t k = 0; k < 3; ++k) {
            loose.facets.back()[k] = static_cast<std::int32_t>(loose.points.size());
            loose.points.push_back(s.corner(f, static_cast<int>(k)) +
                                   Vec3(jitter(random), jitter(random), jitter(random)));
        }
    }
    const auto g = grid::build(loose, kTunnel, cells(150000), {});
    const double cell = g.surfaceCell / 4.0;
    EXPECT_GT(followed(g, shape::featureCurves(s, shape::TriangleTree(s), 0.6), 0.05 * cell), 0.99);
    EXPECT_GT(g.fit.shareOn, 0.999);
}

TEST(WheelInTheGround, KeepsItsWallDownToTheContact) {
    // Sunk by 1.4 % of its radius a wheel meets the ground at ten degrees.
    auto s = bench::cylinder(0.3, 0.2, 120);
    for (Vec3& p : s.points) p = Vec3(p.z(), p.x(), p.y());
    const grid::Tunnel road{3, 4, 3, 3, 3, grid::Floor::Moving, -0.0042, false};
    auto asked = cells(150000);
    const auto g = grid::build(s, road, asked, {});
    const auto geo = grid::geometryOf(g);
    EXPECT_EQ(grid::qualityOf(g, geo).foldedCells, 0u);
    EXPECT_LT(grid::qualityOf(g, geo).worstNonOrthogonality_deg, grid::kMostNonOrthogonality_deg);
    EXPECT_GT(g.fit.shareOn, 0.99);  // nowhere but along the two contacts
}

TEST(PlaceOnTheModel, LiesInTheTunnelSidesToo) {
    // Where a ball meets a plane at 8 degrees, projections by turns creep; the circle is known.
    const auto ball = bench::sphere(1.0, 200);
    const shape::TriangleTree tree(ball);
    const double height = -std::cos(8.0 * std::acos(-1.0) / 180.0);
    Box tunnel;
    tunnel.add({-5, -5, height});
    tunnel.add({5, 5, 5});
    const grid::Sides ground = 1u << 4;
    for (const double from : {0.16, 0.22, 0.35}) {
        const Vec3 x = grid::onModelInSides(tree, {from, 0.5 * from, height}, ground, tunnel).point;
        EXPECT_EQ(x.z(), height);
        EXPECT_LT(tree.nearest(x).distance, 1e-9) << from;
        EXPECT_NEAR(std::hypot(x.x(), x.y()), std::sqrt(1.0 - height * height), 2e-3)
            << from;  // chords of the ball's facets
    }
    // A plane that passes the ball by: the place in it that comes closest.
    tunnel.low.z() = -1.1;
    const Vec3 x = grid::onModelInSides(tree, {0.3, 0.0, -1.1}, ground, tunnel).point;
    EXPECT_EQ(x.z(), -1.1);
    EXPECT_LE(tree.nearest(x).distance, tree.nearest({0.3, 0.0, -1.1}).distance);
}

TEST(PartsOutOfReach, AreNamed) {
    auto s = bench::sphere(0.5, 40);
    shape::addSphere(s, "battery", {0.02, 0.01, 0.0}, 0.1, 12);
    const auto g = grid::build(s, kTunnel, cells(10000), {});
    EXPECT_NE(g.notes.find("battery"), std::string::npos) << g.notes;
    // The battery would add 4 %; chords of these coarse cells take away 1 %.
    EXPECT_NEAR(grid::qualityOf(g, grid::geometryOf(g)).wettedArea, std::acos(-1.0), 0.02 * std::acos(-1.0));
}

TEST(WallLayers, StartWithTheAskedHeight) {
    auto s = cells(40000);
    s.firstHeight = 0.004;
    const auto g = grid::build(bench::sphere(0.5, 80), kTunnel, s, {});
    const auto q = grid::qualityOf(g, grid::geometryOf(g));
    EXPECT_NEAR(q.medianFirstHeight, 0.004, 0.15 * 0.004);
    EXPECT_GT(q.shareNearFirstHeight, 0.95);
}

TEST(FinerPlace, HasCellsOfTheAskedSizeAndNoSmallerOnesAreForcedElsewhere) {
    auto s = cells(30000);
    s.wakeLength = 0.0;
    const double cell = 0.05;
    s.finerPlaces = {{grid::FinerPlace::Shape::Ball, Vec3(1.5, 0, 0), Vec3::Zero(), 0.3, cell}};
    const auto g = grid::build(bench::sphere(0.5, 40), kTunnel, s, {});
    const auto geo = grid::geometryOf(g);
    int inside = 0;
    double largestElsewhere = 0.0;
    for (std::size_t c = 0; c < geo.volume.size(); ++c) {
        const double size = std::cbrt(geo.volume[c]);
        if ((geo.cellCentre[c] - Vec3(1.5, 0, 0)).norm() < 0.3) {
            ++inside;
            EXPECT_LE(size, cell * 1.001);
        } else {
            largestElsewhere = std::max(largestElsewhere, size);
        }
    }
    EXPECT_GT(inside, 500);
    EXPECT_GT(largestElsewhere, 4.0 * cell);
}

TEST(FinerPlace, MayTakeMostOfTheBudget) {
    // The place asks for more cells than a quick first try may have, whatever the size on the model.
    auto s = cells(300000);
    s.wakeLength = 0.0;
    s.finerPlaces = {{grid::FinerPlace::Shape::Ball, Vec3(1.5, 0, 0), Vec3::Zero(), 0.6, 0.017}};
    EXPECT_NEAR(grid::build(bench::sphere(0.5, 40), kTunnel, s, {}).cells(), 300000, 0.05 * 300000);
}

TEST(FinerPlace, KnowsWhatItHolds) {
    using Shape = grid::FinerPlace::Shape;
    const double pi = std::acos(-1.0);
    const grid::FinerPlace box{Shape::Box, {1, 2, 3}, {0, 4, 2}, 0.0, 0.1};  // corners in any order
    EXPECT_DOUBLE_EQ(box.volume(), 2.0);
    EXPECT_EQ(box.bounds().low, Vec3(0, 2, 2));
    EXPECT_EQ(box.bounds().high, Vec3(1, 4, 3));
    const grid::FinerPlace ball{Shape::Ball, {1, 0, 0}, Vec3::Zero(), 0.5, 0.1};
    EXPECT_NEAR(ball.volume(), pi / 6.0, 1e-12);
    EXPECT_TRUE(ball.meets({{1.4, -0.1, -0.1}, {2.0, 0.1, 0.1}}));
    EXPECT_FALSE(ball.meets({{1.4, 0.4, 0.4}, {2.0, 1.0, 1.0}}));  // the corner of its bounds, but not of the ball
    const grid::FinerPlace tube{Shape::Cylinder, {0, 0, 0}, {4, 0, 0}, 0.5, 0.1};
    EXPECT_NEAR(tube.volume(), pi, 1e-12);
    EXPECT_TRUE(tube.meets({{2.0, 0.3, 0.0}, {2.2, 0.5, 0.2}}));
    EXPECT_FALSE(tube.meets({{2.0, 0.8, 0.8}, {2.2, 1.0, 1.0}}));
    for (const auto& place : {box, ball, tube}) {
        const Box b = place.bounds();
        EXPECT_TRUE(place.meets({b.centre() - Vec3::Constant(0.01), b.centre() + Vec3::Constant(0.01)}));
        EXPECT_FALSE(place.meets({b.high + Vec3::Constant(3.0), b.high + Vec3::Constant(3.1)}));
    }
}

TEST(FinerPart, HasMoreWallFacesThanItsTwin) {
    auto s = bench::sphere(0.3, 40);
    s.parts[0].name = "left";
    shape::addSphere(s, "right", {0.0, 1.5, 0.0}, 0.3, 40);
    auto settings = cells(40000);
    settings.finerParts["right"] = 1;
    const auto g = grid::build(s, kTunnel, settings, {});
    double left = 0.0, right = 0.0;
    for (const auto& p : g.patches)
        (p.name == "left" ? left : p.name == "right" ? right : settings.turnAngle_deg) += p.count;
    EXPECT_NEAR(right / left, 4.0, 1.0);
    settings.finerParts["middle"] = 1;
    EXPECT_THROW(grid::build(s, kTunnel, settings, {}), base::InputError);
    settings.finerParts.clear();
    settings.finerPlaces = {{grid::FinerPlace::Shape::Ball, Vec3::Zero(), Vec3::Zero(), 0.0, 0.1}};
    EXPECT_THROW(grid::build(s, kTunnel, settings, {}), base::InputError);
}

TEST(Seams, AreJoinedWhereOpenAndClosedPartsStayAsTheyAre) {
    const auto ball = bench::sphere(0.5, 20);
    EXPECT_EQ(shape::joinedWithin(ball, 0.2).surface.facets, ball.facets);
    shape::Surface soup;
    soup.parts = ball.parts;
    for (std::size_t f = 0; f < ball.facets.size(); ++f) {
        const auto n = static_cast<std::int32_t>(soup.points.size());
        for (int k = 0; k < 3; ++k)
            soup.points.push_back(ball.corner(f, k) + 1e-5 * Vec3(std::sin(3.0 * n + k), std::cos(5.0 * n), 0.3));
        soup.facets.push_back({n, n + 1, n + 2});
        soup.partOf.push_back(0);
    }
    const auto joined = shape::joinedWithin(soup, 1e-4).surface;
    EXPECT_EQ(joined.points.size(), ball.points.size());
    EXPECT_EQ(joined.facets.size(), ball.facets.size());
}

// The benchmark grid_fuzz tries a thousand; these are a few of them.
TEST(AnyPlacement, GivesAGridWithinTheLimits) {
    for (unsigned seed = 1; seed <= 12; ++seed) {
        std::mt19937 random(seed);
        std::uniform_real_distribution<double> angle(-3.1, 3.1);
        const char* const names[] = {"cylinder", "clean", "tilted", "dirty"};
        auto s = bench::setupOf(names[seed % 4], std::string(CVANE_SOURCE) + "/demo").surface;
        const Mat3 turn =
            (Eigen::AngleAxisd(angle(random), Vec3::UnitZ()) * Eigen::AngleAxisd(angle(random), Vec3::UnitY()))
                .toRotationMatrix();
        for (Vec3& p : s.points) p = turn * p;
        const auto g = grid::build(s, kTunnel, cells(10000 + 1500 * static_cast<int>(seed)), {});
        const auto q = grid::qualityOf(g, grid::geometryOf(g));
        EXPECT_EQ(q.foldedCells, 0u) << "seed " << seed << ": " << g.notes;
        EXPECT_LE(q.worstNonOrthogonality_deg, grid::kMostNonOrthogonality_deg) << "seed " << seed;
        EXPECT_LE(q.shareAbove65, grid::kMostOblique) << "seed " << seed;
        EXPECT_LE(q.worstSkewness, grid::kMostSkewness) << "seed " << seed;
        EXPECT_LE(q.worstOpenness, 1e-10) << "seed " << seed;
    }
}

TEST(NarrowGap, HasFinerCellsThanTheRestOfTheModel) {
    const auto countIn = [](int gapLevels) {
        auto [s, tunnel, settings] = bench::setupOf("slot", "");
        settings.cellBudget = 60000;
        settings.curvatureLevels = 0;
        settings.gapLevels = gapLevels;
        const auto g = grid::build(s, tunnel, settings, {});
        const auto geo = grid::geometryOf(g);
        EXPECT_EQ(grid::foldedCells(g, geo).size(), 0u);
        const Vec3 middle(0.15, 0.484, 0.0);
        double smallest = 1e300;
        for (std::size_t c = 0; c < geo.volume.size(); ++c)
            if (g.layer[c] == 0 && (geo.cellCentre[c] - middle).norm() < 0.25)
                smallest = std::min(smallest, std::cbrt(geo.volume[c]) / g.surfaceCell);
        return smallest;
    };
    // Two levels are a factor of four; the cells next to the gap are squeezed a little in both grids.
    EXPECT_LT(countIn(2), 0.5 * countIn(0));
}

TEST(Stretch, MakesCellsLongerAlongTheAxisAndKeepsTheFirstHeight) {
    auto [s, tunnel, settings] = bench::setupOf("stretched", "");
    settings.cellBudget = 60000;
    const auto g = grid::build(s, tunnel, settings, {});
    const auto geo = grid::geometryOf(g);
    const auto q = grid::qualityOf(g, geo);
    EXPECT_EQ(q.foldedCells, 0u);
    EXPECT_NEAR(q.medianFirstHeight, settings.firstHeight, 0.15 * settings.firstHeight);
    // A cell far from the wing: its extents are those of the octree.
    Box far;
    for (grid::FaceIndex f = 0; f < g.faces(); ++f)
        if (g.owner[static_cast<std::size_t>(f)] == 0)
            for (const auto p : g.polygon(f)) far.add(g.points[static_cast<std::size_t>(p)]);
    EXPECT_NEAR(far.size().y() / far.size().x(), 2.0, 0.01);
    EXPECT_NEAR(far.size().z() / far.size().x(), 1.0, 0.01);
}

TEST(Stretch, FollowsTheSpanOfAWingAndLeavesOtherBodiesAlone) {
    const auto turned = [](shape::Surface s, const Mat3& by) {
        for (Vec3& p : s.points) p = by * p;
        return s;
    };
    const auto wing = bench::rectangularHalfWing(0.12, 3.0, 80, 60);
    EXPECT_GT(grid::stretchFor(wing).y(), 2.5);
    EXPECT_EQ(grid::stretchFor(wing).x(), 1.0);
    EXPECT_EQ(grid::stretchFor(wing).z(), 1.0);
    // A fin: the span stands upright.
    const Mat3 upright = Eigen::AngleAxisd(0.5 * std::numbers::pi, Vec3::UnitX()).toRotationMatrix();
    EXPECT_NEAR(grid::stretchFor(turned(wing, upright)).z(), grid::stretchFor(wing).y(), 1e-9);
    // A nose that runs obliquely through long cells would be a staircase.
    const Mat3 swept = Eigen::AngleAxisd(0.25 * std::numbers::pi, Vec3::UnitZ()).toRotationMatrix();
    EXPECT_LT(grid::stretchFor(turned(wing, swept)).y(), 1.5);
    for (const auto& body : {bench::sphere(0.5, 40), bench::cube(1.0), bench::cylinder(0.5, 2.0, 90)})
        EXPECT_EQ(grid::stretchFor(body), Vec3::Ones());
    // A rod along the wind: what changes along it is the flow.
    EXPECT_EQ(grid::stretchFor(bench::cylinder(0.05, 3.0, 90)).x(), 1.0);
}

TEST(Stretch, ByThreeKeepsTheWallOnTheModelAndMoreIsRefused) {
    // Longer cells are oblique beside finer ones, which no wall that lets go can mend.
    const auto s = bench::sectionSlab({0.06, 2.0 - 14.0 / 180.0}, 200);
    const grid::Tunnel tunnel{2.5, 3.0, -0.3, 2.5, 2.5, grid::Floor::None, 0.0, false};
    grid::GridSettings settings;
    settings.cellBudget = 60000;
    settings.wakeLength = 0.0;
    settings.stretch.y() = 3.0;
    const auto g = grid::build(s, tunnel, settings, {});
    const auto geo = grid::geometryOf(g);
    EXPECT_EQ(grid::foldedCells(g, geo).size(), 0u);
    EXPECT_LE(grid::qualityOf(g, geo).worstNonOrthogonality_deg, grid::kMostNonOrthogonality_deg);
    EXPECT_GT(g.fit.shareOn, 0.995);
    settings.stretch.y() = 3.5;
    EXPECT_THROW(grid::build(s, tunnel, settings, {}), base::InputError);
}

TEST(WallFit, SaysHowFarTheWallIsFromTheModelAndWhere) {
    grid::GridSettings settings;
    settings.cellBudget = 20000;
    settings.wakeLength = 0.0;
    const grid::Tunnel air{2, 3, 2, 2, 2, grid::Floor::None, 0.0, false};
    const auto ball = grid::build(bench::sphere(0.5, 60), air, settings, {});
    EXPECT_EQ(ball.fit.shareOn, 1.0);
    EXPECT_LT(ball.fit.farthest, 1e-9);
    EXPECT_EQ(ball.notes.find("on the model"), std::string::npos) << ball.notes;

    // A ball that sinks a little into the ground makes a wedge all round. One of 20 degrees has room for sound cells,
    // one of 2 has not.
    const auto s = bench::sphere(0.5, 60);
    const auto sunkBy = [&](double depth) {
        return grid::build(s, {2, 3, 2, 2, 2, grid::Floor::Moving, -depth, false}, settings, {});
    };
    EXPECT_EQ(sunkBy(0.03).fit.shareOn, 1.0);
    const double sunk = 0.0003;
    const auto g = sunkBy(sunk);
    EXPECT_LT(g.fit.shareOn, 1.0);
    const double floor = -0.5 + sunk, away = std::abs(g.fit.place.norm() - 0.5);
    EXPECT_NEAR(g.fit.farthest, away, 1e-3);                  // the ball's facets lie that much inside the sphere
    EXPECT_LT(g.fit.place.z(), floor + 1.5 * g.surfaceCell);  // and it is in the wedge
    EXPECT_NE(g.notes.find("lie on the model"), std::string::npos) << g.notes;
}

TEST(WallFit, CountsThePointsThatStandOffByMoreThanAHundredthOfTheirFaces) {
    const auto sphere = bench::sphere(0.5, 60);
    const shape::TriangleTree model(sphere);
    auto settings = cells(20000);
    settings.wakeLength = 0.0;
    auto g = grid::build(sphere, kTunnel, settings, {});
    const auto geo = grid::geometryOf(g);
    std::vector<char> onWall(g.points.size(), 0);
    std::vector<double> size(g.points.size(), 1e300);  // of the smallest face there
    for (const auto& p : g.patches)
        if (p.kind == grid::PatchKind::Wall)
            for (auto f = p.first; f < p.first + p.count; ++f)
                for (const auto i : g.polygon(f)) {
                    onWall[static_cast<std::size_t>(i)] = 1;
                    size[static_cast<std::size_t>(i)] = std::min(
                        size[static_cast<std::size_t>(i)], std::sqrt(geo.faceArea[static_cast<std::size_t>(f)].norm()));
                }
    const auto points = static_cast<double>(std::count(onWall.begin(), onWall.end(), 1));
    EXPECT_EQ(grid::wallFitOf(g, grid::geometryOf(g), model).shareOn, 1.0);
    // Ten points lifted by a tenth of a face, all others by a thousandth, which does not count.
    int lifted = 0;
    double off = 0.0;
    Vec3 last = Vec3::Zero();
    for (std::size_t i = 0; i < onWall.size(); ++i) {
        if (!onWall[i]) continue;
        const bool far = lifted < 10;
        const double by = (far ? 0.1 : 1e-3) * g.surfaceCell;
        g.points[i] += by * g.points[i].normalized();
        off += by / size[i];
        lifted += far;
        if (far) last = g.points[i];
    }
    const auto fit = grid::wallFitOf(g, grid::geometryOf(g), model);
    EXPECT_NEAR(fit.shareOn, 1.0 - 10.0 / points, 1e-12);
    EXPECT_NEAR(fit.farthest, 0.1 * g.surfaceCell, 2e-3 * g.surfaceCell);
    EXPECT_NEAR(fit.meanOff, off / points, 0.02 * off / points);
    EXPECT_NEAR(fit.place.norm(), last.norm(), 0.02 * g.surfaceCell);
}

TEST(ObliqueFaces, AreOpenedOnlyAsManyAsTheLimitNeeds) {
    // A tilted cube on the ground: on a coarse grid more than 0.1 % of the faces are oblique at first.
    auto cube = bench::cube(1.0);
    const Mat3 turn =
        (Eigen::AngleAxisd(0.9, Vec3::UnitZ()) * Eigen::AngleAxisd(0.4, Vec3::UnitY())).toRotationMatrix();
    for (Vec3& p : cube.points) p = turn * p;
    for (const int budget : {12000, 18000, 26000}) {
        const auto g = grid::build(cube, {3, 4, 3, 3, 3, grid::Floor::Moving, -0.01, false}, cells(budget), {});
        const auto geo = grid::geometryOf(g);
        const auto q = grid::qualityOf(g, geo);
        EXPECT_LE(q.shareAbove65, grid::kMostOblique) << g.notes;
        EXPECT_LE(q.worstNonOrthogonality_deg, grid::kMostNonOrthogonality_deg);
        EXPECT_EQ(q.foldedCells, 0u);
        EXPECT_GT(g.fit.shareOn, 0.95);
        // Angles by face, by cell and as a share tell the same.
        const auto angles = grid::faceAngles(g, geo);
        EXPECT_NEAR(*std::max_element(angles.begin(), angles.end()), q.worstNonOrthogonality_deg, 1e-9);
        const auto beyond =
            std::count_if(angles.begin(), angles.end(), [](double a) { return a > grid::kOblique_deg; });
        EXPECT_NEAR(grid::shareBeyond(g, geo, grid::kOblique_deg),
                    static_cast<double>(beyond) / static_cast<double>(angles.size()), 1e-12);
        const auto byCell = grid::worstAngles(g, geo);
        EXPECT_NEAR(*std::max_element(byCell.begin(), byCell.end()), q.worstNonOrthogonality_deg, 1e-9);
    }
}

TEST(TunnelWall, MayCutTheModel) {
    auto [s, tunnel, settings] = bench::setupOf("strut", "");
    settings.cellBudget = 40000;
    const auto g = grid::build(s, tunnel, settings, {});
    const auto q = grid::qualityOf(g, grid::geometryOf(g));
    EXPECT_EQ(q.foldedCells, 0u);
    // From wall to wall, 1.8 m of the strut's 3 m; no end faces in the air.
    const double area = 1.8 * 2.0 * std::acos(-1.0) * 0.15;
    EXPECT_NEAR(q.wettedArea, area, 0.015 * area);
    tunnel.above = -0.6;
    tunnel.below = -0.6;
    EXPECT_THROW(grid::build(s, tunnel, settings, {}), base::InputError);
}

TEST(Wake, LeadsAlongTheWind) {
    const auto smallCellsNear = [](const Vec3& place, double alpha) {
        auto s = cells(30000);
        s.wakeLength = 2.0;
        s.wakeAlong = Vec3(std::cos(alpha), 0.0, std::sin(alpha));
        const auto g = grid::build(bench::sphere(0.5, 40), kTunnel, s, {});
        const auto geo = grid::geometryOf(g);
        double smallest = 1e300;
        for (std::size_t c = 0; c < geo.volume.size(); ++c)
            if ((geo.cellCentre[c] - place).norm() < 0.4) smallest = std::min(smallest, std::cbrt(geo.volume[c]));
        return smallest;
    };
    const Vec3 above(2.2, 0.0, 1.6);
    EXPECT_LT(smallCellsNear(above, 0.62), 0.6 * smallCellsNear(above, 0.0));
}

TEST(Wedge, ThatClosesToNothingGetsSoundCells) {
    // A ball that sinks a little into the ground: the air ends in a wedge all round it.
    grid::Tunnel tunnel = kTunnel;
    tunnel.floor = grid::Floor::Fixed;
    tunnel.rideHeight = -0.01;
    for (const int budget : {15000, 40000}) {
        const auto g = grid::build(bench::sphere(0.5, 60), tunnel, cells(budget), {});
        const auto q = grid::qualityOf(g, grid::geometryOf(g));
        EXPECT_EQ(q.foldedCells, 0u);
        EXPECT_LE(q.worstNonOrthogonality_deg, grid::kMostNonOrthogonality_deg);
        EXPECT_LE(q.worstSkewness, grid::kMostSkewness);
    }
}

TEST(WallLayers, AreFewerWhereCellsAreSmallAndStillClose) {
    // A cube's cells are a quarter as large along its edges: no room there for as many layers as on its sides.
    auto [cube, tunnel, settings] = bench::setupOf("cube", "");
    settings.cellBudget = 40000;
    settings.layerGrowth = 1.6;  // the budget would leave all columns as many as it allows at most
    const auto g = grid::build(cube, tunnel, settings, {});
    const auto geo = grid::geometryOf(g);
    int fewest = 99, most = 0;
    for (const auto& p : g.patches)
        if (p.kind == grid::PatchKind::Wall)
            for (auto f = p.first; f < p.first + p.count; ++f) {
                // From the wall on, cells of one column carry 1, 2, ...; the column ends at an outer cell.
                auto c = g.owner[static_cast<std::size_t>(f)];
                ASSERT_EQ(g.layer[static_cast<std::size_t>(c)], 1);
                int n = 1;
                for (; c > 0 && g.layer[static_cast<std::size_t>(c - 1)] == n + 1; --c) ++n;
                fewest = std::min(fewest, n);
                most = std::max(most, n);
            }
    EXPECT_GE(fewest, 2);
    EXPECT_GT(most, fewest);
    const auto q = grid::qualityOf(g, geo);
    EXPECT_LT(q.worstOpenness, 1e-12);
    EXPECT_GT(q.shareNearFirstHeight, 0.98);
    double air = 0.0;
    for (const double v : geo.volume) air += v;
    Box box;
    for (const Vec3& p : g.points) box.add(p);
    EXPECT_NEAR(air, box.size().prod() - 1.0, 1e-9 * box.size().prod());
}

TEST(WallLayers, LeaveNoPointWithoutCell) {
    const auto [g, q] = judged("cylinder", 30000);
    std::vector<char> used(g.points.size(), 0);
    for (const auto p : g.facePoints) used[static_cast<std::size_t>(p)] = 1;
    EXPECT_EQ(std::count(used.begin(), used.end(), 0), 0);
    EXPECT_EQ(q.foldedCells, 0u);
}

TEST(WallLayers, BordersOfFewerLayersAreAmongThoseOfTheMost) {
    grid::Layers l;
    l.most = 7;
    for (int n = 1; n <= 7; ++n) {
        EXPECT_EQ(l.border(0, n), 0);
        EXPECT_EQ(l.border(n, n), 7);
        for (int g = 0; g < n; ++g) EXPECT_LT(l.border(g, n), l.border(g + 1, n));
    }
    for (int g = 0; g <= 7; ++g) EXPECT_EQ(l.border(g, 7), g);
}

// Where columns of nine and of twelve meet, the cells on the wall lie side by side one to one.
TEST(WallLayers, OnTheWallAreOnePieceEach) {
    grid::Layers l;
    l.most = 12;
    for (const int n : {6, 9, 12})
        for (int g = (n + 1) / 2; g <= n; ++g) EXPECT_EQ(l.most - l.border(g, n), n - g) << n;
}

TEST(WallLayers, GrowNoFasterThanAskedAndKeepTheFirstHeightAlsoWhereCellsChangeSize) {
    // An ellipsoid has cells of several sizes on its wall.
    grid::GridSettings s;
    s.cellBudget = 60000;
    s.wakeLength = 0.0;
    s.firstHeight = 0.004;
    const auto g = grid::build(bench::ellipsoid({1.0, 0.25, 0.25}, 60), kTunnel, s, {});
    const auto geo = grid::geometryOf(g);
    EXPECT_GT(grid::coverageOf(g, geo, [](const Vec3&) { return 1.0; }).growsGently, 0.9);
    EXPECT_GT(grid::qualityOf(g, geo).shareNearFirstHeight, 0.95);
    EXPECT_EQ(grid::qualityOf(g, geo).foldedCells, 0u);
}
