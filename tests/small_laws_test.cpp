// What stands at the bottom of other things and is easily taken for granted: laws of one formula, patches, sums, lines.
#include <gtest/gtest.h>

#include <cmath>
#include <filesystem>
#include <random>

#include "air/standard_atmosphere.h"
#include "base/errors.h"
#include "base/files.h"
#include "base/text.h"
#include "campaign/launch/batch.h"
#include "campaign/settings/difference.h"
#include "campaign/settings/field.h"
#include "campaign/settings/variants.h"
#include "campaign/steps/reports.h"
#include "campaign/steps/solve_result.h"
#include "flow/one_equation_law.h"
#include "flow/wall_law.h"
#include "folder.h"
#include "readout/quantities.h"
#include "section/coupled/dense.h"
#include "section/coupled/point.h"
#include "section/layer/closure.h"

using namespace cvane;
using nlohmann::json;

TEST(Viscosity, OfAirIsThatOfTheStandardAtmospheresTable) {
    // U.S. Standard Atmosphere 1976, table: sea level and the lower stratosphere.
    EXPECT_NEAR(air::dynamicViscosity(288.15), 1.7894e-5, 1e-9);
    EXPECT_NEAR(air::dynamicViscosity(216.65), 1.4216e-5, 1e-9);
}

TEST(WallLaw, SlopeIsThatOfItsProfile) {
    for (const double y : {0.1, 1.0, 5.0, 11.0, 30.0, 200.0, 3000.0}) {
        const double h = 1e-4 * y;
        const double slope = (flow::speedInWallUnits(y + h) - flow::speedInWallUnits(y - h)) / (2.0 * h);
        EXPECT_NEAR(flow::wallLawSlope(flow::speedInWallUnits(y)), slope, 1e-4 * slope) << y;
    }
}

TEST(OneEquationLaw, SlopeIsThatOfItsProfileOnSmoothAndRoughWalls) {
    // The speed at which the friction velocity is 1, by halving.
    const auto speed = [](double y, double ks) {
        double low = 0.0, high = 100.0;
        for (int i = 0; i < 100; ++i) {
            const double middle = 0.5 * (low + high);
            (flow::oneEquationFrictionVelocity(middle, y, 1.0, ks) < 1.0 ? low : high) = middle;
        }
        return 0.5 * (low + high);
    };
    for (const double ks : {0.0, 30.0})
        for (const double y : {2.0, 8.0, 40.0, 500.0}) {
            const double h = 0.02 * y, slope = (speed(y + h, ks) - speed(y - h, ks)) / (2.0 * h);
            EXPECT_NEAR(flow::oneEquationSlope(y, ks), slope, 0.01 * slope) << y << " " << ks;
        }
}

TEST(Compressibility, OfALayersEdgeLeavesTheWindItselfAlone) {
    const section::LayerAir still{1e6, 0.0}, fast{1e6, 0.5};
    EXPECT_DOUBLE_EQ(section::edgeSpeed(1.7, still), 1.7);
    EXPECT_NEAR(section::edgeSpeed(1.0, fast), 1.0, 1e-15);
    EXPECT_GT(section::edgeSpeed(1.4, fast), 1.4);
    EXPECT_LT(section::edgeSpeed(0.6, fast), 0.6);
    EXPECT_NEAR(section::edgeMachSquared(1.0, fast), 0.25, 1e-15);
    EXPECT_NEAR(section::momentumReynolds(1e-3, 1.0, fast), 1e3, 1e-9);
    EXPECT_FALSE(section::sonicCp(still).has_value());
    // 2 / (1.4 M^2) [((2 + 0.4 M^2) / 2.4)^3.5 - 1], isentropic flow.
    EXPECT_NEAR(*section::sonicCp(fast), 2.0 / 0.35 * (std::pow(2.1 / 2.4, 3.5) - 1.0), 1e-3);
}

