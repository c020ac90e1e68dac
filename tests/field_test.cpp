// The stored flow seen: means and gradients, formulas, slices, iso-surfaces, probes and streamlines, on flows that are
// known in closed form.
#include <gtest/gtest.h>

#include <cmath>
#include <map>
#include <numbers>
#include <random>

#include "base/errors.h"
#include "bench/models.h"
#include "field/flow_field.h"
#include "field/formula.h"
#include "field/locator.h"
#include "field/sheet.h"
#include "field/streamline.h"
#include "field/wall_lines.h"
#include "field/wall_profile.h"
#include "grid/build.h"

using namespace cvane;
using namespace cvane::field;

namespace {
constexpr double kPi = std::numbers::pi;

/// A fitted grid around a ball of radius 0.5 at the origin, with hanging points and wall layers.
std::shared_ptr<const Mesh> ballMesh(int cells) {
    static std::map<int, std::shared_ptr<const Mesh>> made;
    auto& m = made[cells];
    if (m) return m;
    grid::GridSettings s;
    s.cellBudget = cells;
    s.wakeLength = 0.0;
    auto g = std::make_shared<const grid::Grid>(
        grid::build(bench::sphere(0.5, 60), {2, 2, 2, 2, 2, grid::Floor::None, 0, false}, s, {}));
    return m = std::make_shared<const Mesh>(g, std::make_shared<const grid::Geometry>(grid::geometryOf(*g)));
}

template <class Velocity>
FlowField flowOf(const std::shared_ptr<const Mesh>& mesh, const Velocity& velocity, double V = 1.0) {
    std::map<std::string, std::vector<double>> arrays;
    for (const Vec3& x : mesh->geometry().cellCentre) {
        const Vec3 u = velocity(x);
        arrays["VelocityX"].push_back(u.x());
        arrays["VelocityY"].push_back(u.y());
        arrays["VelocityZ"].push_back(u.z());
        arrays["PressureKinematic"].push_back(0.5 * (V * V - u.squaredNorm()));
    }
    air::FreeStream wind;
    wind.speed = V;
    return FlowField(mesh, arrays, wind);
}

/// Potential flow about the ball of radius 0.5 in a wind of 1 m/s along x.
Vec3 aroundBall(const Vec3& x) {
    const double r = x.norm(), k = 0.5 * std::pow(0.5 / r, 3);
    return Vec3(1.0 + k, 0.0, 0.0) - 3.0 * k * x.x() / (r * r) * x;
}
double streamFunction(const Vec3& x) {
    const double r = x.norm(), s2 = (x.y() * x.y() + x.z() * x.z());
    return 0.5 * s2 * (1.0 - std::pow(0.5 / r, 3));
}
}  // namespace

TEST(FlowField, IsExactForWhatIsLinearInSpace) {
    const auto mesh = ballMesh(8000);
    const Mat3 G = (Mat3() << 0.3, -1.1, 0.2, 0.7, 0.1, -0.4, 0.5, 0.9, -0.4).finished();
    const auto flow = flowOf(mesh, [&](const Vec3& x) { return Vec3(G * x + Vec3(1, 2, 3)); });
    double worst = 0.0;
    for (const Mat3& g : flow.velocityGradient()) worst = std::max(worst, (g - G).norm());
    EXPECT_LT(worst, 1e-9);
    worst = 0.0;
    for (std::size_t p = 0; p < mesh->points(); ++p)
        worst = std::max(worst, (flow.velocityAtPoints()[p] - (G * mesh->grid().points[p] + Vec3(1, 2, 3))).norm());
    EXPECT_LT(worst, 1e-9);
    EXPECT_NEAR(flow.inCells("vorticity_x")[7], G(2, 1) - G(1, 2), 1e-9);
    EXPECT_NEAR(flow.inCells("vorticity_wind")[7], G(2, 1) - G(1, 2), 1e-9);
    EXPECT_NEAR(flow.inCells("Q")[7], -0.5 * (G * G).trace(), 1e-9);
}

TEST(FlowField, HasNoLossInPotentialFlowAndSaysWhatThereIs) {
    const auto flow = flowOf(ballMesh(8000), aroundBall);
    for (const double loss : flow.inCells("loss")) EXPECT_NEAR(loss, 0.0, 1e-12);
    try {
        flow.inCells("CP");
        FAIL();
    } catch (const base::InputError& e) {
        EXPECT_NE(std::string(e.what()).find("Cp"), std::string::npos) << e.what();
    }
    EXPECT_THROW(flow.inCells("eddy"), base::InputError);  // there is no turbulence in it
    EXPECT_THROW(FlowField(ballMesh(8000), {{"VelocityX", {1.0}}}, {}), base::InputError);
}

