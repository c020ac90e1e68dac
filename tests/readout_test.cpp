#include <gtest/gtest.h>

#include <cmath>

#include "base/errors.h"
#include "base/files.h"
#include "bench/models.h"
#include "folder.h"
#include "grid/build.h"
#include "readout/grid_band.h"
#include "readout/pressure_station.h"
#include "readout/result.h"

using namespace cvane;

TEST(PressureStation, FindsTheExactCpThatWasPutOnASphere) {
    grid::GridSettings s;
    s.cellBudget = 20000;
    const auto g = grid::build(bench::sphere(0.5, 60), {3, 4, 3, 3, 3, grid::Floor::None, 0, false}, s, {});
    const auto geo = grid::geometryOf(g);
    readout::WallField field;
    for (const auto& p : g.patches)
        if (p.kind == grid::PatchKind::Wall)
            for (auto f = p.first; f < p.first + p.count; ++f) {
                const double x = geo.faceCentre[static_cast<std::size_t>(f)].x() / 0.5;
                field.face.push_back(f);
                field.Cp.push_back(1.0 - 2.25 * (1.0 - x * x));
                field.Cf.push_back(Vec3::Zero());
                field.yPlus.push_back(1.0);
            }
    const auto cut = readout::cutStation(g, geo, field, 1, 0.013);
    ASSERT_GT(cut.samples.size(), 30u);
    EXPECT_NEAR(cut.chord, 1.0, 0.01);
    for (const auto& p : cut.samples) {
        const double x = p.place.x() / 0.5;
        EXPECT_NEAR(p.Cp, 1.0 - 2.25 * (1.0 - x * x),
                    0.12);  // faces are 0.1 radius wide; Cp'' (h/2)^2 / 2 ~ 0.02, at the rims one-sided
        EXPECT_EQ(p.upper, p.place.z() > 0.0 ? true : p.upper && std::abs(p.place.z()) < 0.05);
    }
    EXPECT_TRUE(readout::cutStation(g, geo, field, 1, 7.0).samples.empty());
    const test::Folder folder;
    readout::writeWallField(field, geo, folder / "wall.csv");
    const auto back = readout::readWallField(folder / "wall.csv");
    EXPECT_EQ(back.face, field.face);
    base::replaceFile(folder / "wall.csv", "face,x\n1,2,three\n");
    EXPECT_THROW(readout::readWallField(folder / "wall.csv"), base::InputError);
}

TEST(Result, TrustsWhatTwoGridsAgreeOn) {
    readout::Result r;
    r.cells = 800;
    r.coefficients.CD = 0.30;
    r.band.CD = 0.002;
    EXPECT_FALSE(r.gridBand().has_value());
    EXPECT_DOUBLE_EQ(r.trust().CD, 0.002);
    r.coarse = readout::CoarseResult{100, 50, flow::Verdict::Settled, {}, {}, {}};
    r.coarse->coefficients.CD = 0.31;
    // Cells of half the size: the band is the difference itself (P. J. Roache 1994).
    EXPECT_NEAR(r.gridBand()->CD, 0.01, 1e-12);
    EXPECT_NEAR(r.trust().CD, 0.012, 1e-12);
    // A lift that both grids share by chance is not better known than the drag.
    r.coefficients.CL = r.coarse->coefficients.CL = 0.6;
    EXPECT_NEAR(r.gridBand()->CL, 0.6 * 0.01 / 0.30, 1e-12);
    r.coarse->coefficients.CL = 0.7;
    EXPECT_NEAR(r.gridBand()->CL, 0.1, 1e-12);
    const auto back = readout::resultFromJson(readout::toJson(r), "here");
    ASSERT_TRUE(back.coarse.has_value());
    EXPECT_EQ(back.coarse->cells, 100);
    EXPECT_NEAR(back.gridBand()->CD, 0.01, 1e-12);
    // Where only the fine grid's cells follow the flow the two are no steps of one refinement, and a third says
    // nothing.
    r.cellsFollowedFlow = true;
    r.coarse->coarser = {{12, 40, flow::Verdict::Settled, {}, {}, {}}};
    EXPECT_NEAR(readout::resultFromJson(readout::toJson(r), "here").gridBand()->CD, 0.03, 1e-12);
    EXPECT_EQ(r.gridsOfBand(), 2);
    EXPECT_FALSE(r.orderOfDrag().has_value());
    r.coarse->coarser.clear();
    r.coarse->cells = 900;  // not coarser at all
    EXPECT_FALSE(r.gridBand().has_value());
}

TEST(GridBand, OfThreeGridsKnowsTheOrderAndHoldsTheTrueValue) {
    // 1 + 0.1 h^p on sizes 1, 1.5 and 3.
    for (const double p : {1.0, 1.4, 2.0}) {
        const auto on = [&](double h) { return 1.0 + 0.1 * std::pow(h, p); };
        const auto g = readout::gridBand(on(1.0), on(1.5), on(3.0), 1.5, 2.0);
        ASSERT_TRUE(g.order.has_value());
        EXPECT_NEAR(*g.order, p, 1e-6);
        EXPECT_NEAR(g.band, 1.25 * 0.1, 1e-6);  // a quarter more than the error
    }
    // Orders beyond what the method has are not believed.
    const auto fast = readout::gridBand(1.001, 1.01, 1.2, 1.5, 1.5);
    EXPECT_GT(*fast.order, 2.0);
    EXPECT_NEAR(fast.band, 1.25 * 0.009 / 1.25, 1e-9);
    // Values that swing, or run away: no order, and what the two finer grids alone say.
    EXPECT_FALSE(readout::gridBand(1.0, 1.1, 1.05, 1.5, 1.5).order.has_value());
    EXPECT_NEAR(readout::gridBand(1.0, 1.1, 1.05, 1.5, 1.5).band, 3.0 * 0.1 / 1.25, 1e-12);
    EXPECT_NEAR(readout::gridBand(1.0, 1.1, 1.15, 1.5, 1.5).band, 3.0 * 0.1 / 1.25, 1e-12);
    // Two grids that agree by chance, where the third is far off.
    EXPECT_NEAR(readout::gridBand(1.0, 1.0, 2.0, 2.0, 2.0).band, 1.0 / 12.0, 1e-12);
}

