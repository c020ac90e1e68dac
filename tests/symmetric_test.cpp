#include <gtest/gtest.h>

#include <cmath>
#include <filesystem>
#include <fstream>
#include <map>

#include "bench/models.h"
#include "campaign/settings/set_field.h"
#include "campaign/store/keys.h"
#include "campaign/store/symmetry.h"
#include "folder.h"
#include "grid/build.h"
#include "grid/layer_coverage.h"
#include "grid/plan.h"
#include "grid/quality.h"
#include "shape/mirror.h"
#include "shape/stl_export.h"

using namespace cvane;

namespace {
// A box in the middle with a smaller one at either side.
shape::Surface threeBoxes(double portShift = 0.0) {
    shape::Surface s;
    bench::addBox(s, "hull", {0.0, -0.2, 0.0}, {1.0, 0.2, 0.3});
    bench::addBox(s, "starboard pod", {0.3, 0.4, 0.0}, {0.7, 0.6, 0.2});
    bench::addBox(s, "port pod", {0.3 + portShift, -0.6, 0.0}, {0.7 + portShift, -0.4, 0.2});
    shape::orientFacets(s);
    return s;
}
grid::Grid mirroredGrid() {
    grid::Tunnel t{2, 3, 2, 2, 2, grid::Floor::None, 0, false};
    t.mirrored = true;
    grid::GridSettings s;
    s.cellBudget = 40000;
    return grid::build(threeBoxes(), t, s, {});
}
campaign::Campaign make(const test::Folder& folder, double portShift = 0.0) {
    shape::writeStl(threeBoxes(portShift), folder / "boxes.stl", 1.0);
    return campaign::Campaign::create(folder / "boxes.cvane", folder / "boxes.stl", "m");
}
campaign::Point at(double beta_deg) {
    return {{20.0, 0.0, beta_deg}};
}
}  // namespace

TEST(MirroredGrid, IsItsOwnImageToTheLastBitAndSound) {
    const auto g = mirroredGrid();
    const auto geo = grid::geometryOf(g);
    const auto q = grid::qualityOf(g, geo);
    EXPECT_LT(q.worstOpenness, 1e-10);
    EXPECT_EQ(q.negativeCells, 0u);
    const auto n = static_cast<std::size_t>(g.cells() / 2);
    ASSERT_EQ(2 * n, static_cast<std::size_t>(g.cells()));
    EXPECT_NEAR(static_cast<double>(g.cells()), 40000.0, 2400.0);
    for (std::size_t c = 0; c < n; ++c) {
        const Vec3 &here = geo.cellCentre[c], &there = geo.cellCentre[n + c];
        EXPECT_LT((here - Vec3(there.x(), -there.y(), there.z())).norm(), 1e-13);
        EXPECT_NEAR(geo.volume[n + c], geo.volume[c], 1e-12 * geo.volume[c]);
        EXPECT_EQ(g.wallDistance[n + c], g.wallDistance[c]);
        EXPECT_EQ(g.layer[n + c], g.layer[c]);
    }
}

TEST(MirroredGrid, GivesWallsAtPortToThePartsThatAreThere) {
    const auto g = mirroredGrid();
    const auto faces = grid::measuredFaces(g);
    std::map<std::string, double> area;
    for (const auto& p : g.patches)
        for (auto f = p.first; f < p.first + p.count; ++f) {
            const auto i = static_cast<std::size_t>(f);
            area[p.name] += faces.faceArea[i].norm();
            const double y = faces.faceCentre[i].y();
            EXPECT_TRUE(p.name != "port pod" || y < 0.0);
            EXPECT_TRUE(p.name != "starboard pod" || y > 0.0);
            EXPECT_TRUE(p.name != "y-" || y < -1.0);
        }
    EXPECT_GT(area["port pod"], 0.35);
    EXPECT_NEAR(area["port pod"], area["starboard pod"], 1e-9);
    EXPECT_NEAR(area["y-"], area["y+"], 1e-9);
}

TEST(MirroredGrid, IsForeseenWithTheCellsThatItGets) {
    grid::Tunnel t{2, 3, 2, 2, 2, grid::Floor::None, 0, false};
    t.mirrored = true;
    grid::GridSettings s;
    s.cellBudget = 40000;
    const auto plan = grid::planOf(threeBoxes(), t, s, {});
    EXPECT_NEAR(static_cast<double>(plan.cells), static_cast<double>(mirroredGrid().cells()), 10.0);
}

TEST(WallColumns, LeadFromTheWallToWhereTheLayersEnd) {
    const auto g = mirroredGrid();
    const auto geo = grid::geometryOf(g);
    const auto columns = grid::wallColumns(g, geo);
    std::size_t faces = 0, layerCells = 0, counted = 0;
    for (const auto& p : g.patches)
        if (p.kind == grid::PatchKind::Wall) faces += static_cast<std::size_t>(p.count);
    for (const auto l : g.layer) layerCells += l > 0;
    ASSERT_EQ(columns.size(), faces);
    for (const auto& c : columns) {
        counted += static_cast<std::size_t>(c.layers);
        ASSERT_GE(c.layers, 1);
        // The last cell's middle is half of it below where the layers end.
        const auto last = static_cast<std::size_t>(c.first - c.layers + 1);
        if (geo.faceArea[static_cast<std::size_t>(c.face)].norm() > 0.0) {
            EXPECT_LT(g.wallDistance[last], c.thickness);
        }
    }
    EXPECT_EQ(counted, layerCells);
    const auto thin = grid::coverageOf(g, geo, [](const Vec3&) { return 1e-6; });
    EXPECT_EQ(thin.covered, 1.0);
    const auto thick = grid::coverageOf(g, geo, [](const Vec3&) { return 10.0; });
    EXPECT_EQ(thick.covered, 0.0);
    EXPECT_NEAR(thick.medianShare * 10.0, thin.medianShare * 1e-6, 1e-12);
}

