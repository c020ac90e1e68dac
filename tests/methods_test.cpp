// Methods as equals: what all of them share, shown on the lifting surface.
#include <gtest/gtest.h>

#include "base/errors.h"
#include "base/files.h"
#include "bench/wings.h"
#include "campaign/methods/runner.h"
#include "campaign/steps/reports.h"
#include "campaign/store/keys.h"
#include "campaign/store/model_source.h"
#include "campaign/store/point_report.h"
#include "campaign/store/table.h"
#include "tests/made_up_run.h"

using namespace cvane;

namespace {
wing::Aircraft glider() {
    auto a = bench::flatWing(2.0, 5.0, 0.6, 4, 6);
    for (auto& t : a.surfaces[0].stations) t.section = "2412";
    a.mass = 3.0;
    a.centreOfGravity = Vec3(0.2, 0.0, 0.0);
    return a;
}
campaign::Campaign gliderIn(const test::Folder& folder) {
    auto c = campaign::Campaign::create(folder / "g.cvane", glider());
    c.settings.schedule.methods = campaign::Methods::Both;
    c.settings.schedule.alphas_deg = {0.0, 4.0};
    c.save();
    return c;
}
/// Carries a point out as the solver process does.
std::filesystem::path carriedOut(const campaign::Campaign& c, const campaign::Point& p) {
    const auto& runner = campaign::runnerOf(p.method);
    runner.prepare(c, p);
    const auto folder = campaign::newRunFolder(c, p);
    runner.writeOrder(
        c, {campaign::runKey(c, p), campaign::caseKey(c, p), runner.version(), p}, {}, 0,
        [] { return std::vector<std::filesystem::path>(); }, folder);
    runner.solve(folder, flow::Ranks::alone());
    return folder;
}
}  // namespace

TEST(Methods, ArePartOfAPointsNameAndKeyAndTheFieldsKeepTheirs) {
    const test::Folder folder;
    const auto c = gliderIn(folder);
    const auto points = campaign::pointsOf(c.settings);
    ASSERT_EQ(points.size(), 4u);
    EXPECT_EQ(points[0].method, campaign::Method::LiftingSurface);
    EXPECT_EQ(points[0].name(), "v20.00_a0.00_b0.00@lifting_surface");
    EXPECT_EQ(points[2].name(), "v20.00_a0.00_b0.00");
    EXPECT_NE(campaign::runKey(c, points[0]), campaign::runKey(c, points[2]));
    EXPECT_EQ(campaign::pointNamed(c.settings, points[0].name()), points[0]);
    EXPECT_EQ(campaign::methodNamed("lifting_surface"), campaign::Method::LiftingSurface);
    EXPECT_NE(test::refusalOf([] { campaign::methodNamed("guess"); }).find("field, lifting_surface"),
              std::string::npos);
}

TEST(Methods, LeadToResultsOfOneKind) {
    const test::Folder folder;
    const auto c = gliderIn(folder);
    const auto p = campaign::pointsOf(c.settings)[1];
    const auto run = carriedOut(c, p);
    campaign::MeasureBook book;
    const auto report = campaign::reportOf(c, p, book.reference(c));
    EXPECT_EQ(report.state, campaign::PointState::Settled);
    ASSERT_TRUE(report.result);
    const auto& r = *report.result;
    EXPECT_FALSE(r.field);
    EXPECT_GT(r.coefficients.CL, 0.3);
    EXPECT_GT(r.coefficients.CD, 0.005);
    EXPECT_NEAR(r.reference.span, 4.0, 1e-9);
    // Forces and coefficients say the same.
    EXPECT_NEAR(r.total.force().dot(r.wind.liftAxis()), r.coefficients.CL * r.wind.dynamicPressure() * r.reference.area,
                1e-6);
    EXPECT_TRUE(campaign::damageOf(run).empty());
    EXPECT_NE(campaign::textTable(campaign::reportsOf(c, book)).find("lifting surface:"), std::string::npos);
    EXPECT_NE(campaign::csvTable(campaign::reportsOf(c, book)).find(",lifting_surface\n"), std::string::npos);
    // What only a field has is refused with a reason.
    EXPECT_NE(test::refusalOf([&] { campaign::valueFilesOf(run); }).find("has no field"), std::string::npos);
    base::replaceFile(run / "strips.csv", "nothing");
    EXPECT_NE(campaign::damageOf(run), "");
}

