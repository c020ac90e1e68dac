#include <gtest/gtest.h>
#include <sys/stat.h>

#include <algorithm>
#include <fstream>

#include "air/plate_layer.h"
#include "base/errors.h"
#include "base/files.h"
#include "base/units.h"
#include "bench/models.h"
#include "campaign/launch/point_run.h"
#include "campaign/plan/points.h"
#include "campaign/plan/preflight.h"
#include "campaign/settings/set_field.h"
#include "campaign/settings/variants.h"
#include "campaign/steps/flow_case.h"
#include "campaign/steps/grid_stage.h"
#include "campaign/steps/model_stage.h"
#include "campaign/store/keys.h"
#include "campaign/store/outside_data.h"
#include "campaign/store/point_report.h"
#include "folder.h"
#include "grid/cgns_file.h"
#include "shape/axle.h"
#include "shape/mirror.h"
#include "shape/stl_export.h"

using namespace cvane;
using campaign::Settings;

namespace {
campaign::Campaign make(const test::Folder& folder, double radius = 0.5) {
    shape::writeStl(bench::sphere(radius, 24), folder / "ball.stl", 1.0);
    return campaign::Campaign::create(folder / "ball.cvane", folder / "ball.stl", "m");
}
std::string refusal(const nlohmann::json& j) {
    try {
        campaign::settingsFromJson(j, "campaign.json");
    } catch (const base::InputError& e) {
        return e.what();
    }
    return {};
}
}  // namespace

TEST(Settings, SurviveTheirFile) {
    Settings s;
    s.name = "a";
    s.reference.length = 0.7;
    s.reference.momentCentre = Vec3(1, 2, 3);
    s.tunnel.floor = grid::Floor::Moving;
    s.flow.model = flow::Model::Laminar;
    s.schedule.alphas_deg = {-2, 0, 2};
    s.model.parts = {{"wheel", false}};
    EXPECT_EQ(campaign::settingsFromJson(campaign::toJson(s), "x"), s);
}

TEST(Settings, RefuseNewerAndDamagedFilesNamingTheField) {
    auto j = campaign::toJson(Settings{});
    j["schema"] = 99;
    EXPECT_NE(refusal(j).find("newer version"), std::string::npos);
    j = campaign::toJson(Settings{});
    j["grid"]["cell_budget"] = "many";
    EXPECT_NE(refusal(j).find("grid.cell_budget"), std::string::npos);
    j = campaign::toJson(Settings{});
    j["tunnel"]["ground"] = "lava";
    EXPECT_NE(refusal(j).find("tunnel.ground"), std::string::npos);
    j = campaign::toJson(Settings{});
    j["schedule"]["speeds_m_s"] = {1, "two"};
    EXPECT_NE(refusal(j).find("schedule.speeds_m_s"), std::string::npos);
    EXPECT_FALSE(refusal(nlohmann::json::object()).empty());
    EXPECT_FALSE(refusal(nlohmann::json::array()).empty());
}

TEST(SetField, TakesValuesAndRefusesTheRest) {
    Settings s;
    campaign::setField(s, "schedule.alphas_deg=-2:4:2");
    EXPECT_EQ(s.schedule.alphas_deg, (std::vector<double>{-2, 0, 2, 4}));
    campaign::setField(s, "reference.length_m=0.5");
    EXPECT_EQ(s.reference.length, 0.5);
    campaign::setField(s, "reference.length_m=auto");
    EXPECT_FALSE(s.reference.length.has_value());
    campaign::setField(s, "flow.model=laminar");
    EXPECT_EQ(s.flow.model, flow::Model::Laminar);
    for (const char* bad : {"grid", "grid.nothing=1", "nothing.at=all", "grid.cell_budget=x", "grid.layers=2.5",
                            "tunnel.half_model=perhaps", "flow.model=magic", "schedule.speeds_m_s=nan"})
        EXPECT_THROW(campaign::setField(s, bad), base::InputError) << bad;
}