TEST(Formula, WorksWithQuantitiesPlacesAndTheWind) {
    const auto flow = flowOf(ballMesh(8000), aroundBall);
    const auto& own = flow.inCells("1 - speed^2");
    const auto& Cp = flow.inCells("Cp");
    for (std::size_t c = 0; c < own.size(); c += 97) EXPECT_NEAR(own[c], Cp[c], 1e-12);
    EXPECT_NEAR(flow.inCells("x + 2*y - z*V_wind")[11], flow.mesh().geometry().cellCentre[11].dot(Vec3(1, 2, -1)),
                1e-12);
    EXPECT_THROW(flow.inCells("speed +"), base::InputError);
    EXPECT_THROW(flow.inCells("speed * nothing_like_it"), base::InputError);
    EXPECT_THROW(flow.inCells("1 / (loss - loss)"), base::InputError);
    EXPECT_EQ(troubleWithFormula(flow, "sqrt(abs(Cp))"), "");
    EXPECT_NE(troubleWithFormula(flow, "sqrt(abs(Cp)"), "");
}

TEST(Slice, IntegratesLinearFieldsExactlyThroughHangingPointsAndLayers) {
    const auto mesh = ballMesh(8000);
    std::vector<double> linear;
    for (const Vec3& x : mesh->grid().points) linear.push_back(3.0 + x.dot(Vec3(0.5, -1.0, 2.0)));
    // Beside the ball: a whole cross-section of the tunnel.
    Box tunnel;
    for (const Vec3& x : mesh->grid().points) tunnel.add(x);
    const double at = 0.731;
    const auto across = slice(*mesh, {at, 0, 0}, Vec3::UnitX());
    const double area = tunnel.size().y() * tunnel.size().z();
    EXPECT_NEAR(areaOf(across), area, 1e-12 * area);
    const double mean = 3.0 + 0.5 * at + Vec3(0, -1, 2).dot(tunnel.centre());
    EXPECT_NEAR(integralOver(across, atCorners(*mesh, across, linear)), mean * area, 1e-11 * area);
    // Obliquely through the ball: the ball's circle is missing.
    const Vec3 n = Vec3(0.2, 0.9, 0.4).normalized();
    const auto oblique = slice(*mesh, {0.0, 0.0, 0.0}, n);
    for (std::size_t i = 0; i < oblique.places.size(); i += 13) EXPECT_NEAR(oblique.places[i].dot(n), 0.0, 1e-12);
    EXPECT_NEAR(areaOf(oblique) + kPi * 0.25, areaOf(slice(*mesh, 1.2 * n, n)) + 0.0, 0.35 * areaOf(oblique));
    const auto values = atCorners(*mesh, oblique, linear);
    for (std::size_t i = 0; i < values.size(); i += 13)
        EXPECT_NEAR(values[i], 3.0 + oblique.places[i].dot(Vec3(0.5, -1.0, 2.0)), 1e-12);
    EXPECT_THROW(slice(*mesh, Vec3::Zero(), Vec3::Zero()), base::InputError);
    EXPECT_EQ(slice(*mesh, {100, 0, 0}, Vec3::UnitX()).polygons(), 0u);
}

TEST(IsoSurface, OfTheDistanceIsAClosedSphere) {
    const auto mesh = ballMesh(60000);
    std::vector<double> distance;
    for (const Vec3& x : mesh->grid().points) distance.push_back(x.norm());
    const double r = 0.9;
    const auto ball = isoSurface(*mesh, distance, r);
    EXPECT_NEAR(areaOf(ball), 4.0 * kPi * r * r, 0.005 * 4.0 * kPi * r * r);
    std::map<std::pair<int, int>, int> uses;
    for (std::size_t p = 0; p < ball.polygons(); ++p)
        for (auto k = ball.start[p]; k < ball.start[p + 1]; ++k) {
            const auto next = k + 1 < ball.start[p + 1] ? k + 1 : ball.start[p];
            const int a = ball.ofPolygon[static_cast<std::size_t>(k)],
                      b = ball.ofPolygon[static_cast<std::size_t>(next)];
            ++uses[{std::min(a, b), std::max(a, b)}];
        }
    EXPECT_TRUE(std::all_of(uses.begin(), uses.end(), [](const auto& e) { return e.second == 2; }));
    EXPECT_EQ(isoSurface(*mesh, distance, 100.0).polygons(), 0u);
}

