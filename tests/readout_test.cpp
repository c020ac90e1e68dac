#include <gtest/gtest.h>

#include <cmath>

#include "base/errors.h"
#include "base/files.h"
#include "bench/models.h"
#include "folder.h"
#include "grid/build.h"
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
    r.coarse = readout::CoarseResult{100, 50, flow::Verdict::Settled, {}};
    r.coarse->coefficients.CD = 0.31;
    // Cells of half the size: the band is the difference itself (P. J. Roache 1994).
    EXPECT_NEAR(r.gridBand()->CD, 0.01, 1e-12);
    EXPECT_NEAR(r.trust().CD, 0.012, 1e-12);
    const auto back = readout::resultFromJson(readout::toJson(r), "here");
    ASSERT_TRUE(back.coarse.has_value());
    EXPECT_EQ(back.coarse->cells, 100);
    EXPECT_NEAR(back.gridBand()->CD, 0.01, 1e-12);
    r.coarse->cells = 900;  // not coarser at all
    EXPECT_FALSE(r.gridBand().has_value());
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