TEST(Settings, TakeTheNameThatTheHalfModelHadBefore) {
    auto j = campaign::toJson(Settings{});
    j["tunnel"].erase("model");
    j["tunnel"]["half_model"] = true;
    j["set_ups"] = {{{"name", "whole"}, {"patch", {{"tunnel", {{"half_model", false}}}}}}};
    const Settings s = campaign::settingsFromJson(j, "campaign.json");
    EXPECT_EQ(s.modelExtent, campaign::ModelExtent::Half);
    EXPECT_EQ(campaign::resolved(s, "", "whole", "").modelExtent, campaign::ModelExtent::Whole);
    Settings typed;
    campaign::setField(typed, "tunnel.half_model=true");
    EXPECT_EQ(typed.modelExtent, campaign::ModelExtent::Half);
}

TEST(Settings, FinerPlacesAndPartsSurviveTheFile) {
    Settings s;
    s.grid.finerPlaces = {{grid::FinerPlace::Shape::Cylinder, {1, 2, 3}, {4, 5, 6}, 0.5, 0.01},
                          {grid::FinerPlace::Shape::Box, {0, 0, 0}, {1, 1, 1}, 0.0, 0.02}};
    s.grid.finerParts = {{"wing", 2}};
    EXPECT_EQ(campaign::settingsFromJson(campaign::toJson(s), "test").grid, s.grid);
    auto j = campaign::toJson(s);
    j["grid"]["finer_places"][0]["shape"] = "cloud";
    EXPECT_NE(refusal(j).find("finer_places.shape"), std::string::npos);
    EXPECT_THROW(campaign::setField(s, "grid.finer_places=1"), base::InputError);
}

TEST(Points, RunOutwardsFromZero) {
    campaign::Schedule s;
    s.speeds = {10};
    s.alphas_deg = {-4, -2, 0, 2, 4};
    std::vector<double> order;
    for (const auto& p : campaign::conditionsOf(s)) order.push_back(p.alpha_deg);
    EXPECT_EQ(order, (std::vector<double>{0, 2, -2, 4, -4}));
    s.speeds = {0.0};
    EXPECT_THROW(campaign::conditionsOf(s), base::InputError);
    s.speeds = {std::nan("")};
    EXPECT_THROW(campaign::conditionsOf(s), base::InputError);
    s.speeds = {};
    EXPECT_THROW(campaign::conditionsOf(s), base::InputError);
}

TEST(Points, WithFineSpeedsAndAnglesHaveFoldersOfTheirOwn) {
    campaign::Schedule schedule;
    schedule.speeds = {0.0012, 0.0015, 12.0};
    schedule.alphas_deg = {0.0, 0.125, 0.13};
    std::vector<std::string> names;
    for (const auto& p : campaign::conditionsOf(schedule)) names.push_back(p.name());
    std::sort(names.begin(), names.end());
    EXPECT_EQ(std::unique(names.begin(), names.end()), names.end());
    EXPECT_EQ((campaign::Point{12.0, -2.0, 0.0}).name(), "v12.00_a-2.00_b0.00");
    EXPECT_EQ((campaign::Point{12.0, -0.0, 0.0}).name(), "v12.00_a0.00_b0.00");
}

TEST(FirstHeight, GivesTheAskedYPlusOnAFlatPlate) {
    // u_tau from the same plate law; the cell's centre is at half the height.
    const air::FreeStream w{20.0, 0, 0, {}};
    const double h = campaign::firstHeightFor(50.0, w, 1.0);
    const double cf = 0.455 / std::pow(std::log(0.06 * w.reynolds(1.0)), 2);
    EXPECT_NEAR(0.5 * h * 20.0 * std::sqrt(cf / 2) / w.air.kinematicViscosity(), 50.0, 1e-9);
}