TEST(Locator, FindsPlacesInTheAirAndNoneInTheModel) {
    const auto mesh = ballMesh(8000);
    std::vector<double> linear;
    for (const Vec3& x : mesh->grid().points) linear.push_back(1.0 + x.dot(Vec3(1.0, 2.0, -3.0)));
    std::mt19937 random(1);
    std::uniform_real_distribution<double> any(-1.9, 1.9);
    Locator near(*mesh);
    for (int i = 0; i < 2000; ++i) {
        const Vec3 x(any(random), any(random), any(random));
        if (std::abs(x.norm() - 0.5) < 0.01) continue;
        const auto spot = near.find(x);
        ASSERT_EQ(spot.has_value(), x.norm() > 0.5) << x.transpose();
        if (!spot) continue;
        EXPECT_NEAR(valueAt(*mesh, *spot, linear), 1.0 + x.dot(Vec3(1.0, 2.0, -3.0)), 1e-9);
    }
    EXPECT_FALSE(near.find({50, 0, 0}));
}

TEST(Streamlines, CloseInSolidBodyRotation) {
    const auto flow = flowOf(ballMesh(8000), [](const Vec3& x) { return Vec3(-x.y(), x.x(), 0.0); });
    LineSettings s;
    s.up = false;
    s.mostLength = 2.2 * kPi;
    const auto line = streamlines(flow, {{1.0, 0.0, 0.3}}, s)[0];
    ASSERT_GT(line.places.size(), 10u);
    double turned = 0.0, atOneTurn = 0.0, last = 0.0;
    for (std::size_t i = 1; i < line.places.size(); ++i) {
        const auto a = line.places[i - 1].head<2>(), b = line.places[i].head<2>();
        last = std::max(last, std::abs(b.norm() - 1.0));
        const double by = std::atan2(a.x() * b.y() - a.y() * b.x(), a.dot(b));
        if (line.times[i - 1] < 2.0 * kPi && line.times[i] >= 2.0 * kPi)
            atOneTurn = turned + by * (2.0 * kPi - line.times[i - 1]) / (line.times[i] - line.times[i - 1]);
        turned += by;
    }
    EXPECT_LT(last, 1e-3);
    EXPECT_NEAR(atOneTurn, 2.0 * kPi, 1e-3);
    EXPECT_EQ(line.downstream, LineEnd::Length);
}

TEST(Streamlines, KeepTheStreamFunctionAroundTheBallAndEndAtTheSides) {
    const auto flow = flowOf(ballMesh(60000), aroundBall);
    const auto lines = streamlines(flow, rakeLine({-1.8, 0.2, 0.0}, {-1.8, 0.9, 0.3}, 8));
    for (const auto& line : lines) {
        ASSERT_GT(line.places.size(), 10u);
        const double psi = streamFunction(line.places.front());
        double worst = 0.0;
        for (const Vec3& x : line.places) worst = std::max(worst, std::abs(streamFunction(x) / psi - 1.0));
        EXPECT_LT(worst, 0.02) << line.places.front().transpose();
        EXPECT_EQ(line.upstream, LineEnd::Side);
        EXPECT_EQ(line.downstream, LineEnd::Side);
        EXPECT_GT(line.places.back().x(), 1.7);
    }
    // Straight at the ball: it ends there or rests. From inside the model there is none.
    const auto at = streamlines(flow, {{-1.5, 1e-4, 1e-4}, {0.0, 0.0, 0.0}});
    EXPECT_TRUE(at[1].places.empty());
    EXPECT_FALSE(at[0].places.empty());
}

TEST(Rakes, AreLinesRingsAndGrids) {
    EXPECT_EQ(rakeLine({0, 0, 0}, {1, 0, 0}, 3)[1], Vec3(0.5, 0, 0));
    for (const Vec3& x : rakeRing({1, 2, 3}, {0, 0, 2}, 0.5, 7)) {
        EXPECT_NEAR((x - Vec3(1, 2, 3)).norm(), 0.5, 1e-12);
        EXPECT_NEAR(x.z(), 3.0, 1e-12);
    }
    EXPECT_EQ(rakeGrid({0, 0, 0}, {1, 0, 0}, {0, 1, 0}, 4).size(), 16u);
}

namespace {
std::vector<FaceIndex> wallFaces(const Mesh& mesh) {
    std::vector<FaceIndex> out;
    for (const auto& p : mesh.grid().patches)
        if (p.kind == grid::PatchKind::Wall)
            for (auto f = p.first; f < p.first + p.count; ++f) out.push_back(f);
    return out;
}
}  // namespace