TEST(DenseSystem, IsSolvedToRoundingAndASingularOneIsSeen) {
    std::mt19937 random(7);
    std::uniform_real_distribution<double> any(-1.0, 1.0);
    const Eigen::Index n = 40;
    section::RowMatrix A(n, n);
    Eigen::VectorXd x(n);
    for (Eigen::Index i = 0; i < n; ++i) {
        x[i] = any(random);
        for (Eigen::Index j = 0; j < n; ++j) A(i, j) = any(random);
    }
    const Eigen::VectorXd b = A * x;
    auto factors = A;
    EXPECT_LT((section::solveDense(factors, b) - x).norm(), 1e-10 * x.norm());
    A.row(3).setZero();
    EXPECT_FALSE(section::solveDense(A, b).allFinite());
}

TEST(MergePatch, LeadsFromOneValueToAnotherAndIsTheSmallest) {
    const json from = {{"a", 1}, {"b", {{"c", 2}, {"d", {1, 2}}}}, {"gone", true}};
    const json to = {{"a", 1}, {"b", {{"c", 3}, {"d", {1, 2}}}}, {"new", "x"}};
    const json patch = campaign::mergePatchBetween(from, to);
    EXPECT_EQ(patch, (json{{"b", {{"c", 3}}}, {"gone", nullptr}, {"new", "x"}}));
    json there = from;
    there.merge_patch(patch);
    EXPECT_EQ(there, to);
    EXPECT_TRUE(campaign::mergePatchBetween(from, from).empty());
}

TEST(DifferingSettings, NameWhatTwoPointsDoNotShare) {
    campaign::Settings one, other;
    EXPECT_TRUE(campaign::differingSettings(one, other).empty());
    other.grid.cellBudget = one.grid.cellBudget + 1000;
    other.flow.model = flow::Model::SpalartAllmaras;
    other.schedule.speeds = {77.0};  // which points there are is no difference of theirs
    const auto found = campaign::differingSettings(one, other);
    ASSERT_EQ(found.size(), 2u);
    for (const auto& d : found) {
        EXPECT_TRUE(d.path == "grid.cell_budget" || d.path == "flow.model") << d.path;
        EXPECT_NE(d.first, d.other);
    }
}

TEST(NearestName, IsFoundForASlipOfTheHandAndNotForAnotherWord) {
    const std::vector<std::string> known{"cell_budget", "layers", "layer_growth"};
    EXPECT_EQ(campaign::nearestName("cell_buget", known), "cell_budget");
    EXPECT_EQ(campaign::nearestName("layer", known), "layers");
    EXPECT_EQ(campaign::nearestName("colour_of_the_wind", known), "");
    EXPECT_EQ(campaign::nearestName("x", {}), "");
}

TEST(CheckedJson, RefusesAChangedByteAndAMissingChecksum) {
    const test::Folder folder;
    const auto file = folder / "a.json";
    base::replaceJson(file, {{"schema", 2}, {"CD", 0.3}});
    EXPECT_EQ(base::readCheckedJson(file, 2), (json{{"schema", 2}, {"CD", 0.3}}));
    auto text = base::readFile(file);
    text[text.find("0.3") + 2] = '4';
    base::replaceFile(file, text);
    EXPECT_THROW(base::readCheckedJson(file, 2), base::InputError);
    base::replaceFile(file, R"({"schema": 2, "CD": 0.3})");
    EXPECT_THROW(base::readCheckedJson(file, 2), base::InputError);
    base::replaceFile(file, R"({"schema": 1, "CD": 0.3})");  // of a time before there were any
    EXPECT_NO_THROW(base::readCheckedJson(file, 2));
    const auto other = folder / "flow.cgns";
    base::replaceFile(other, "something large");
    EXPECT_NO_THROW(base::checkSum(other, ""));
    base::noteSum(other);
    EXPECT_NO_THROW(base::checkSum(other, ""));
    base::replaceFile(other, "something larve");
    EXPECT_THROW(base::checkSum(other, "Make it again."), base::InputError);
}