TEST(FirstHeight, LeavesThreeCellsInTheInnerFifthOfTheLayer) {
    campaign::Settings s;
    s.targetYPlus = 30.0;
    s.schedule.speeds = {60.0};
    const auto wind = campaign::windOf(s, {60.0, 0.0, 0.0});
    // A car: y+ decides. A small body: its layer does, on a wing with long cells at a quarter of its chord too (to the
    // 1 % that 1 / 3 is above 0.25^0.8), unless it is laminar.
    EXPECT_EQ(campaign::gridSettingsOf(s, 4.0, Vec3::Ones()).firstHeight, campaign::firstHeightFor(30.0, wind, 4.0));
    const auto innerFifthAt = [&](double x) {
        return 0.2 * air::plateLayerThickness(x, 60.0, wind.air.kinematicViscosity());
    };
    const double three = 1.0 + 1.3 + 1.69;
    EXPECT_LT(campaign::gridSettingsOf(s, 0.1, Vec3::Ones()).firstHeight * three, innerFifthAt(0.1));
    EXPECT_LT(campaign::gridSettingsOf(s, 0.1, Vec3(1, 3, 1)).firstHeight * three, 1.01 * innerFifthAt(0.025));
    s.flow.model = flow::Model::Laminar;
    EXPECT_EQ(campaign::gridSettingsOf(s, 0.1, Vec3(1, 3, 1)).firstHeight, campaign::firstHeightFor(30.0, wind, 0.1));
}

TEST(Campaign, IsMadeOpenedAndRefusedInClearWords) {
    const test::Folder folder;
    const auto c = make(folder);
    EXPECT_EQ(campaign::Campaign::open(c.folder()).settings, c.settings);
    EXPECT_THROW(make(folder), base::InputError);  // exists already
    EXPECT_THROW(campaign::Campaign::open(folder / "nothing.cvane"), base::InputError);
    EXPECT_THROW(campaign::Campaign::open(folder.path()), base::InputError);
    base::replaceFile(c.folder() / "campaign.json", "{ \"schema\": 1, ");
    EXPECT_THROW(campaign::Campaign::open(c.folder()), base::InputError);
    EXPECT_THROW(campaign::Campaign::create(folder / "b.cvane", folder / "absent.stl", "m"), base::InputError);
    EXPECT_FALSE(std::filesystem::exists(folder / "b.cvane"));  // nothing half-made
}

TEST(Campaign, IsNotSavedOverAChangeThatAnotherProgramMade) {
    const test::Folder folder;
    auto first = make(folder);
    auto second = campaign::Campaign::open(first.folder());
    first.settings.air.altitude = 500.0;
    first.save();
    EXPECT_TRUE(second.changedOnDisk());
    second.settings.air.altitude = 900.0;
    EXPECT_THROW(second.save(), base::InputError);
    EXPECT_EQ(campaign::Campaign::open(first.folder()).settings.air.altitude, 500.0);
    first.settings.air.altitude = 600.0;
    EXPECT_NO_THROW(first.save());  // its own change of before is no other's
}

TEST(GridKey, FollowsWhatTheGridDependsOnAndNothingElse) {
    const test::Folder folder;
    auto c = make(folder);
    const auto key = campaign::gridKey(c);
    c.settings.schedule.alphas_deg = {0, 5};
    c.settings.flow.mostIterations = 7;
    EXPECT_EQ(campaign::gridKey(c), key);
    c.settings.grid.cellBudget += 1;
    EXPECT_NE(campaign::gridKey(c), key);
    c.settings.grid.cellBudget -= 1;
    c.settings.model.placement.rotation_deg.y() = 3;
    EXPECT_NE(campaign::gridKey(c), key);
}