TEST(Methods, AnAircraftsChangePutsItsPointsOutOfDateAndComesBack) {
    const test::Folder folder;
    auto c = gliderIn(folder);
    const auto p = campaign::pointsOf(c.settings)[0];
    carriedOut(c, p);
    campaign::MeasureBook book;
    const auto grid = campaign::gridKey(c);
    const auto before = c.settings;
    auto a = *c.settings.model.aircraft;
    a.surfaces[0].stations[1].twist_deg = -2.0;
    campaign::setAircraft(c.settings, a);
    EXPECT_EQ(campaign::reportOf(c, p, book.reference(c)).state, campaign::PointState::OutOfDate);
    EXPECT_NE(campaign::gridKey(c), grid);
    // Panels of the lattice, the name and the mass make no other surface.
    c.settings = before;
    a = *c.settings.model.aircraft;
    a.surfaces[0].rows = 6;
    a.name = "another name";
    a.mass = 4.0;
    campaign::setAircraft(c.settings, a);
    EXPECT_EQ(campaign::gridKey(c), grid);
    c.settings = before;
    EXPECT_EQ(campaign::reportOf(c, p, book.reference(c)).state, campaign::PointState::Settled);
}

TEST(Methods, RefuseAModelThatTheyCannotRun) {
    const test::Folder folder;
    auto c = test::ball(folder);
    c.settings.schedule.methods = campaign::Methods::LiftingSurface;
    const auto p = campaign::pointsOf(c.settings)[0];
    const auto& runner = campaign::runnerOf(p.method);
    EXPECT_NE(test::refusalOf([&] { runner.prepare(c, p); }).find("not built from numbers"), std::string::npos);
    EXPECT_FALSE(runner.needsGrid());
    auto g = gliderIn(folder);
    g.settings.model.placement.rotation_deg = Vec3(0.0, 5.0, 0.0);
    EXPECT_NE(test::refusalOf([&] { runner.prepare(g, p); }).find("turned or shifted"), std::string::npos);
}

TEST(Aircraft, IsKeptInTheCampaignAndItsVariants) {
    const test::Folder folder;
    auto c = gliderIn(folder);
    EXPECT_EQ(*campaign::Campaign::open(c.folder()).settings.model.aircraft, glider());
    const auto surface = campaign::sourceOf(c)->surface();
    ASSERT_EQ(surface.parts.size(), 1u);
    EXPECT_EQ(c.settings.model.parts[0].name, "wing");
    // Another build of it is a patch on its numbers.
    c.settings.configurations.push_back({"heavy", {{"model", {{"aircraft", {{"mass_kg", 9.0}}}}}}});
    EXPECT_NEAR(c.of("heavy", "").settings.model.aircraft->mass, 9.0, 1e-12);
    EXPECT_NEAR(c.settings.model.aircraft->mass, 3.0, 1e-12);
    EXPECT_NE(test::refusalOf([&] {
                  auto j = campaign::toJson(c.settings);
                  j["model"]["aircraft"]["surfaces"][0]["stations"][0]["chord_m"] = -1.0;
                  campaign::settingsFromJson(j, "campaign.json");
              }).find("chord"),
              std::string::npos);
}

TEST(Sources, HaveOneSumForWhatSaysTheSame) {
    using nlohmann::json;
    EXPECT_EQ(shape::sumOf(json::parse(R"({"a": 0.0, "b": [1, 2]})")),
              shape::sumOf(json::parse(R"({"b": [1.0, 2], "a": -0.0})")));
    EXPECT_NE(shape::sumOf(json::parse("[1, 2]")), shape::sumOf(json::parse("[2, 1]")));
}
