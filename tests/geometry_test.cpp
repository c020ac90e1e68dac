// Areas, volumes and the measures of quality against shapes whose answers are known.
#include <gtest/gtest.h>

#include <cmath>
#include <numeric>
#include <random>

#include "base/errors.h"
#include "base/units.h"
#include "grid/brick.h"
#include "grid/cut.h"
#include "grid/quality.h"
#include "grid/structured.h"
#include "grid/tunnel.h"

using namespace cvane;

namespace {
grid::Patch side(int d, const Vec3&) {
    return {std::string("side ") + std::to_string(d), grid::PatchKind::Side, -1, d, 0, 0};
}

// Unit cubes n a side, every lattice point sent through `map`.
template <class Map>
grid::Grid mapped(int n, Map&& map) {
    grid::Block b;
    b.cells = {n, n, n};
    b.place = [&](int i, int j, int k) -> Vec3 { return map(Vec3(i, j, k)); };
    b.patch = side;
    return grid::blockGrid(b);
}
double total(const std::vector<double>& v) {
    return std::accumulate(v.begin(), v.end(), 0.0);
}
}  // namespace

TEST(Geometry, OfAffineCellsIsExact) {
    Mat3 A;
    A << 2.0, 0.3, 0.1, -0.2, 1.5, 0.4, 0.1, 0.2, 0.7;
    const auto g = mapped(3, [&](const Vec3& x) -> Vec3 { return A * x + Vec3(5, -3, 2); });
    const auto geo = grid::geometryOf(g);
    for (std::size_t c = 0; c < geo.volume.size(); ++c) {
        EXPECT_NEAR(geo.volume[c], A.determinant(), 1e-12);
        const Vec3 x = A.inverse() * (geo.cellCentre[c] - Vec3(5, -3, 2));
        for (int k = 0; k < 3; ++k) EXPECT_NEAR(x[k] - std::floor(x[k]), 0.5, 1e-12);
    }
}

TEST(Geometry, OfWarpedCellsStillFillsTheWhole) {
    // Inner points moved at random: faces are no longer plane, and what one cell loses its neighbour gains.
    std::mt19937 random(5);
    std::uniform_real_distribution<double> u(-0.25, 0.25);
    const int n = 5;
    const auto g = mapped(n, [&](const Vec3& x) -> Vec3 {
        const bool inner = x.minCoeff() > 0.0 && x.maxCoeff() < n;
        return inner ? (x + Vec3(u(random), u(random), u(random))).eval() : x;
    });
    const auto geo = grid::geometryOf(g);
    EXPECT_NEAR(total(geo.volume), n * n * n, 1e-11);
    EXPECT_LT(grid::qualityOf(g, geo).worstOpenness, 1e-15);
    Vec3 moment = Vec3::Zero();
    for (std::size_t c = 0; c < geo.volume.size(); ++c) moment += geo.volume[c] * geo.cellCentre[c];
    // The first moment of the whole is that of its parts, but for the halves of faces that are no planes.
    EXPECT_LT((moment / total(geo.volume) - Vec3::Constant(0.5 * n)).norm(), 1e-3 * n);
}

TEST(Geometry, ScalesWithTheCubeAndTheSquareOfALength) {
    const auto one =
        mapped(3, [](const Vec3& x) -> Vec3 { return x + 0.1 * Vec3(std::sin(x.y()), std::sin(x.z()), 0.0); });
    const auto ten =
        mapped(3, [](const Vec3& x) -> Vec3 { return 10.0 * (x + 0.1 * Vec3(std::sin(x.y()), std::sin(x.z()), 0.0)); });
    const auto a = grid::geometryOf(one), b = grid::geometryOf(ten);
    for (std::size_t c = 0; c < a.volume.size(); ++c) EXPECT_NEAR(b.volume[c], 1000.0 * a.volume[c], 1e-9);
    for (std::size_t f = 0; f < a.faceArea.size(); ++f)
        EXPECT_LT((b.faceArea[f] - 100.0 * a.faceArea[f]).norm(), 1e-10);
    // What is counted in degrees and ratios does not change.
    const auto p = grid::qualityOf(one, a), q = grid::qualityOf(ten, b);
    EXPECT_NEAR(p.worstNonOrthogonality_deg, q.worstNonOrthogonality_deg, 1e-6);
    EXPECT_NEAR(p.worstSkewness, q.worstSkewness, 1e-9);
    EXPECT_NEAR(p.worstVolumeRatio, q.worstVolumeRatio, 1e-9);
}