TEST(PointReport, KnowsAResultThatIsOutOfDate) {
    const test::Folder folder;
    auto c = make(folder);
    const auto p = campaign::pointsOf(c.settings).front();
    const air::Reference ref;
    EXPECT_EQ(campaign::reportOf(c, p, ref).state, campaign::PointState::Waiting);
    const auto run = campaign::runFolder(c, p);
    std::filesystem::create_directories(run);
    campaign::RunOrder order;
    order.key = campaign::runKey(c, p);
    order.point = p;
    campaign::writeOrder(order, run);
    EXPECT_EQ(campaign::reportOf(c, p, ref).state, campaign::PointState::Stopped);
    readout::Result r;
    r.verdict = flow::Verdict::Settled;
    base::replaceJson(run / "result.json", readout::toJson(r));
    EXPECT_EQ(campaign::reportOf(c, p, ref).state, campaign::PointState::Settled);
    // What only changes the way to the same flow leaves it as it is.
    c.settings.flow.precision = flow::Precision::Mixed;
    c.settings.flow.relaxation = 0.8;
    EXPECT_EQ(campaign::reportOf(c, p, ref).state, campaign::PointState::Settled);
    c.settings.flow.turbulenceIntensity = 0.01;
    EXPECT_EQ(campaign::reportOf(c, p, ref).state, campaign::PointState::OutOfDate);
    c.settings.flow.turbulenceIntensity = flow::FlowSettings{}.turbulenceIntensity;
    c.settings.flow.limiter = flow::Limiter::None;
    EXPECT_EQ(campaign::reportOf(c, p, ref).state, campaign::PointState::OutOfDate);
}

TEST(PointReport, TakesAFinishedPointUpAgainWhenMoreIsAskedOfIt) {
    const test::Folder folder;
    auto c = make(folder);
    const auto p = campaign::pointsOf(c.settings).front();
    const air::Reference ref;
    const auto run = campaign::runFolder(c, p);
    std::filesystem::create_directories(run);
    campaign::RunOrder order;
    order.key = campaign::runKey(c, p);
    order.point = p;
    order.flowCase.settings = c.settings.flow;
    campaign::writeOrder(order, run);
    readout::Result r;
    r.iterations = c.settings.flow.mostIterations;
    const auto stateOf = [&](flow::Verdict v) {
        r.verdict = v;
        base::replaceJson(run / "result.json", readout::toJson(r));
        return campaign::reportOf(c, p, ref);
    };
    EXPECT_EQ(stateOf(flow::Verdict::Unsteady).state, campaign::PointState::Unsteady);
    c.settings.flow.mostIterations += 100;
    EXPECT_EQ(stateOf(flow::Verdict::Unsteady).state, campaign::PointState::Stopped);
    EXPECT_NE(stateOf(flow::Verdict::Unsteady).message.find("100 iterations more"), std::string::npos);
    EXPECT_EQ(stateOf(flow::Verdict::Settled).state, campaign::PointState::Settled);
    c.settings.flow.toleranceCD *= 2.0;  // looser: what is settled stays settled
    EXPECT_EQ(stateOf(flow::Verdict::Settled).state, campaign::PointState::Settled);
    c.settings.flow.toleranceCD /= 10.0;
    EXPECT_EQ(stateOf(flow::Verdict::Settled).state, campaign::PointState::Stopped);
    c.settings.flow.model = flow::Model::Inviscid;
    EXPECT_EQ(stateOf(flow::Verdict::Settled).state, campaign::PointState::OutOfDate);
}

TEST(GridStage, MakesTheCoarseGridBesideTheOtherAndOnlyWhenAsked) {
    const test::Folder folder;
    auto c = make(folder);
    c.settings.model.unit = "m";
    auto& g = c.settings.grid;
    g.cellBudget = 24000;
    g.curvatureLevels = 0;
    g.wakeLength = 0.0;
    c.settings.flow.coarseFirst = false;
    const auto fine = campaign::makeGrid(c, {});
    EXPECT_TRUE(campaign::gridIsCurrent(c));
    EXPECT_FALSE(std::filesystem::exists(campaign::coarseGridFile(c)));
    c.settings.flow.coarseFirst = true;
    EXPECT_FALSE(campaign::gridIsCurrent(c));
    // A cancelled coarse grid leaves the fine one as it was.
    EXPECT_THROW(campaign::makeGrid(c, [](double, std::string_view) { return false; }), base::Cancelled);
    EXPECT_TRUE(std::filesystem::exists(campaign::gridFile(c)));
    EXPECT_FALSE(campaign::gridIsCurrent(c));
    std::string said;
    const auto again = campaign::makeGrid(c, [&](double, std::string_view doing) {
        said = doing;
        return true;
    });
    EXPECT_EQ(again->cells(), fine->cells());
    EXPECT_NE(said.find("coarse grid"), std::string::npos);
    EXPECT_TRUE(campaign::gridIsCurrent(c));
    EXPECT_NEAR(grid::readCgns(campaign::coarseGridFile(c)).cells(), fine->cells() / 4, 0.1 * fine->cells());
    g.cellBudget = 10000;  // too few for a quarter to say anything
    campaign::makeGrid(c, {});
    EXPECT_TRUE(campaign::gridIsCurrent(c));
    EXPECT_FALSE(std::filesystem::exists(campaign::coarseGridFile(c)));
}

