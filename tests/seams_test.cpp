// Careless exports: facets that do not quite meet, face the wrong way, are there twice, or are missing.
#include "shape/seams.h"

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <functional>

#include "bench/models.h"
#include "grid/build.h"
#include "grid/quality.h"
#include "shape/edges.h"
#include "shape/health.h"
#include "shape/triangle_tree.h"

using namespace cvane;

namespace {
constexpr double kTolerance = 1e-4;

/// The facets of a surface each with corners of its own, a little apart; `keep` may leave some out, `turn` turn some
/// round.
shape::Surface soupOf(const shape::Surface& s, const std::function<bool(std::size_t)>& keep,
                      const std::function<bool(std::size_t)>& turn) {
    shape::Surface soup;
    soup.parts = s.parts;
    for (std::size_t f = 0; f < s.facets.size(); ++f) {
        if (!keep(f)) continue;
        const auto n = static_cast<std::int32_t>(soup.points.size());
        for (int k = 0; k < 3; ++k)
            soup.points.push_back(s.corner(f, k) + 2e-5 * Vec3(std::sin(7.0 * static_cast<double>(f) + k),
                                                               std::cos(3.0 * static_cast<double>(f)),
                                                               std::sin(5.0 * k)));
        soup.facets.push_back(turn(f) ? shape::Facet{n, n + 2, n + 1} : shape::Facet{n, n + 1, n + 2});
        soup.partOf.push_back(s.partOf[f]);
    }
    return soup;
}
bool always(std::size_t) {
    return true;
}
bool never(std::size_t) {
    return false;
}
std::size_t openEdges(const shape::Surface& s) {
    std::size_t n = 0;
    for (const auto& e : shape::edgesOf(s)) n += e.uses.size() == 1;
    return n;
}
}  // namespace

TEST(Seams, OfASoupAreJoinedToTheSurfaceThatItWas) {
    const auto ball = bench::sphere(0.5, 20);
    const auto joined = shape::joinedWithin(soupOf(ball, always, never), kTolerance);
    EXPECT_EQ(joined.surface.facets.size(), ball.facets.size());
    EXPECT_EQ(joined.surface.points.size(), ball.points.size());
    EXPECT_EQ(openEdges(joined.surface), 0u);
    EXPECT_NEAR(joined.surface.volume(), ball.volume(), 1e-4 * ball.volume());
}

TEST(Seams, ADoubledFacetDoesNotHideItsOpenEdges) {
    auto soup = soupOf(bench::sphere(0.5, 20), always, never);
    const auto facets = soup.facets.size();
    for (std::size_t f = 0; f < facets; f += 9) {
        soup.facets.push_back(soup.facets[f]);
        soup.partOf.push_back(0);
    }
    const auto joined = shape::joinedWithin(soup, kTolerance);
    EXPECT_EQ(openEdges(joined.surface), 0u);
    EXPECT_EQ(joined.surface.facets.size(), facets);
    for (std::size_t f = facets; f < soup.facets.size(); ++f)
        EXPECT_EQ(joined.facetOf[f], joined.facetOf[9 * (f - facets)]);
}

TEST(Orientation, OfASoupFollowsNeighboursThatDoNotQuiteMeet) {
    const auto ball = bench::sphere(0.5, 20);
    auto soup = soupOf(ball, always, [](std::size_t f) { return f % 11 == 5; });
    EXPECT_EQ(shape::orientFacets(soup), 0u);  // to the last bit none has a neighbour
    const auto turned = shape::orientFacets(soup, kTolerance);
    EXPECT_EQ(turned, (ball.facets.size() + 5) / 11);
    for (std::size_t f = 0; f < soup.facets.size(); ++f) EXPECT_GT(soup.areaVector(f).dot(ball.areaVector(f)), 0.0);
}

TEST(Orientation, FacesTheAirAlsoWhereMostFacetsFacedInwards) {
    const auto ball = bench::sphere(0.5, 16);
    auto soup = soupOf(ball, always, [](std::size_t f) { return f % 5 != 0; });
    shape::orientFacets(soup, kTolerance);
    EXPECT_GT(soup.volume(), 0.99 * ball.volume());
}

TEST(Holes, OfSingleFacetsAreClosedByTheFacetsThatWereThere) {
    const auto ball = bench::sphere(0.5, 20);
    auto holed = soupOf(
        ball, [](std::size_t f) { return f % 97 != 13; }, never);
    const auto missing = ball.facets.size() - holed.facets.size();
    ASSERT_GT(missing, 5u);
    const auto closed = shape::closeHoles(holed, kTolerance, 0.3, false);
    EXPECT_EQ(closed.size(), missing);
    EXPECT_EQ(openEdges(shape::joinedWithin(holed, kTolerance).surface), 0u);
    EXPECT_NEAR(holed.area(), ball.area(), 1e-3 * ball.area());
    EXPECT_NEAR(holed.volume(), ball.volume(), 1e-3 * ball.volume());  // the new facets face the air as the others do
    EXPECT_TRUE(
        std::is_sorted(closed.begin(), closed.end(), [](const auto& a, const auto& b) { return a.width > b.width; }));
}