TEST(GridBand, OfDragIsNoNarrowerThanItsPartsThatMoveAgainstEachOther) {
    readout::Result r;
    r.cells = 800;
    r.coefficients.CD = 0.30;
    r.pressureShareOfDrag = 0.5;
    r.coarse = readout::CoarseResult{100, 50, flow::Verdict::Settled, {}, {}, {}};
    r.coarse->coefficients.CD = 0.30;
    EXPECT_FALSE(r.gridBandOfDrag().has_value());  // a result of before, whose coarse grid has no parts
    EXPECT_NEAR(r.gridBand()->CD, 0.0, 1e-12);
    r.coarse->pressureShareOfDrag = 0.6;  // 0.03 of pressure more and of friction less
    const auto back = readout::resultFromJson(readout::toJson(r), "here");
    ASSERT_TRUE(back.gridBandOfDrag().has_value());
    EXPECT_NEAR(back.gridBandOfDrag()->pressure, 0.03, 1e-12);
    EXPECT_NEAR(back.gridBandOfDrag()->friction, 0.03, 1e-12);
    EXPECT_NEAR(back.gridBand()->CD, 0.03 * std::sqrt(2.0), 1e-12);
    // In a difference of two points that share them they drop out.
    EXPECT_NEAR(readout::bandOfDifference(back, r)->CD, 0.0, 1e-12);
    // Parts that move alike leave the sum's own band.
    r.coarse->coefficients.CD = 0.32;
    r.coarse->pressureShareOfDrag = 0.5;
    EXPECT_NEAR(r.gridBand()->CD, 0.02, 1e-12);
}

TEST(GridBand, RestsOnTheCoarsestWhereTheCoarseFlowSwings) {
    readout::Result r;
    r.cells = 6400;
    r.coefficients.CD = 0.30;
    r.coarse = readout::CoarseResult{1600, 400, flow::Verdict::Unsteady, {}, {}, {}};
    EXPECT_FALSE(r.gridBand().has_value());
    r.coarse->coarser.push_back({800, 50, flow::Verdict::Settled, {}, {}, {}});
    r.coarse->coarser[0].coefficients.CD = 0.33;
    ASSERT_TRUE(r.gridBand().has_value());
    EXPECT_EQ(r.gridsOfBand(), 2);
    EXPECT_NEAR(r.gridBand()->CD, readout::gridBand(0.30, 0.33, 2.0).band, 1e-12);
}

TEST(GridBand, OfADifferenceLeavesOutWhatBothShare) {
    readout::Result a, b;
    const auto set = [](readout::Result& r, double CD, double share) {
        // The same error of the cells on both, and one of its own.
        r.cells = 64000;
        r.coefficients.CD = CD + 0.05 + share;
        r.coarse = readout::CoarseResult{8000, 50, flow::Verdict::Settled, {}, {}, {}};
        r.coarse->coefficients.CD = CD + 0.20 + 4.0 * share;
        r.coarse->coarser.push_back({1000, 50, flow::Verdict::Settled, {}, {}, {}});
        r.coarse->coarser[0].coefficients.CD = CD + 0.80 + 16.0 * share;
    };
    set(a, 0.30, 0.0), set(b, 0.28, 0.002);
    EXPECT_NEAR(a.gridBand()->CD, 1.25 * 0.05, 1e-9);
    const auto between = readout::bandOfDifference(a, b);
    ASSERT_TRUE(between.has_value());
    EXPECT_NEAR(between->CD, 1.25 * 0.002, 1e-9);
    const auto back = readout::resultFromJson(readout::toJson(b), "here");
    EXPECT_NEAR(back.gridBand()->CD, b.gridBand()->CD, 1e-15);
    EXPECT_EQ(back.gridsOfBand(), 3);
    // Where one of the two swings the others are compared, each with its like.
    b.coarse->verdict = flow::Verdict::Unsteady;
    const auto far = [](const readout::Result& r) { return r.coarse->coarser[0].coefficients.CD; };
    const double change = (a.coefficients.CD - b.coefficients.CD) - (far(a) - far(b));
    EXPECT_NEAR(readout::bandOfDifference(a, b)->CD, readout::gridBand(change, 0.0, 4.0).band, 1e-9);
    b.coarse->coarser[0].verdict = flow::Verdict::Unsteady;
    EXPECT_FALSE(readout::bandOfDifference(a, b).has_value());
}

TEST(Result, SurvivesItsFile) {
    readout::Result r;
    r.verdict = flow::Verdict::Unsteady;
    r.coefficients = {0.1, 0.2, 0.3, 0.4, 0.5, 0.6};
    r.band.CD = 0.01;
    r.parts.push_back({"wheel", {1, 2, 3}, {4, 5, 6}, {7, 8, 9}, {1, 2, 3, 4, 5, 6}});
    r.remark = "Not settled";
    const auto j = readout::toJson(r);
    const auto back = readout::resultFromJson(j, "here");
    EXPECT_EQ(readout::toJson(back), j);
    EXPECT_EQ(back.verdict, flow::Verdict::Unsteady);
    EXPECT_THROW(readout::resultFromJson({{"schema", 9}}, "here"), base::InputError);
    EXPECT_THROW(readout::resultFromJson({{"schema", 1}}, "here"), base::InputError);
}