TEST(Preflight, CatchesTheUsualMistakes) {
    const test::Folder folder;
    auto c = make(folder, 500.0);  // a ball of 1 m read as 1 km
    const auto said = [&](const char* words) {
        const auto model = campaign::placedModel(c);
        const auto m = campaign::measure(model, c.settings.tunnel.halfModel);
        for (const auto& r : campaign::preflight(c, m))
            if (r.text.find(words) != std::string::npos) return true;
        return false;
    };
    EXPECT_TRUE(said("wrong unit"));
    c.settings.model.unit = "mm";
    EXPECT_FALSE(said("wrong unit"));
    EXPECT_FALSE(said("finer places alone"));
    c.settings.grid.finerPlaces = {
        {grid::FinerPlace::Shape::Box, Vec3(-1, -1, -1), Vec3(1, 1, 1), 0.0, 0.04}};  // 125,000 cells
    EXPECT_TRUE(said("about 125000 cells"));
    c.settings.grid.finerPlaces.clear();
    c.settings.tunnel.closed = true;
    c.settings.schedule.alphas_deg = {0.0, 2.0};
    EXPECT_TRUE(said("closed tunnel"));
    c.settings.tunnel.closed = false;
    EXPECT_FALSE(said("closed tunnel"));
    c.settings.schedule.alphas_deg = {0.0};
    c.settings.tunnel.above = -0.1;
    EXPECT_TRUE(said("cuts the model"));
    c.settings.tunnel.above = 5.0;
    c.settings.tunnel.sideways = c.settings.tunnel.above = c.settings.tunnel.below = 0.5;
    EXPECT_TRUE(said("blocks"));
    c.settings.tunnel = {};
    c.settings.tunnel.floor = grid::Floor::Fixed;
    c.settings.schedule.alphas_deg = {2};
    EXPECT_TRUE(said("through the ground"));
    c.settings.tunnel = {};
    c.settings.schedule.speeds = {150};
    EXPECT_FALSE(said("incompressible"));  // it is computed as compressible by itself
    c.settings.flow.compressible = flow::Compressible::Never;
    EXPECT_TRUE(said("Mach 0.44 is beyond 0.3"));
    c.settings.flow.compressible = flow::Compressible::ByMachNumber;
    c.settings.schedule.speeds = {2000};
    EXPECT_TRUE(said("constant heats"));
    c.settings.schedule.speeds = {300};
    c.settings.tunnel.closed = true;
    c.settings.tunnel.sideways = c.settings.tunnel.above = c.settings.tunnel.below = 1.0;
    EXPECT_TRUE(said("chokes"));
    c.settings.schedule.speeds = {400};
    c.settings.tunnel.sideways = c.settings.tunnel.above = c.settings.tunnel.below = 0.3;
    EXPECT_TRUE(said("the nose's wave comes back"));
    c.settings.tunnel = {};
    c.settings.schedule.speeds = {20};
    c.settings.air.gas = "sulphur hexafluoride";
    EXPECT_TRUE(said("q is 5.04 times"));
    c.settings.air.gas = "water";
    c.settings.flow.compressible = flow::Compressible::Always;
    EXPECT_TRUE(said("A liquid has one density"));
    c.settings.air.gas = "phlogiston";
    EXPECT_TRUE(said("there is no gas \"phlogiston\""));
    c.settings.air = {};
    c.settings.flow.compressible = flow::Compressible::ByMachNumber;
    c.settings.reference.areaFrom = campaign::AreaFrom::Typed;
    c.settings.reference.typedArea = 785.0;
    EXPECT_TRUE(said("reference area"));
}