TEST(Quality, OfCubesHasNoFault) {
    const auto g = mapped(4, [](const Vec3& x) { return x; });
    const auto q = grid::qualityOf(g, grid::geometryOf(g));
    EXPECT_LT(q.worstNonOrthogonality_deg, 1e-5);
    EXPECT_LT(q.worstSkewness, 1e-12);
    EXPECT_NEAR(q.worstVolumeRatio, 1.0, 1e-12);
    EXPECT_LT(q.worstPlanarity, 1e-12);
    EXPECT_EQ(q.foldedCells, 0u);
    EXPECT_EQ(q.histogram[0], static_cast<std::size_t>(g.internalFaces()));
    EXPECT_NE(q.verdict().find("good"), std::string::npos) << q.verdict();
}

TEST(Quality, OfASlantedStackIsTheAngleOfTheSlant) {
    for (const double slant : {20.0, 50.0, 70.0}) {
        // Layers shifted along x by the tangent of the slant for each unit of height: the line of centres leans, faces
        // between layers do not.
        const double t = std::tan(slant * base::degree);
        const auto g = mapped(4, [&](const Vec3& x) -> Vec3 { return {x.x() + t * x.z(), x.y(), x.z()}; });
        const auto geo = grid::geometryOf(g);
        const auto q = grid::qualityOf(g, geo);
        EXPECT_NEAR(q.worstNonOrthogonality_deg, slant, 1e-9);
        EXPECT_NEAR(q.shareAbove65, slant > 65.0 ? 2.0 / 3.0 : 0.0,
                    1e-12);  // of three families of faces those along x and z lean
        const auto worst = grid::worstAngles(g, geo);
        for (const double a : worst) EXPECT_NEAR(a, slant, 1e-6);
        EXPECT_NEAR(grid::shareBeyond(g, geo, slant - 1.0), 2.0 / 3.0, 1e-12);
        EXPECT_EQ(grid::shareBeyond(g, geo, slant + 1.0), 0.0);
    }
}

TEST(Quality, SeesTheSkewnessOfShiftedFaces) {
    // Two columns of cells whose common face is shifted along itself by a quarter: the line of centres misses the
    // face's middle.
    const auto g = mapped(2, [](const Vec3& x) -> Vec3 { return {x.x(), x.y() + (x.x() == 1.0 ? 0.25 : 0.0), x.z()}; });
    const auto q = grid::qualityOf(g, grid::geometryOf(g));
    // Cells lean to and fro: their centres are shifted by half of that, so a quarter less an eighth is left over a
    // length of 1.
    EXPECT_NEAR(q.worstSkewness, 0.125, 5e-3);
}

TEST(Quality, CountsTheRatioOfVolumes) {
    const auto g = grid::boxGrid({0.0, 1.0, 4.0}, {0.0, 1.0}, {0.0, 1.0}, {});
    EXPECT_NEAR(grid::qualityOf(g, grid::geometryOf(g)).worstVolumeRatio, 3.0, 1e-12);
}

TEST(Quality, FindsACellThatIsTurnedInsideOut) {
    auto g = mapped(3, [](const Vec3& x) { return x; });
    // One inner point pulled through the opposite corners of the cells beyond it.
    for (Vec3& p : g.points)
        if ((p - Vec3(1, 1, 1)).norm() < 1e-9) p = Vec3(2.4, 2.4, 2.4);
    const auto geo = grid::geometryOf(g);
    const auto q = grid::qualityOf(g, geo);
    EXPECT_GT(q.foldedCells, 0u);
    EXPECT_EQ(q.verdict().find("good"), std::string::npos) << q.verdict();
    const auto bad = grid::cellsBeyond(g, geo, 75.0, 4.0);
    EXPECT_TRUE(std::is_sorted(bad.begin(), bad.end()));
    EXPECT_GE(bad.size(), q.foldedCells);
}

