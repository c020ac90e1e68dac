// Which points are run: groups, single points, tables, variants by value; and what reaches a held lift.
#include <gtest/gtest.h>

#include <cmath>

#include "base/errors.h"
#include "campaign/plan/held.h"
#include "campaign/plan/written.h"
#include "campaign/settings/variants.h"
#include "campaign/steps/hold.h"

using namespace cvane;
using campaign::HeldLift;
using campaign::NextTry;
using campaign::Settings;

namespace {
Settings withVariants() {
    Settings s;
    s.configurations = {{"tall", nlohmann::json::object()}};
    s.setUps = {{"fixed", nlohmann::json::object()}};
    return s;
}

std::size_t countOf(const Settings& s, const std::string& configuration, const std::string& setUp) {
    std::size_t n = 0;
    for (const auto& p : campaign::pointsOf(s)) n += p.configuration == configuration && p.setUp == setUp;
    return n;
}

// Runs what is asked for on a curve until the value is reached; the number of runs, 0 where it was given up.
template <class Curve>
int runsToReach(const HeldLift& held, Curve&& curve, double aspectRatio, double perUnit = 1.0) {
    std::vector<campaign::Tried> tried;
    for (int run = 0; run <= campaign::kMostTries; ++run) {
        const auto next = campaign::nextTry(held, tried, aspectRatio, perUnit);
        if (next.kind == NextTry::Kind::Reached) return run;
        if (next.kind == NextTry::Kind::Cannot) return 0;
        tried.push_back({next.at, curve(next.at)});
    }
    return 0;
}
}  // namespace

TEST(Schedule, GroupsAddTheirPointsWhereTheyBelongAndOnlyWhileTheyAreOn) {
    Settings s = withVariants();
    EXPECT_EQ(campaign::pointsOf(s).size(), 4u);
    s.schedule.groups = {{"gust", true, {20.0}, {0.0, 3.0}, {0.0, 5.0}, "tall", ""}};
    EXPECT_EQ(countOf(s, "tall", ""), 4u);  // the condition of the lists is one of them
    EXPECT_EQ(countOf(s, "tall", "fixed"), 4u);
    EXPECT_EQ(countOf(s, "", ""), 1u);
    s.schedule.groups[0].configuration = "base";
    EXPECT_EQ(countOf(s, "", ""), 4u);
    EXPECT_EQ(countOf(s, "tall", ""), 1u);
    s.schedule.groups[0].on = false;
    EXPECT_EQ(campaign::pointsOf(s).size(), 4u);
    s.schedule.groups[0].setUp = "no such";
    EXPECT_THROW(campaign::pointsOf(s), base::InputError);
}

TEST(Schedule, RunsFromTheSmallestAngleOutwardsWhateverTheOriginOfAPoint) {
    Settings s;
    s.schedule.alphas_deg = {4.0, 0.0};
    s.schedule.groups = {{"more", true, {20.0}, {2.0}, {0.0}, "", ""}};
    s.schedule.single = {{{20.0, 1.0, 0.0}, "", ""}};
    std::vector<double> alphas;
    for (const auto& p : campaign::pointsOf(s)) alphas.push_back(p.condition.alpha_deg);
    EXPECT_EQ(alphas, (std::vector<double>{0.0, 1.0, 2.0, 4.0}));
}

TEST(Schedule, ATryAsksForNoOtherGridButAGroupDoes) {
    Settings s;
    s.schedule.single = {{{40.0, 0.0, 0.0}, "", ""}};
    EXPECT_EQ(campaign::fastestSpeed(s.schedule), 20.0);
    s.schedule.groups = {{"fast", true, {50.0}, {0.0}, {0.0}, "", ""}};
    EXPECT_EQ(campaign::fastestSpeed(s.schedule), 50.0);
}

TEST(Schedule, TakesWhatASpreadsheetPastes) {
    const auto points = campaign::pointsInTable(
        "speed\talpha\tbeta\tconfiguration\n20\t2\t\ttall\r\n25.5\t-1.5\t3\tbase\tfixed\n\n", "table");
    ASSERT_EQ(points.size(), 2u);
    EXPECT_EQ(points[0], (campaign::SinglePoint{{20.0, 2.0, 0.0}, "tall", ""}));
    EXPECT_EQ(points[1], (campaign::SinglePoint{{25.5, -1.5, 3.0}, "", "fixed"}));
    EXPECT_EQ(campaign::pointsInTable("30 4\n30 6", "table").size(), 2u);
    Settings s = withVariants();
    EXPECT_EQ(campaign::addPoints(s, points), 2);
    EXPECT_EQ(campaign::addPoints(s, points), 0);
    EXPECT_EQ(campaign::pointsOf(s).size(), 6u);
    EXPECT_EQ(campaign::settingsFromJson(campaign::toJson(s), "here"), s);
    for (const char* bad : {"", "head only", "20", "20, fast", "20,1,2,a,b,c", "20,1\nslow,2"})
        EXPECT_THROW(campaign::pointsInTable(bad, "table"), base::InputError) << bad;
    EXPECT_THROW(campaign::addPoints(s, {{{20.0, 1.0, 0.0}, "low", ""}}), base::InputError);
    EXPECT_THROW(campaign::addPoints(s, {{{4000.0, 1.0, 0.0}, "", ""}}), base::InputError);
}