TEST(Wheel, FoundFromItsShapeRollsWithTheGround) {
    // A wheel of 0.3 m radius and 0.1 m width, its axle along y, turned out by 10 degrees about z.
    shape::Surface s = bench::cylinder(0.3, 0.1, 48);  // along x
    const double turn = 80.0 * base::degree;
    for (Vec3& p : s.points)
        p = Vec3(p.x() * std::cos(turn) - p.y() * std::sin(turn), p.x() * std::sin(turn) + p.y() * std::cos(turn),
                 p.z() + 0.3) +
            Vec3(1.2, 0.7, 0.0);
    const auto axle = shape::axleOf(s, 0);
    EXPECT_LT((axle.axis - Vec3(std::cos(turn), std::sin(turn), 0.0)).norm(), 1e-6);
    EXPECT_LT((axle.centre - Vec3(1.2, 0.7, 0.3)).norm(), 1e-6);
    EXPECT_NEAR(axle.radius, 0.3, 1e-6);
    campaign::Wheel w;
    w.part = s.parts[0].name;
    grid::Tunnel t;
    t.floor = grid::Floor::Moving;
    const auto m = campaign::motionOf(w, s, t, 15.0);
    // Where it touches the ground it moves with it, but for the part that its toe angle scrubs off.
    const Vec3 touching = m.spin.cross(Vec3(1.2, 0.7, 0.0) - m.centre);
    EXPECT_NEAR(touching.norm(), 15.0, 1e-6);
    EXPECT_NEAR(touching.x(), 15.0 * std::sin(turn), 1e-6);
    w.rolling = false;
    w.rpm = 600.0;
    EXPECT_NEAR(campaign::motionOf(w, s, t, 15.0).spin.norm(), 20.0 * std::acos(-1.0), 1e-9);
    w.part = "nobody";
    EXPECT_THROW(campaign::motionOf(w, s, t, 15.0), base::InputError);
}

TEST(Devices, GoThroughTheFileUnchanged) {
    campaign::Settings s;
    s.devices.wheels = {{"front", true, 0.0, {}, {}}, {"rear", false, 300.0, Vec3(0, 1, 0), Vec3(1, 2, 3)}};
    s.devices.roughParts = {{"body", 1e-4}};
    s.devices.discs = {{"fan", Vec3(1, 0, 0.5), Vec3(1, 0, 0.1), 0.05, 0.3, 12.0, 0.0, 2400.0}};
    s.devices.blocks = {{"core", Vec3(0, 0, 0), Vec3(0.1, 0.4, 0.3), 0, 1e6, 150.0, 20.0}};
    EXPECT_EQ(campaign::settingsFromJson(campaign::toJson(s), "test"), s);
}

TEST(Devices, AskForCellsWhereTheyAre) {
    campaign::Settings s;
    const auto before = campaign::gridSettingsOf(s, 1.0, Vec3::Ones()).finerPlaces.size();
    s.devices.discs = {{"fan", Vec3(1, 0, 0.5), Vec3(1, 0, 0), 0.05, 0.3, 12.0, 0.0, 0.0}};
    const auto g = campaign::gridSettingsOf(s, 1.0, Vec3::Ones());
    ASSERT_EQ(g.finerPlaces.size(), before + 1);
    EXPECT_LT(g.finerPlaces.back().cell, 0.1);
}

// Tried as a new user would: a whole wing's file, half model switched on. Its area was doubled and its coefficients
// halved.
TEST(HalfModelOfAWholeSurface, HasTheAreasOfTheWhole) {
    const auto body = bench::ellipsoid({1.0, 0.8, 0.6}, 60);
    const auto whole = campaign::measure(body, false), half = campaign::measure(body, true);
    EXPECT_NEAR(half.frontal, whole.frontal, 2e-3 * whole.frontal);
    EXPECT_NEAR(half.planform, whole.planform, 2e-3 * whole.planform);
    EXPECT_NEAR(half.side, whole.side, 2e-3 * whole.side);
    EXPECT_NEAR(campaign::resolveReference({}, half, true).span, campaign::resolveReference({}, whole, false).span,
                1e-9);
    EXPECT_FALSE(half.leavesAnotherHalf);
}