TEST(Quality, MeasuresWallLayersByTheirFirstHeight) {
    auto g = grid::boxGrid(grid::evenLine(0, 1, 4), grid::evenLine(0, 1, 4), {0.0, 0.02, 0.06, 0.5, 1.0}, {4});
    g.firstHeight = 0.02;
    const auto q = grid::qualityOf(g, grid::geometryOf(g));
    EXPECT_NEAR(q.wettedArea, 1.0, 1e-12);
    EXPECT_EQ(q.wallFaces, 16u);
    EXPECT_NEAR(q.medianFirstHeight, 0.02, 1e-12);
    EXPECT_NEAR(q.shareNearFirstHeight, 1.0, 1e-12);
    g.firstHeight = 0.05;  // within a half of that asked no longer
    EXPECT_EQ(grid::qualityOf(g, grid::geometryOf(g)).shareNearFirstHeight, 0.0);
}

TEST(Quality, MeasuresHowFarFacesAreFromPlane) {
    // The middle point of the top is lifted: four faces get a fold.
    const auto g =
        mapped(2, [](const Vec3& x) -> Vec3 { return (x - Vec3(1, 1, 1)).norm() < 1e-9 ? Vec3(1.0, 1.0, 1.2) : x; });
    const auto q = grid::qualityOf(g, grid::geometryOf(g));
    EXPECT_GT(q.worstPlanarity, 0.04);
    EXPECT_LT(q.worstPlanarity, 0.2);
}

TEST(Assemble, PutsInternalFacesFirstAndPatchesInRuns) {
    const auto g = mapped(3, [](const Vec3& x) { return x; });
    EXPECT_EQ(g.internalFaces(), 3 * 2 * 9);
    EXPECT_EQ(g.faces(), 3 * 4 * 9);
    grid::FaceIndex next = g.internalFaces();
    for (const auto& p : g.patches) {
        EXPECT_EQ(p.first, next);
        EXPECT_EQ(p.count, 9);
        next += p.count;
    }
    EXPECT_EQ(next, g.faces());
    for (grid::FaceIndex f = 0; f < g.internalFaces(); ++f) {
        const auto i = static_cast<std::size_t>(f);
        EXPECT_LT(g.owner[i], g.neighbour[i]);
        if (f > 0) {
            EXPECT_LE(g.owner[i - 1], g.owner[i]);
        }
    }
}

TEST(Assemble, NormalsPointFromOwnerToNeighbourAndOutOfTheBox) {
    const auto g = grid::refinedBrick({{0, 0, 0}, {1, 1, 1}}, {4, 4, 4},
                                      {{grid::reachesInto({{0.3, 0.3, 0.3}, {0.6, 0.6, 0.6}}), 2}});
    const auto geo = grid::geometryOf(g);
    for (std::size_t f = 0; f < geo.faceArea.size(); ++f) {
        const auto P = static_cast<std::size_t>(g.owner[f]);
        EXPECT_GT(geo.faceArea[f].dot(geo.faceCentre[f] - geo.cellCentre[P]), 0.0);
        if (f < g.neighbour.size()) {
            EXPECT_GT(geo.faceArea[f].dot(geo.cellCentre[static_cast<std::size_t>(g.neighbour[f])] - geo.faceCentre[f]),
                      0.0);
        }
    }
}

TEST(LoosePoints, AreTakenOutAndTheOthersKeepTheirPlaces) {
    auto g = mapped(2, [](const Vec3& x) { return x; });
    const auto before = grid::geometryOf(g);
    // Two points that no face uses, one in front and one behind.
    g.points.insert(g.points.begin(), Vec3(9, 9, 9));
    g.points.push_back(Vec3(8, 8, 8));
    for (auto& p : g.facePoints) ++p;
    grid::dropLoosePoints(g);
    EXPECT_EQ(g.points.size(), 27u);
    const auto after = grid::geometryOf(g);
    EXPECT_EQ(after.volume, before.volume);
    for (std::size_t f = 0; f < after.faceArea.size(); ++f) EXPECT_EQ(after.faceArea[f], before.faceArea[f]);
}

TEST(Cut, OfCubesIsTheirSectionWithTheRightCells) {
    const auto g = mapped(3, [](const Vec3& x) { return x; });
    const auto geo = grid::geometryOf(g);
    for (int axis = 0; axis < 3; ++axis) {
        const auto cut = grid::cutAlongAxis(g, axis, 1.3);
        ASSERT_EQ(cut.cell.size(), 9u);
        for (std::size_t i = 0; i < cut.cell.size(); ++i) {
            EXPECT_NEAR(geo.cellCentre[static_cast<std::size_t>(cut.cell[i])][axis], 1.5, 1e-12);
            EXPECT_EQ(cut.start[i + 1] - cut.start[i], 4);
            for (auto k = cut.start[i]; k < cut.start[i + 1]; ++k)
                EXPECT_NEAR(cut.points[static_cast<std::size_t>(k)][axis], 1.3, 1e-12);
        }
    }
    EXPECT_TRUE(grid::cutAlongAxis(g, 2, 7.0).cell.empty());
}

