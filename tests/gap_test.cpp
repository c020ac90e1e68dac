// Gaps that the air should pass are opened or named; symmetric models get symmetric cells.
#include <gtest/gtest.h>

#include "base/errors.h"
#include "bench/setups.h"
#include "grid/gaps.h"
#include "grid/quality.h"
#include "readout/afterflight.h"
#include "shape/clip.h"

using namespace cvane;

namespace {
grid::Grid gridOf(const char* name, int cells) {
    auto s = bench::setupOf(name, "");
    s.settings.cellBudget = cells;
    return grid::build(s.surface, s.tunnel, s.settings, {});
}
double wetted(const grid::Grid& g) {
    return grid::qualityOf(g, grid::geometryOf(g)).wettedArea;
}
std::string verdict(const grid::Grid& g) {
    return grid::verdictOf(g, grid::qualityOf(g, grid::geometryOf(g)));
}
}  // namespace

TEST(Gap, UnderABoxIsOpenWithEnoughCellsAndNamedWithTooFew) {
    const auto open = gridOf("lowbox", 100000), filled = gridOf("lowbox", 20000);
    EXPECT_TRUE(open.gaps.empty());
    EXPECT_NEAR(wetted(open), 1.64, 0.005 * 1.64);  // the box's whole surface, its floor too
    ASSERT_FALSE(filled.gaps.empty());
    EXPECT_NEAR(filled.gaps[0].width, 0.02, 0.002);
    EXPECT_GT(filled.gaps[0].cells, 20000.0);
    EXPECT_EQ(verdict(filled).find("not to be trusted"), 0u) << verdict(filled);
    EXPECT_EQ(verdict(open).find("not to be trusted"), std::string::npos) << verdict(open);
}

// Cells in the gap under it would leave a box of a metre cells of half a metre.
TEST(Gap, IsNotOpenedAtThePriceOfTheSurfacesCells) {
    auto setup = bench::setupOf("lowbox", "");
    setup.settings.cellBudget = 20000;
    const auto g = grid::build(setup.surface, setup.tunnel, setup.settings, {});
    setup.settings.gapLevels = 0;
    EXPECT_LT(g.surfaceCell, 1.6 * grid::build(setup.surface, setup.tunnel, setup.settings, {}).surfaceCell);
}

TEST(Gap, OfASlottedPlateIsNamedWhereItIs) {
    const auto g = gridOf("slotted", 20000);
    ASSERT_FALSE(g.gaps.empty());
    EXPECT_NEAR(g.gaps[0].width, 0.01, 0.001);
    EXPECT_NEAR(g.gaps[0].place.x(), 0.5, 0.02);
}

// A wheel that meets the ground, parts that cross: no gap.
TEST(Gap, IsNoneWhereWallsCloseToNothing) {
    auto s = bench::sphere(0.5, 80);
    grid::GridSettings settings;
    settings.cellBudget = 20000;
    settings.wakeLength = 0.0;
    const auto g = grid::build(s, {3, 4, 3, 3, 3, grid::Floor::Moving, -0.02, false}, settings, {});
    EXPECT_TRUE(g.gaps.empty()) << verdict(g);
}

TEST(SymmetricModel, GetsAsManyCellsOnEitherSide) {
    grid::GridSettings settings;
    settings.cellBudget = 20000;
    settings.firstHeight = 1e-3;
    const auto g = grid::build(bench::ellipsoid({1.0, 0.4, 0.3}, 120), {}, settings, {});
    const auto geo = grid::geometryOf(g);
    for (const int axis : {1, 2}) {
        int more = 0;
        // Cells whose middle is in the plane to rounding count for neither side.
        for (const Vec3& x : geo.cellCentre) more += std::abs(x[axis]) < 1e-6 ? 0 : x[axis] > 0.0 ? 1 : -1;
        EXPECT_EQ(more, 0) << "along axis " << axis;
    }
}