TEST(ActionLine, PassesThroughWhereTheForceIsAppliedWhateverTheMomentCentre) {
    const Vec3 at(2.0, 1.0, 0.0), force(1.0, 0.0, 10.0);
    for (const Vec3& about : {Vec3(0.0, 0.0, 0.0), Vec3(-3.0, 0.5, 0.7)}) {
        const auto line = readout::actionLine(force, (at - about).cross(force), about);
        ASSERT_TRUE(line.has_value());
        const auto on = readout::crossing(*line, Vec3::Zero(), Vec3::UnitZ());
        ASSERT_TRUE(on.has_value());
        EXPECT_LT((*on - at).norm(), 1e-12);
        EXPECT_FALSE(readout::crossing(*line, Vec3::Zero(), force.cross(Vec3::UnitY()).normalized()).has_value());
    }
    EXPECT_FALSE(readout::actionLine(Vec3::Zero(), Vec3::UnitX(), Vec3::Zero()).has_value());
}

TEST(Outcome, AtRestIsTheLastValueAndOtherwiseTheMeanOfTheWindow) {
    std::vector<air::Coefficients> history(10);
    for (std::size_t i = 0; i < history.size(); ++i) history[i].CD = static_cast<double>(i);
    EXPECT_DOUBLE_EQ(campaign::outcomeOf(history, 4, true).CD, 9.0);
    EXPECT_DOUBLE_EQ(campaign::outcomeOf(history, 4, false).CD, 7.5);
}

TEST(TimeForeseen, GoesByThePointsOfTheSameBuildThatAreDone) {
    std::vector<campaign::PointReport> points(6);
    const auto done = [&](std::size_t i, const std::string& build, double seconds) {
        points[i].point.configuration = build;
        points[i].state = campaign::PointState::Settled;
        points[i].result.emplace().seconds = seconds;
    };
    EXPECT_FALSE(campaign::secondsForeseen(points).has_value());  // nothing is done yet
    done(0, "", 100.0), done(1, "", 110.0), done(2, "", 900.0), done(3, "with tail", 50.0);
    points[4].point.configuration = "with tail";
    points[5].point.configuration = "new";  // none of its own: by the median of all
    const double all = *campaign::secondsForeseen(points);
    EXPECT_GE(all, 50.0 + 100.0);
    EXPECT_LE(all, 50.0 + 110.0);
}

TEST(Wrapped, BreaksAtBlanksAndLosesNoWord) {
    const std::string words = "one two three four five six seven";
    const auto lines = base::wrapped(words, 10, "  ");
    EXPECT_EQ(lines, "one two\n  three\n  four\n  five six\n  seven");
    EXPECT_EQ(base::wrapped("averyveryverylongword x", 5, ""), "averyveryverylongword\nx");
    EXPECT_EQ(base::wrapped("", 5, ""), "");
}

TEST(BatchScripts, AskForTheNodesThatAPointSpansAndForTheCoresThatTheGridUses) {
    campaign::PointReport waiting;
    waiting.point.condition = {12.0, 0.0, 0.0};
    campaign::BatchOptions o;
    o.scheduler = campaign::Scheduler::Pbs;
    o.ranks = 80;
    o.program = "cvane";
    auto scripts = campaign::batchScripts({waiting}, o);
    EXPECT_NE(scripts["points.sh"].find("select=1:ncpus=80:mpiprocs=80\n"), std::string::npos) << scripts["points.sh"];
    o.coresOfNode = 32;
    scripts = campaign::batchScripts({waiting}, o);
    EXPECT_NE(scripts["points.sh"].find("select=2:ncpus=32:mpiprocs=32+1:ncpus=16:mpiprocs=16\n"), std::string::npos)
        << scripts["points.sh"];
    // The grid is made by one process on one node.
    EXPECT_NE(scripts["grids.sh"].find("select=1:ncpus=32:mpiprocs=1\n"), std::string::npos) << scripts["grids.sh"];
    EXPECT_NE(scripts["grids.sh"].find("OMP_NUM_THREADS=32"), std::string::npos);
    o.scheduler = campaign::Scheduler::Slurm;
    scripts = campaign::batchScripts({waiting}, o);
    EXPECT_NE(scripts["points.sh"].find("--ntasks=80\n"), std::string::npos);
    EXPECT_NE(scripts["grids.sh"].find("--ntasks=1\n#SBATCH --cpus-per-task=32\n"), std::string::npos);
}