TEST(BlockGrid, NamesItsPatchesAndRefusesEmptyBlocks) {
    const auto g = grid::boxGrid(grid::evenLine(0, 2, 2), grid::evenLine(0, 1, 3), grid::evenLine(0, 1, 4), {4, 5});
    int walls = 0;
    for (const auto& p : g.patches) walls += p.kind == grid::PatchKind::Wall;
    EXPECT_EQ(walls, 2);
    EXPECT_EQ(g.patches.size(), 6u);
    // Between two walls the nearest counts.
    const auto geo = grid::geometryOf(g);
    for (std::size_t c = 0; c < geo.volume.size(); ++c)
        EXPECT_NEAR(g.wallDistance[c], std::min(geo.cellCentre[c].z(), 1.0 - geo.cellCentre[c].z()), 1e-12);
    grid::Block b;
    b.cells = {2, 0, 2};
    b.place = [](int i, int j, int k) { return Vec3(i, j, k); };
    b.patch = side;
    EXPECT_THROW(grid::blockGrid(b), base::InputError);
    b.cells = {2, 1, 1};
    b.ring = true;
    EXPECT_THROW(grid::blockGrid(b), base::InputError);
}

TEST(Lines, JoinWithoutRepeatingThePlaceWhereTheyMeet) {
    EXPECT_EQ(grid::joinedLines({{0.0, 1.0}, {1.0, 3.0, 4.0}}), (std::vector<double>{0.0, 1.0, 3.0, 4.0}));
    const auto down = grid::gradedLine(2.0, 0.0, 8, 0.1);
    EXPECT_TRUE(std::is_sorted(down.rbegin(), down.rend()));
    EXPECT_NEAR(down[0] - down[1], 0.1, 1e-9);
}

TEST(TunnelBox, IsTheModelWithItsBodyLengthsAround) {
    const Box model{{0, -1, 0}, {4, 1, 2}};
    grid::Tunnel t{2.0, 5.0, 1.0, 1.5, 0.5, grid::Floor::None, 0.0, false};
    const Box box = grid::tunnelBox(t, model);
    EXPECT_LT((box.low - Vec3(-8, -5, -2)).norm(), 1e-12);
    EXPECT_LT((box.high - Vec3(24, 5, 8)).norm(), 1e-12);
    t.floor = grid::Floor::Moving;
    t.rideHeight = 0.15;
    EXPECT_NEAR(grid::tunnelBox(t, model).low.z(), -0.15, 1e-12);
    t.halfModel = true;
    EXPECT_EQ(grid::tunnelBox(t, model).low.y(), 0.0);
    EXPECT_NEAR(grid::blockage({{0, 0, 0}, {1, 4, 5}}, 1.0), 0.05, 1e-15);
}

TEST(TunnelBox, RefusesWhatHoldsNoModelInWords) {
    const Box model{{0, -1, 0}, {4, 1, 2}};
    const auto refusal = [&](const grid::Tunnel& t, const Box& m) {
        try {
            grid::tunnelBox(t, m);
        } catch (const base::InputError& e) {
            return std::string(e.what());
        }
        return std::string();
    };
    grid::Tunnel t;
    EXPECT_EQ(refusal(t, model), "");
    t.upstream = 0.0;
    EXPECT_NE(refusal(t, model).find("upstream"), std::string::npos);
    t = {};
    t.downstream = std::nan("");
    EXPECT_NE(refusal(t, model).find("downstream"), std::string::npos);
    t = {};
    t.above = 2000.0;
    EXPECT_NE(refusal(t, model).find("above"), std::string::npos);
    t = {};
    t.floor = grid::Floor::Fixed;
    t.rideHeight = -1.5;
    EXPECT_NE(refusal(t, model).find("ride height"), std::string::npos);
    t = {};
    EXPECT_NE(refusal(t, Box{}).find("no part"), std::string::npos);
    EXPECT_NE(refusal(t, Box{{1, 1, 1}, {1, 1, 1}}).find("size"), std::string::npos);
}