TEST(Clip, KeepsWhatLiesBeyondThePlaneAndItsPart) {
    const auto s = bench::sphere(0.5, 60);
    const auto half = shape::beyondPlane(s, 1, 0.0), most = shape::beyondPlane(s, 1, -0.2);
    EXPECT_NEAR(half.area(), 0.5 * s.area(), 1e-9);
    // A zone of a ball has the area pi d h; the facets' own area is what is cut.
    EXPECT_NEAR(most.area(), 0.7 * s.area(), 2e-3 * s.area());
    EXPECT_EQ(half.partOf.size(), half.facets.size());
    EXPECT_GE(half.bounds().low.y(), 0.0);
}

TEST(Findings, NamePressureAboveThatOfStandingAirAndMomentumThatDisagrees) {
    grid::GridSettings settings;
    settings.cellBudget = 3000;
    const auto g = grid::build(bench::sphere(0.5, 24), {}, settings, {});
    const auto geo = grid::geometryOf(g);
    readout::WallField wall;
    for (const auto& p : g.patches)
        if (p.kind == grid::PatchKind::Wall)
            for (auto f = p.first; f < p.first + p.count; ++f) wall.face.push_back(f);
    wall.Cp.assign(wall.face.size(), 0.9);
    wall.Cf.assign(wall.face.size(), Vec3::Zero());
    wall.yPlus.assign(wall.face.size(), 30.0);
    readout::Result r;
    r.wind.speed = 10.0;
    r.total.pressureForce = Vec3(10.0, 0.0, 0.0);
    r.total.coefficients.CD = 0.5;
    r.field.emplace().forceFromOutside = Vec3(10.0, 0.0, 0.0);
    EXPECT_TRUE(readout::findingsOf(r, wall, geo, {}, false).empty());
    // A side force is one only of a model that is its own image.
    auto aside = r;
    aside.total.coefficients.CY = 0.02;
    EXPECT_TRUE(readout::findingsOf(aside, wall, geo, {}, false).empty());
    grid::Tunnel symmetric;
    symmetric.mirrored = true;
    const auto said = readout::findingsOf(aside, wall, geo, symmetric, false);
    ASSERT_EQ(said.size(), 1u);
    EXPECT_NE(said[0].what.find("one-sided"), std::string::npos);
    aside.wind.beta = 0.05;
    EXPECT_TRUE(readout::findingsOf(aside, wall, geo, symmetric, false).empty());
    wall.Cp[7] = 1.4;
    wall.yPlus.assign(wall.face.size(), 900.0);
    r.field.emplace().forceFromOutside = Vec3(12.0, 0.0, 0.0);
    const auto found = readout::findingsOf(r, wall, geo, {}, false);
    ASSERT_EQ(found.size(), 3u);
    EXPECT_NE(found[0].what.find("momentum balance"), std::string::npos);
    EXPECT_NE(found[1].what.find("Cp is above 1"), std::string::npos);
    ASSERT_TRUE(found[1].place.has_value());
    EXPECT_EQ(*found[1].place, geo.faceCentre[static_cast<std::size_t>(wall.face[7])]);
    EXPECT_NE(found[2].what.find("y+"), std::string::npos);
    // A fan may raise the pressure.
    EXPECT_EQ(readout::findingsOf(r, wall, geo, {}, true).size(), 2u);
}

TEST(Result, ThatHasBlownUpCanBeReadBack) {
    readout::Result r;
    r.verdict = flow::Verdict::Diverged;
    r.total.pressureForce = Vec3(std::nan(""), 0.0, 1.0);
    r.coefficients.CD = std::nan("");
    r.field.emplace().yPlusHigh = std::nan("");
    r.field->forceFromOutside = Vec3(std::nan(""), 0.0, 0.0);
    const auto back = readout::resultFromJson(nlohmann::json::parse(readout::toJson(r).dump()), "here");
    EXPECT_EQ(back.verdict, flow::Verdict::Diverged);
    EXPECT_TRUE(std::isnan(back.total.pressureForce.x()));
    EXPECT_DOUBLE_EQ(back.total.pressureForce.z(), 1.0);
    EXPECT_TRUE(std::isnan(back.readings().yPlusHigh));
}
