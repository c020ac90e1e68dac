// A section in the field solver: its grid, and its coefficients beside those of the panels.
#include "campaign/steps/section_field.h"

#include <gtest/gtest.h>

#include "base/errors.h"
#include "base/units.h"
#include "campaign/steps/section_stage.h"
#include "campaign/store/section_tables.h"
#include "folder.h"
#include "grid/c_grid.h"
#include "section/outline/families.h"
#include "section/polar/polar.h"

using namespace cvane;
using base::degree;

TEST(CGrid, IsMadeAboutBluntSharpThickAndCamberedSections) {
    for (const char* code : {"0006", "0012", "4412", "4424", "23012", "23112", "laminar:13,30,0.5,0.6", "ellipse:12"}) {
        grid::CGrid g;
        g.outline = section::panelsOf(section::sectionFromCode(code), {100, 0.6, 0.12}).nodes;
        std::reverse(g.outline.begin(), g.outline.end());
        g.away = 34, g.wake = 20, g.acrossBase = 4;
        g.firstHeight = 1.8e-5;
        grid::Grid made;
        ASSERT_NO_THROW(made = grid::cGrid(g)) << code;
        const auto geometry = grid::geometryOf(made);
        double least = 1e300;
        Vec3 wall = Vec3::Zero();
        for (const auto& p : made.patches)
            if (p.kind == grid::PatchKind::Wall)
                for (auto f = p.first; f < p.first + p.count; ++f)
                    wall += geometry.faceArea[static_cast<std::size_t>(f)];
        for (const double d : made.wallDistance) least = std::min(least, d);
        EXPECT_LT(wall.norm(), 1e-12) << code;  // the wall is closed
        // About a round tail the lines crowd, and with them the first cells.
        const bool roundTail = std::string(code).starts_with("ellipse");
        EXPECT_NEAR(least / (0.5 * g.firstHeight), roundTail ? 0.6 : 1.0, roundTail ? 0.5 : 0.1) << code;
    }
    grid::CGrid none;
    EXPECT_THROW(grid::cGrid(none), base::InputError);
}

TEST(SectionField, OfASymmetricSectionHasNoLiftAtZeroAndThePanelsLiftAndDragAtFour) {
    const auto contour = section::sectionFromCode("laminar:12,30");
    campaign::SectionField what;
    what.reynolds = 1e6;
    what.level = 0;
    const auto field = campaign::solveSectionField(contour, what, {0.0, 4.0 * degree});
    section::PolarCase c;
    c.flow.air.reynolds = what.reynolds;
    c.flow.tripUpper = c.flow.tripLower = 0.01;
    c.values = {0.0, 4.0 * degree};
    const auto panels = section::computePolar(section::PanelFlow(section::panelsOf(contour, {})), c);
    EXPECT_NEAR(field[0].cl, 0.0, 0.005);
    EXPECT_NEAR(field[1].cl / panels[1].figures.cl, 1.0, 0.05);
    for (const std::size_t i : {0u, 1u}) {
        ASSERT_TRUE(panels[i].figures.converged);
        EXPECT_TRUE(field[i].settled);
        EXPECT_NEAR(field[i].cd / panels[i].figures.cd, 1.0, 0.15);  // 5,000 cells
        EXPECT_GT(field[i].cdFriction, 0.5 * field[i].cd);
        EXPECT_LT(field[i].cdFriction, field[i].cd);
        EXPECT_EQ(field[i].upper.size() + field[i].lower.size(), 100u);
    }
    // Suction above, pressure below.
    EXPECT_LT(field[1].upper[field[1].upper.size() / 3].Cp, field[1].lower[field[1].lower.size() / 3].Cp);
    EXPECT_THROW(campaign::solveSectionField(contour, what, {90.0 * degree}), base::InputError);
    EXPECT_THROW(campaign::solveSectionField(contour, what, {0.0}, [](double, int, double, double) { return false; }),
                 base::Cancelled);
}

TEST(SectionPolars, AStopKeepsWhatIsKnownAndTheNextRunMakesItWhole) {
    const test::Folder folder;
    auto c = campaign::Campaign::createEmpty(folder / "s.cvane");
    c.settings.sections.sections.push_back(campaign::sectionBrought(c, "0012"));
    c.settings.sections.first_deg = 0.0, c.settings.sections.last_deg = 8.0;
    int told = 0;
    EXPECT_THROW(campaign::computeSections(c, [&](const auto&, const auto&) { return ++told < 4; }), base::Cancelled);
    const auto key = campaign::polarsAsked(c).front().key;
    const auto part = campaign::storedPolar(c, key);
    ASSERT_TRUE(part.has_value());
    EXPECT_EQ(part->size(), 4u);
    campaign::computeSections(c, {});
    EXPECT_EQ(campaign::storedPolar(c, key)->size(), 9u);
}

// A section that was changed goes into tables under a name that says so, with what it really is.
TEST(SectionTables, SayWhatASectionHasBecomeAndWhatItsFiguresAre) {
    const test::Folder folder;
    auto c = campaign::Campaign::createEmpty(folder / "s.cvane");
    c.settings.sections.sections.push_back(campaign::sectionBrought(c, "2412"));
    auto& e = c.settings.sections.sections.back();
    e.thickness = 0.10;
    e.flapAngle_deg = 10.0;
    c.settings.sections.flapTurns_deg = {0.0, 5.0};
    c.settings.sections.first_deg = 0.0, c.settings.sections.last_deg = 4.0, c.settings.sections.step_deg = 2.0;
    campaign::computeSections(c, {});
    const auto asked = campaign::polarsAsked(c);
    std::vector<campaign::PolarRows> rows;
    for (const auto& p : asked) rows.push_back({&p, false, *campaign::storedPolar(c, p.key)});
    const auto polars = campaign::polarTable(c, rows).csv, figures = campaign::polarFiguresTable(c, rows).csv;
    for (const auto& table : {polars, figures}) {
        EXPECT_NE(table.find("\"2412, thickness 10 %, flap 10 deg\",panels,10.000,2.000,10,"), std::string::npos)
            << table;
        EXPECT_NE(table.find("flap 15 deg\",panels,10.000,2.000,15,"), std::string::npos) << table;
    }
    EXPECT_EQ(std::count(polars.begin(), polars.end(), '\n'), 1 + 2 * 3);
    EXPECT_EQ(std::count(figures.begin(), figures.end(), '\n'), 1 + 2);
    EXPECT_NE(campaign::columnsExplained().csv.find("n,\"amplification exponent"), std::string::npos);
}