TEST(Schedule, VariesASettingOnTheSideThatItBelongsTo) {
    Settings s;
    const auto attitudes = campaign::vary(s, "model.rotation_deg.y", {"0", "2", "4"});
    EXPECT_EQ(attitudes, (std::vector<std::string>{"rotation_deg y 2", "rotation_deg y 4"}));  // the base has the first
    campaign::vary(s, "flow.model", {"realisable k-epsilon"});
    EXPECT_EQ(campaign::pointsOf(s).size(), 6u);
    EXPECT_EQ(campaign::resolved(s, "rotation_deg y 4", "model realisable k-epsilon").model.placement.rotation_deg.y(),
              4.0);
    EXPECT_THROW(campaign::vary(s, "model.rotation_deg.y", {"4"}), base::InputError);  // there already
    EXPECT_THROW(campaign::vary(s, "schedule.alphas_deg", {"4"}), base::InputError);   // of neither side
    EXPECT_THROW(campaign::vary(s, "flow.model", {"as it comes"}), base::InputError);
}

TEST(Schedule, FollowsAVariantsNameAndForgetsWhatIsOfOneThatGoes) {
    Settings s = withVariants();
    s.schedule.single = {{{20.0, 3.0, 0.0}, "tall", "fixed"}};
    s.schedule.held.push_back({});
    s.schedule.held[0].setUp = "fixed";
    campaign::renameVariant(s, campaign::VariantKind::SetUp, "fixed", "still", "");
    EXPECT_EQ(s.schedule.single[0].setUp, "still");
    EXPECT_EQ(s.schedule.held[0].setUp, "still");
    EXPECT_THROW(campaign::renameVariant(s, campaign::VariantKind::SetUp, "fixed", "x", ""), base::InputError);
    campaign::removeVariant(s, campaign::VariantKind::Configuration, "tall", "");
    EXPECT_TRUE(s.schedule.single.empty());
    EXPECT_EQ(s.schedule.held.size(), 1u);
}

TEST(HeldLift, IsReachedInFourRunsOnCurvesThatBend) {
    HeldLift h;
    for (const double value : {-0.2, 0.1, 0.5, 0.9}) {
        h.value = value;
        // A wing that lifts less than the first guess and bends; and a car, whose lift falls far below a wing's.
        const auto wing = [](double a) { return 0.05 + 0.075 * a - 0.0008 * a * a; };
        EXPECT_LE(runsToReach(h, wing, 8.0), 4) << value;
        EXPECT_GT(runsToReach(h, wing, 8.0), 0) << value;
    }
    h.value = -0.05;
    const auto car = [](double a) { return -0.12 + 0.03 * a + 0.0005 * a * a; };
    EXPECT_GT(runsToReach(h, car, 0.7), 0);
    EXPECT_LE(runsToReach(h, car, 0.7), 4);
}

TEST(HeldLift, LetsSpeedFollowAForce) {
    HeldLift h;
    h.of = HeldLift::Of::Force;
    h.follows = HeldLift::Follows::Speed;
    h.value = 250.0;
    const auto force = [](double v) { return 0.18 * std::pow(v, 2.05); };
    EXPECT_GT(runsToReach(h, force, 6.0), 0);
    EXPECT_LE(runsToReach(h, force, 6.0), 4);
    h.value = -250.0;  // no speed turns lift around
    EXPECT_EQ(runsToReach(h, force, 6.0), 0);
}

TEST(HeldLift, SaysWhyItCannotBe) {
    HeldLift h;
    h.value = 2.5;
    const auto stalls = [](double a) { return 1.4 - 0.01 * (a - 12.0) * (a - 12.0); };
    EXPECT_EQ(runsToReach(h, stalls, 8.0), 0);
    EXPECT_EQ(runsToReach(
                  h, [](double) { return 0.2; }, 8.0),
              0);
    h.follows = HeldLift::Follows::Speed;
    const auto said = campaign::nextTry(h, {}, 8.0, 1.0);
    EXPECT_EQ(said.kind, NextTry::Kind::Cannot);
    EXPECT_NE(said.why.find("CL hardly follows"), std::string::npos);
}