// Its other half may be left out without a word only where it is the same.
TEST(HalfModelOfAWholeSurface, IsToldFromOneWhoseOtherHalfIsAnother) {
    auto body = bench::ellipsoid({1.0, 0.8, 0.6}, 60);
    EXPECT_TRUE(shape::isMirrorImage(body, 2e-3));
    auto shifted = body, dented = body;
    for (Vec3& p : shifted.points) p.y() += 0.01;
    for (Vec3& p : dented.points)
        if (p.y() < -0.3) p.y() += 0.1 * (-p.y() - 0.3);
    for (const auto* other : {&shifted, &dented}) {
        EXPECT_FALSE(shape::isMirrorImage(*other, 2e-3));
        EXPECT_TRUE(campaign::measure(*other, true).leavesAnotherHalf);
        EXPECT_FALSE(campaign::measure(*other, false).leavesAnotherHalf);
    }
}

TEST(HalfModelOfAWholeSurface, LeavesOutWhatTurnsOnThePortSide) {
    shape::Surface s;
    shape::addSphere(s, "port wheel", Vec3(0.0, -1.0, 0.0), 0.2, 20);
    shape::addSphere(s, "starboard wheel", Vec3(0.0, 1.0, 0.0), 0.2, 20);
    campaign::Settings settings;
    settings.tunnel.halfModel = true;
    for (const char* name : {"port wheel", "starboard wheel"}) {
        settings.devices.wheels.push_back({name, true, 0.0, Vec3(0.0, 1.0, 0.0), {}});
        settings.devices.roughParts.push_back({name, 1e-4});
    }
    const auto c = campaign::flowCaseOf(settings, {10.0, 0.0, 0.0}, s, {});
    ASSERT_EQ(c.moving.size(), 1u);
    EXPECT_EQ(c.moving[0].part, "starboard wheel");
    ASSERT_EQ(c.rough.size(), 1u);
    EXPECT_EQ(c.rough[0].part, "starboard wheel");
}

TEST(GroundLayer, BeginsWhereItIsAskedFor) {
    shape::Surface s = bench::plainBox();
    campaign::Settings settings;
    settings.tunnel.floor = grid::Floor::Fixed;
    EXPECT_FALSE(campaign::flowCaseOf(settings, {10.0, 0.0, 0.0}, s, {}).groundLayerFrom.has_value());
    const double fromInlet = campaign::groundLayerOf(settings, 1.0);
    settings.tunnel.groundLayer = grid::LayerFrom::Ahead;
    settings.tunnel.groundLayerAhead = 0.5;
    EXPECT_NEAR(campaign::flowCaseOf(settings, {10.0, 0.0, 0.0}, s, {}).groundLayerFrom.value(), -0.5, 1e-12);
    EXPECT_LT(campaign::groundLayerOf(settings, 1.0), 0.3 * fromInlet);
    settings.tunnel.groundLayer = grid::LayerFrom::Model;
    EXPECT_NEAR(campaign::flowCaseOf(settings, {10.0, 0.0, 0.0}, s, {}).groundLayerFrom.value(), 0.0, 1e-12);
    const auto again = campaign::settingsFromJson(campaign::toJson(settings), "here");
    EXPECT_EQ(again.tunnel, settings.tunnel);
}