TEST(Holes, OfSeveralFacetsGetAFan) {
    auto ball = bench::sphere(0.5, 16);
    // All facets around one point are missing.
    const auto centre = ball.facets[ball.facets.size() / 2][0];
    auto holed = ball;
    holed.facets.clear();
    holed.partOf.clear();
    for (const auto& f : ball.facets)
        if (std::find(f.begin(), f.end(), centre) == f.end()) {
            holed.facets.push_back(f);
            holed.partOf.push_back(0);
        }
    const auto around = ball.facets.size() - holed.facets.size();
    ASSERT_GE(around, 4u);
    EXPECT_EQ(shape::closeHoles(holed, kTolerance, 0.5, false).size(), 1u);
    EXPECT_EQ(holed.facets.size(), ball.facets.size());
    EXPECT_EQ(openEdges(shape::joinedWithin(holed, kTolerance).surface), 0u);
}

TEST(Holes, WiderThanAskedAndTheRootOfAHalfModelStayOpen) {
    auto bowl = bench::sphere(0.5, 24);
    std::erase_if(bowl.facets,
                  [&](const shape::Facet& f) { return bowl.points[static_cast<std::size_t>(f[0])].z() > 0.2; });
    bowl.partOf.resize(bowl.facets.size());
    const auto facets = bowl.facets.size();
    EXPECT_TRUE(shape::closeHoles(bowl, kTolerance, 0.5, false).empty());
    EXPECT_EQ(bowl.facets.size(), facets);
    EXPECT_TRUE(shape::canHoldAir(bowl, kTolerance, false));

    auto wing = bench::rectangularHalfWing(0.12, 1.0, 20, 8);  // open at y = 0
    EXPECT_TRUE(shape::closeHoles(wing, kTolerance, 3.0, true).empty());
    EXPECT_FALSE(shape::canHoldAir(wing, kTolerance, true));
    EXPECT_TRUE(shape::canHoldAir(wing, kTolerance, false));
    EXPECT_EQ(shape::closeHoles(wing, kTolerance, 3.0, false).size(), 1u);
    EXPECT_FALSE(shape::canHoldAir(wing, kTolerance, false));
}

TEST(Holes, ALooseSheetHoldsNoAir) {
    auto s = bench::sphere(0.5, 16);
    const auto n = static_cast<std::int32_t>(s.points.size());
    s.points.insert(s.points.end(), {Vec3(1, 0, 0), Vec3(2, 0, 0), Vec3(1, 1, 0)});
    s.facets.push_back({n, n + 1, n + 2});
    s.partOf.push_back(0);
    EXPECT_FALSE(shape::canHoldAir(s, kTolerance, false));
}

TEST(CarelessExport, HasCellsNearlyAsFineAsItsCleanTwinForTheSameBudget) {
    // Facets that face the wrong way used to look like sharp edges and ate the cells: 2.3 times as coarse.
    const auto ball = bench::sphere(0.5, 60);
    const auto soup = soupOf(
        ball, [](std::size_t f) { return f % 97 != 13; }, [](std::size_t f) { return f % 11 == 5; });
    grid::GridSettings s;
    s.cellBudget = 40000;
    s.wakeLength = 0.0;
    const grid::Tunnel tunnel{3, 4, 3, 3, 3, grid::Floor::None, 0, false};
    const auto clean = grid::build(ball, tunnel, s, {}), dirty = grid::build(soup, tunnel, s, {});
    EXPECT_LT(dirty.surfaceCell, 1.1 * clean.surfaceCell);
    EXPECT_NEAR(dirty.cells(), 40000, 2000);
    EXPECT_NE(dirty.notes.find("in the surface are closed"), std::string::npos) << dirty.notes;
    const auto a = grid::qualityOf(clean, grid::geometryOf(clean)), b = grid::qualityOf(dirty, grid::geometryOf(dirty));
    EXPECT_NEAR(b.wettedArea, a.wettedArea, 0.005 * a.wettedArea);
    EXPECT_EQ(b.foldedCells, 0u);
}

TEST(Geometry, BroughtUpToDateIsThatWorkedOutAnew) {
    grid::GridSettings s;
    s.cellBudget = 8000;
    auto g = grid::build(bench::sphere(0.5, 30), {3, 4, 3, 3, 3, grid::Floor::None, 0, false}, s, {});
    auto geo = grid::geometryOf(g);
    const auto before = g.points;
    for (std::size_t i = 0; i < g.points.size(); i += 37)
        g.points[i] += 1e-4 * Vec3(1.0, std::sin(static_cast<double>(i)), -0.5);
    grid::updateGeometry(g, before, geo);
    const auto anew = grid::geometryOf(g);
    EXPECT_EQ(geo.volume, anew.volume);
    for (std::size_t c = 0; c < anew.volume.size(); ++c) ASSERT_EQ(geo.cellCentre[c], anew.cellCentre[c]);
    for (std::size_t f = 0; f < anew.faceArea.size(); ++f) ASSERT_EQ(geo.faceArea[f], anew.faceArea[f]);
}