TEST(WallLines, FollowTheShearOfABallFromItsNoseToItsTail) {
    const auto mesh = ballMesh(60000);
    const WallSkin skin(*mesh, wallFaces(*mesh));
    EXPECT_NEAR(skin.area(), kPi, 0.02 * kPi);
    std::vector<Vec3> along;
    for (const Vec3& x : mesh->grid().points)
        along.push_back(Vec3::UnitX() - x.x() * x / std::max(x.squaredNorm(), 1e-9));
    const auto lines = limitingLines(skin, along, 100);
    ASSERT_GT(lines.size(), 20u);
    double longest = 0.0;
    for (const auto& line : lines) {
        // Meridians: each keeps its angle about the wind, and goes downwind all the way.
        const auto angle = [](const Vec3& x) { return std::atan2(x.z(), x.y()); };
        for (std::size_t k = 1; k < line.places.size(); ++k) {
            const Vec3 &x = line.places[k], &before = line.places[k - 1];
            // It rests at the poles.
            EXPECT_TRUE(std::abs(before.x()) > 0.495 || x.x() > before.x() - 1e-9) << x.transpose();
            if (x.tail<2>().norm() < 0.2 || line.places[0].tail<2>().norm() < 0.2) continue;
            EXPECT_LT(std::abs(std::remainder(angle(x) - angle(line.places[0]), 2.0 * kPi)), 0.06);
        }
        longest = std::max(longest, line.places.back().x() - line.places.front().x());
    }
    EXPECT_GT(longest, 0.75);  // of the diameter of 1: near the poles lines crowd out each other
}

TEST(WallLines, GoRoundWithASolidTurnAndEndAtSharpEdges) {
    const auto mesh = ballMesh(8000);
    const WallSkin skin(*mesh, wallFaces(*mesh));
    std::vector<Vec3> round;
    for (const Vec3& x : mesh->grid().points) round.push_back(Vec3::UnitZ().cross(x));
    double longest = 0.0;
    const auto lines = limitingLines(skin, round, 60);
    for (const auto& line : lines) {
        double length = 0.0;
        for (std::size_t k = 1; k < line.places.size(); ++k) length += (line.places[k] - line.places[k - 1]).norm();
        longest = std::max(longest, length);
        for (const Vec3& x : line.places)
            EXPECT_TRUE(std::abs(x.z() - line.places[0].z()) < 0.03 || std::abs(x.z()) > 0.4) << x.transpose();
    }
    // Once round, not again and again.
    EXPECT_GT(longest, 0.8 * kPi);
    EXPECT_LT(longest, 1.5 * kPi);
    EXPECT_TRUE(limitingLines(skin, std::vector<Vec3>(mesh->points(), Vec3::Zero()), 60).empty());
}

TEST(WallProfile, ReadsTheCellsAboveAPlaceAsTheyAre) {
    const auto mesh = ballMesh(8000);
    const auto flow = flowOf(mesh, [](const Vec3& x) { return Vec3(x.norm() - 0.5, 0.0, 0.0); });
    EXPECT_THROW(wallProfile(flow, Vec3(0, 0, 1), 0.2), base::InputError);  // no walls are known of
    WallValues wall;
    wall.face = wallFaces(*mesh);
    for (std::size_t i = 0; i < wall.face.size(); ++i) {
        wall.Cp.push_back(0.0);
        wall.Cf.push_back(Vec3(0.02, 0, 0));
        wall.yPlus.push_back(1.0);
    }
    air::FreeStream wind;
    wind.speed = 2.0;
    std::map<std::string, std::vector<double>> arrays;
    for (const Vec3& x : mesh->geometry().cellCentre) {
        arrays["VelocityX"].push_back(x.norm() - 0.5);
        for (const char* zero : {"VelocityY", "VelocityZ", "PressureKinematic"}) arrays[zero].push_back(0.0);
    }
    const FlowField known(mesh, arrays, wind, wall);
    const auto p = wallProfile(known, Vec3(0, 0, 0.6), 0.2);
    EXPECT_GT(p.normal.z(), 0.98);
    EXPECT_NEAR(p.frictionVelocity, 2.0 * std::sqrt(0.01), 1e-12);
    ASSERT_GT(p.samples.size(), 3u);
    double before = 0.0;
    for (const auto& s : p.samples) {
        EXPECT_GT(s.height, before);
        EXPECT_LT(s.height, 0.2);
        before = s.height;
        // The speed is the distance from the ball; cells lie a little beside the normal.
        EXPECT_NEAR(s.along, s.height, 0.1 * s.height + 0.01);
        EXPECT_NEAR(s.yPlus, s.height * p.frictionVelocity / wind.air.kinematicViscosity(), 1e-6 * s.yPlus);
    }
    EXPECT_THROW(wallProfile(known, Vec3(0, 0, 1), 0.0), base::InputError);
}