TEST(TunnelBox, IsTheSameForAModelAndItsHalf) {
    grid::Tunnel t;
    const Box wing{{0.0, -3.0, 0.0}, {1.0, 3.0, 0.1}};
    const Box whole = grid::tunnelBox(t, wing);
    t.halfModel = true;
    const Box half = grid::tunnelBox(t, wing);
    EXPECT_EQ(half.high, whole.high);
    EXPECT_EQ(half.low.x(), whole.low.x());
    EXPECT_EQ(half.low.y(), 0.0);
}

TEST(MirroredParts, AreThoseOnTheOtherSideOrThemselves) {
    EXPECT_EQ(shape::mirroredParts(threeBoxes(), 1e-3), (std::vector<int>{0, 2, 1}));
    EXPECT_EQ(shape::mirroredParts(threeBoxes(0.1), 1e-3), (std::vector<int>{0, -1, -1}));
}

TEST(SymmetricModel, RunsAsAHalfWithoutSideslipAndWholeOnThatGridsImageWithIt) {
    const test::Folder folder;
    const auto c = make(folder);
    const auto ahead = c.of(at(0.0)), yawed = c.of(at(4.0));
    EXPECT_TRUE(ahead.settings.tunnel.halfModel);
    EXPECT_FALSE(yawed.settings.tunnel.halfModel);
    EXPECT_TRUE(yawed.settings.tunnel.mirrored);
    // A campaign as one point sees it says the same of another.
    EXPECT_TRUE(yawed.of(at(0.0)).settings.tunnel.halfModel);
    EXPECT_FALSE(ahead.of(at(4.0)).settings.tunnel.halfModel);
    EXPECT_NE(campaign::gridKey(ahead), campaign::gridKey(yawed));
    // Whole because it was asked for or because of the wind, it is the same grid.
    auto whole = c;
    whole.settings.modelExtent = campaign::ModelExtent::Whole;
    EXPECT_EQ(campaign::gridKey(whole.of(at(0.0))), campaign::gridKey(yawed));
    EXPECT_EQ(campaign::gridSettingsOf(ahead.settings, 1.0, Vec3::Ones()).cellBudget, c.settings.grid.cellBudget / 2);
    EXPECT_EQ(campaign::gridSettingsOf(yawed.settings, 1.0, Vec3::Ones()).cellBudget, c.settings.grid.cellBudget);
    // Nothing forbids a yawed point where straight ones run as a half.
    EXPECT_NO_THROW(campaign::checkCondition(c.of("", "").settings, at(4.0).condition));
}

TEST(SymmetricModel, IsNoneOnceAPartOrASettingHasNoImage) {
    const test::Folder folder;
    auto c = make(folder);
    EXPECT_TRUE(campaign::isSymmetric(c));
    auto turned = c;
    turned.settings.model.placement.rotation_deg.z() = 5.0;
    EXPECT_FALSE(campaign::isSymmetric(turned));
    auto pitched = c;
    pitched.settings.model.placement.rotation_deg.y() = 5.0;
    EXPECT_TRUE(campaign::isSymmetric(pitched));
    auto hidden = c;
    hidden.settings.model.parts[2].inTheAir = false;
    EXPECT_FALSE(campaign::isSymmetric(hidden));
    auto rough = c;
    rough.settings.devices.roughParts = {{"starboard pod", 1e-4}};
    EXPECT_FALSE(campaign::isSymmetric(rough));
    rough.settings.devices.roughParts.push_back({"port pod", 1e-4});
    EXPECT_TRUE(campaign::isSymmetric(rough));
    auto finer = c;
    finer.settings.grid.finerPlaces = {{grid::FinerPlace::Shape::Box, {0, 0.1, 0}, {1, 0.5, 1}, 0.0, 0.02}};
    EXPECT_FALSE(campaign::isSymmetric(finer));
    finer.settings.grid.finerPlaces.push_back({grid::FinerPlace::Shape::Box, {0, -0.5, 0}, {1, -0.1, 1}, 0.0, 0.02});
    EXPECT_TRUE(campaign::isSymmetric(finer));
    auto disc = c;
    disc.settings.devices.discs.push_back({});
    disc.settings.devices.discs.back().rpm = 1000.0;  // its slipstream turns one way
    EXPECT_FALSE(campaign::isSymmetric(disc));
    // Asked for outright it is whole, on a grid that is its own image all the same, or half.
    c.settings.modelExtent = campaign::ModelExtent::Whole;
    EXPECT_FALSE(c.of(at(0.0)).settings.tunnel.halfModel);
    EXPECT_TRUE(c.of(at(0.0)).settings.tunnel.mirrored);
    c.settings.modelExtent = campaign::ModelExtent::Half;
    EXPECT_TRUE(c.of(at(0.0)).settings.tunnel.halfModel);
    // What was found is kept, and a file that is damaged only costs the time to find it again.
    const auto kept = folder / "boxes.cvane/models/mirror.json";
    EXPECT_TRUE(std::filesystem::exists(kept));
    std::ofstream(kept) << "[{\"of\": 3}, 7";
    EXPECT_TRUE(campaign::isSymmetric(campaign::Campaign::open(folder / "boxes.cvane")));
    const test::Folder other;
    EXPECT_FALSE(campaign::isSymmetric(make(other, 0.05)));
}