TEST(FilledGap, ForbidsTheRunUntilItIsOpenedOrLeftSo) {
    const test::Folder folder;
    shape::writeStl(bench::plainBox(), folder / "box.stl", 1.0);
    auto c = campaign::Campaign::create(folder / "box.cvane", folder / "box.stl", "m");
    c.settings.tunnel.floor = grid::Floor::Moving;
    c.settings.tunnel.rideHeight = 0.02;
    c.settings.grid.cellBudget = 15000;
    campaign::makeGrid(c, {});
    const auto blocking = [&] {
        std::vector<campaign::Remark> out;
        for (const auto& r : campaign::preflight(c, campaign::measure(campaign::placedModel(c), false)))
            if (r.blocks) out.push_back(r);
        return out;
    };
    const auto before = blocking();
    ASSERT_EQ(before.size(), 1u);
    EXPECT_NE(before[0].text.find("0.02 m wide"), std::string::npos) << before[0].text;
    ASSERT_EQ(before[0].mends.size(), 2u);
    EXPECT_THROW(campaign::PointRun::start(c, campaign::pointsOf(c.settings)[0], {}, 1), base::InputError);
    auto opened = c.settings;
    campaign::setField(opened, before[0].mends[0].assignment);
    EXPECT_GT(opened.grid.cellBudget, 60000);
    EXPECT_NE(before[0].mends[0].assignment.find("cell_budget"), std::string::npos);
    EXPECT_EQ(before[0].text.find("cells more"), std::string::npos) << "one number: the budget that opens it";
    campaign::setField(c.settings, before[0].mends[1].assignment);
    EXPECT_TRUE(blocking().empty());
    // Of that gap alone: one elsewhere is told as before.
    auto elsewhere = c.settings.gapsLeftFilled;
    ASSERT_TRUE(elsewhere);
    for (std::size_t i = 0; i < elsewhere->size(); i += 3) (*elsewhere)[i] += 5.0;
    std::swap(c.settings.gapsLeftFilled, elsewhere);
    EXPECT_EQ(blocking().size(), 1u);
    std::swap(c.settings.gapsLeftFilled, elsewhere);
    EXPECT_TRUE(campaign::gridIsCurrent(c));  // leaving it filled needs no new grid
}

TEST(OutsideData, IsReadInAnyUsualFormKeptOnceAndRefusedInWords) {
    const test::Folder folder;
    const auto write = [&](const char* name, const char* text) {
        base::replaceFile(folder / name, text);
        return folder / name;
    };
    const auto a =
        campaign::readOutsideData(write("a.csv", "# measured\nalpha_deg,CL,C (drag)\r\n0,0.1,0.02\r\n4, 0.5 ,0.03\n"));
    ASSERT_EQ(a.columns.size(), 3u);
    EXPECT_EQ(a.columns[0].name, "alpha");
    EXPECT_EQ(a.columns[0].unit, "deg");
    EXPECT_EQ(a.columns[2].unit, "drag");
    EXPECT_EQ(a.columnOf({"cl"}), 1);
    EXPECT_EQ(a.columnOf({"Cm"}), -1);
    EXPECT_EQ(a.columns[1].values, (std::vector<double>{0.1, 0.5}));
    EXPECT_EQ(campaign::readOutsideData(write("b.txt", "x y\n0  1\n1   2\n")).columns[1].values[1], 2.0);
    EXPECT_EQ(campaign::readOutsideData(write("c.dat", "x;y\n0;1\n1;2\n")).columns[0].values[1], 1.0);
    const campaign::OutsideData::Column speeds{"V", "km/h", {36.0}}, angles{"alpha", "rad", {std::acos(-1.0)}};
    EXPECT_NEAR(speeds.in("m/s")[0], 10.0, 1e-12);
    EXPECT_NEAR(angles.in("deg")[0], 180.0, 1e-12);
    EXPECT_EQ(speeds.in("N")[0], 36.0);  // of another kind: as it stands
    const auto kept = campaign::keepOutsideData(folder / "c.cvane", folder / "a.csv");
    EXPECT_EQ(campaign::keepOutsideData(folder / "c.cvane", folder / "a.csv"), kept);
    write("a.csv", "1,2\n");
    EXPECT_NE(campaign::keepOutsideData(folder / "c.cvane", folder / "a.csv"), kept);
    EXPECT_EQ(campaign::outsideDataOf(folder / "c.cvane").size(), 2u);
    for (const char* bad : {"", "only words here\n", "1\n2\n", "1,2\n3\n", "1,2\nfour,5\n"})
        EXPECT_THROW(campaign::readOutsideData(write("bad.csv", bad)), base::InputError) << bad;
    EXPECT_THROW(campaign::readOutsideData(folder / "none.csv"), base::InputError);
}
