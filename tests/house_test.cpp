// What a campaign keeps: settings by one table, configurations and set-ups, runs that nothing overwrites, folders of
// before.
#include <gtest/gtest.h>

#include <fstream>
#include <map>

#include "base/errors.h"
#include "base/files.h"
#include "base/text.h"
#include "bench/models.h"
#include "campaign/launch/point_run.h"
#include "campaign/plan/preflight.h"
#include "campaign/settings/fields.h"
#include "campaign/settings/set_field.h"
#include "campaign/settings/variants.h"
#include "campaign/steps/flow_case.h"
#include "campaign/steps/grid_stage.h"
#include "campaign/steps/model_stage.h"
#include "campaign/steps/reports.h"
#include "campaign/store/holdings.h"
#include "campaign/store/keys.h"
#include "campaign/store/run_claim.h"
#include "command/action.h"
#include "flow/version.h"
#include "folder.h"
#include "made_up_run.h"
#include "readout/re_reference.h"
#include "shape/stl_export.h"

using namespace cvane;
using campaign::Settings;
using nlohmann::json;
using test::ball;
using test::finished;
using test::refusalOf;

namespace {

// A thing that a setting may be besides its default, by its kind.
json anotherValue(const campaign::Field& f, const json& now) {
    switch (f.kind) {
        case campaign::Kind::Flag:
            return !now.get<bool>();
        case campaign::Kind::Word:
            return f.words[0] == now ? f.words[1] : f.words[0];
        case campaign::Kind::Text:
            return "models/other.stl";
        case campaign::Kind::Vector:
            return {1.0, 1.5, 1.25};
        case campaign::Kind::Things:
            return json::array({json::object()});
        case campaign::Kind::Numbers:
            return {std::clamp(1.5, f.limits.low, f.limits.high), std::clamp(0.6, f.limits.low, f.limits.high)};
        case campaign::Kind::Whole:
        case campaign::Kind::Number: {
            const double v = now.is_null() ? 1.0 : now.get<double>();
            for (const double next : {v + 1.0, v - 1.0, 0.5 * (v + f.limits.high), 0.5 * (v + f.limits.low)})
                if (f.limits.hold(next) && next != v)
                    return f.kind == campaign::Kind::Whole ? json(static_cast<long>(next)) : json(next);
            return now;
        }
    }
    return now;
}
}  // namespace

TEST(FieldTable, EveryRowIsReadBackAsWrittenAndRefusesWhatIsOutOfItsRange) {
    const Settings defaults;
    for (const auto& g : campaign::settingGroups())
        for (const auto& r : g.rows) {
            const std::string path = g.name + "." + r.name;
            auto j = campaign::toJson(defaults);
            j[g.name][r.name] = anotherValue(r, r.get(defaults));
            const auto read = campaign::settingsFromJson(j, "here");
            EXPECT_EQ(r.get(read), j[g.name][r.name]) << path;
            EXPECT_FALSE(read == defaults) << path << " is not kept anywhere";
            j[g.name][r.name] = json::object();
            EXPECT_NE(refusalOf([&] { campaign::settingsFromJson(j, "here"); }).find(path), std::string::npos) << path;
            if (r.kind != campaign::Kind::Number && r.kind != campaign::Kind::Whole) continue;
            for (const double beyond :
                 {std::nextafter(r.limits.low, -1e300) - 1.0, r.limits.high + std::abs(r.limits.high) + 1.0}) {
                j[g.name][r.name] = beyond;
                EXPECT_NE(refusalOf([&] { campaign::settingsFromJson(j, "here"); }).find(path), std::string::npos)
                    << path << " = " << beyond;
            }
        }
}

TEST(FieldTable, SetFileAndCheckGiveTheSameAnswer) {
    for (const char* senseless :
         {"grid.cell_budget=-4", "flow.turbulence_intensity=2", "flow.turbulence_intensity=-0.1",
          "grid.layer_growth=0.9", "schedule.speeds_m_s=0", "shown_units.length=furlong", "model.shift_m=1e15,0,0",
          "flow.least_iterations=4294967297", "tunnel.upstream_lengths=0", "flow.relaxation=2",
          "schedule.alphas_deg=0,91"}) {
        Settings s;
        EXPECT_FALSE(refusalOf([&] { campaign::setField(s, senseless); }).empty()) << senseless;
        EXPECT_EQ(s, Settings{}) << senseless;
    }
    auto j = campaign::toJson(Settings{});
    j["flow"]["turbulence_intensity"] = 2;
    const auto sentence = refusalOf([&] { campaign::settingsFromJson(j, "campaign.json"); });
    EXPECT_NE(sentence.find("0.01 is one per cent") == std::string::npos ? sentence.find("0 to 0.3") : 0,
              std::string::npos)
        << sentence;
    Settings s;
    s.flow.turbulenceIntensity = 2.0;
    EXPECT_THROW(campaign::checkRanges(s, "window"), base::InputError);
}

TEST(FieldTable, NamesTheNearestFieldWhereOneIsMisspelt) {
    auto j = campaign::toJson(Settings{});
    j["grid"]["cel_budget"] = 5;
    EXPECT_NE(refusalOf([&] { campaign::settingsFromJson(j, "campaign.json"); }).find("\"cell_budget\""),
              std::string::npos);
    j = campaign::toJson(Settings{});
    j["tunel"] = json::object();
    EXPECT_NE(refusalOf([&] { campaign::settingsFromJson(j, "campaign.json"); }).find("\"tunnel\""), std::string::npos);
    j = campaign::toJson(Settings{});
    j["devices"]["wheels"]["a"] = {{"roling", true}};
    EXPECT_NE(refusalOf([&] { campaign::settingsFromJson(j, "campaign.json"); }).find("\"rolling\""),
              std::string::npos);
    Settings s;
    EXPECT_NE(refusalOf([&] { campaign::setField(s, "grid.cell_budge=5"); }).find("cell_budget"), std::string::npos);
}

TEST(FieldTable, TakesNullForWhatIsComputed) {
    auto j = campaign::toJson(Settings{});
    EXPECT_TRUE(j["reference"]["length_m"].is_null());
    j["reference"]["moment_centre_m"] = nullptr;
    EXPECT_NO_THROW(campaign::settingsFromJson(j, "here"));
    Settings s;
    s.reference.length = 2.0;
    campaign::setField(s, "reference.length_m=null");
    EXPECT_FALSE(s.reference.length);
}

TEST(Keys, HoldWhatDecidesTheFlowAndNothingElse) {
    const test::Folder folder;
    auto c = ball(folder);
    const auto p = campaign::pointsOf(c.settings).front();
    const auto grid = campaign::gridKey(c), run = campaign::runKey(c, p);
    const Settings defaults = c.settings;
    for (const auto& g : campaign::settingGroups())
        for (const auto& r : g.rows) {
            if (r.kind == campaign::Kind::Text) continue;  // the file's name: its content counts
            c.settings = defaults;
            r.put(c.settings, anotherValue(r, r.get(defaults)));
            const std::string path = g.name + "." + r.name;
            if (g.name != "schedule" || !c.settings.schedule.speeds.empty()) {
                EXPECT_EQ(campaign::gridKey(c) != grid, r.affects == campaign::Affects::Grid) << path;
                EXPECT_EQ(campaign::runKey(c, p) != run,
                          r.affects == campaign::Affects::Grid || r.affects == campaign::Affects::Flow)
                    << path;
            }
        }
    c.settings = defaults;
    campaign::renamePart(c.settings, c.settings.model.parts[0].name, "radome");
    EXPECT_EQ(campaign::runKey(c, p), run);
    c.settings.model.parts[0].inTheAir = false;
    EXPECT_NE(campaign::gridKey(c), grid);
}

TEST(Reference, IsAppliedWhenAResultIsRead) {
    const test::Folder folder;
    auto c = ball(folder);
    const auto p = campaign::pointsOf(c.settings).front();
    finished(c, p, 0.4);
    air::Reference twice;
    twice.area = 2.0;
    const auto r = campaign::reportOf(c, p, twice);
    EXPECT_EQ(r.state, campaign::PointState::Settled);
    EXPECT_NEAR(r.result->coefficients.CD, 0.2, 1e-12);
    EXPECT_NEAR(r.result->total.force().x(), 0.4 * r.result->wind.dynamicPressure(), 1e-9);
}

TEST(Reference, MovesAMomentByTheForceTimesTheArm) {
    // Lift of 100 N a metre ahead of the new centre lifts the nose by 100 N m.
    const air::FreeStream wind{20.0, 0.0, 0.0, {}};
    const air::Reference from{1.5, 2.0, 3.0, Vec3(0, 0, 0)}, to{0.5, 4.0, 1.0, Vec3(1, 0, 0)};
    const auto c = air::coefficients(Vec3(0, 0, 100), Vec3::Zero(), wind, from);
    const auto moved = readout::onReference(c, wind, from, to);
    EXPECT_NEAR(moved.Cm, 100.0 / (wind.dynamicPressure() * 0.5 * 4.0), 1e-12);
    EXPECT_NEAR(moved.CL, 3.0 * c.CL, 1e-12);
    const auto back = readout::onReference(moved, wind, to, from);
    for (const auto m : air::kAllCoefficients) EXPECT_NEAR(back.*m, c.*m, 1e-12);
}

TEST(Variants, PatchTheirSideAndLeaveTheBaseAlone) {
    Settings s;
    s.model.parts = {{"body"}, {"wheel"}};
    s.configurations = {{"no wheels", {{"model", {{"parts", {{"wheel", {{"in_the_air", false}}}}}}}}}};
    s.setUps = {{"fixed", {{"tunnel", {{"ground", "fixed"}}}}}};
    const auto both = campaign::resolved(s, "no wheels", "fixed");
    EXPECT_FALSE(both.model.parts[1].inTheAir);
    EXPECT_EQ(both.tunnel.floor, grid::Floor::Fixed);
    EXPECT_TRUE(campaign::resolved(s, "", "fixed").model.parts[1].inTheAir);
    EXPECT_EQ(campaign::resolved(s, "", ""), s);
    EXPECT_EQ(campaign::settingsFromJson(campaign::toJson(s), "here"), s);
    s.schedule.alphas_deg = {0, 2, 4};
    EXPECT_EQ(campaign::pointsOf(s).size(), 12u);
    EXPECT_EQ(campaign::pointsOf(s)[3].name(), "v20.00_a0.00_b0.00@base@fixed");
    s.configurations[0].patch = {{"tunnel", {{"ground", "fixed"}}}};
    EXPECT_THROW(campaign::resolved(s, "no wheels", ""), base::InputError);  // not of its side
    s.configurations[0].patch = {{"model", {{"unit", "furlong"}}}};
    EXPECT_THROW(campaign::settingsFromJson(campaign::toJson(s), "here"), base::InputError);
}

TEST(Variants, TakeWhatIsChangedWhileTheyAreLookedAt) {
    Settings s;
    s.model.parts = {{"body"}, {"wheel"}};
    s.configurations = {{"no wheels", json::object()}};
    auto seen = campaign::resolved(s, "no wheels", "");
    seen.model.parts[1].inTheAir = false;
    seen.schedule.speeds = {30.0};
    s = campaign::withVariantChanged(s, "no wheels", "", seen);
    EXPECT_TRUE(s.model.parts[1].inTheAir);
    EXPECT_FALSE(campaign::resolved(s, "no wheels", "").model.parts[1].inTheAir);
    EXPECT_EQ(s.schedule.speeds, std::vector<double>{30.0});  // of no side: the base's
    // What the base changes reaches a variant that does not say otherwise, and taking a change back empties the patch.
    s.reference.typedArea = 3.0;
    EXPECT_DOUBLE_EQ(campaign::resolved(s, "no wheels", "").reference.typedArea, 3.0);
    seen = campaign::resolved(s, "no wheels", "");
    seen.model.parts[1].inTheAir = true;
    EXPECT_TRUE(campaign::withVariantChanged(s, "no wheels", "", seen).configurations[0].patch.empty());
}

TEST(Parts, KeepTheirIdWhenTheyAreRenamed) {
    Settings s;
    s.model.parts = {{"part 1"}, {"part 2"}};
    s.devices.wheels.emplace_back().part = "part 2";
    s.devices.roughParts = {{"part 2", 1e-4}};
    s.grid.finerParts = {{"part 2", 1}};
    campaign::renamePart(s, "part 2", "rear wheel");
    EXPECT_EQ(s.devices.wheels[0].part, "rear wheel");
    EXPECT_EQ(s.devices.roughParts[0].part, "rear wheel");
    EXPECT_TRUE(s.grid.finerParts.contains("rear wheel"));
    EXPECT_EQ(s.model.idOf("rear wheel"), "part 2");
    EXPECT_EQ(campaign::settingsFromJson(campaign::toJson(s), "here"), s);
    EXPECT_THROW(campaign::renamePart(s, "part 1", "rear wheel"), base::InputError);
    EXPECT_THROW(campaign::renamePart(s, "part 1", "part 2"), base::InputError);  // grids know another by it
    EXPECT_THROW(campaign::renamePart(s, "part 1", "  "), base::InputError);
}

TEST(Store, KeepsEveryRunAndBringsItBackWithItsSettings) {
    const test::Folder folder;
    auto c = ball(folder);
    const auto p = campaign::pointsOf(c.settings).front();
    const auto first = finished(c, p, 0.4), second = finished(c, p, 0.5);
    EXPECT_NE(first, second);
    EXPECT_NEAR(campaign::reportOf(c, p, {}).result->coefficients.CD, 0.5, 1e-12);
    c.settings.flow.model = flow::Model::Inviscid;
    const auto old = campaign::reportOf(c, p, {});
    EXPECT_EQ(old.state, campaign::PointState::OutOfDate);
    EXPECT_NEAR(old.result->coefficients.CD, 0.5, 1e-12);
    finished(c, p, 0.1);
    EXPECT_NEAR(campaign::reportOf(c, p, {}).result->coefficients.CD, 0.1, 1e-12);
    c.settings.flow.model = flow::Model::Sst;
    EXPECT_EQ(campaign::reportOf(c, p, {}).state, campaign::PointState::Settled);
    EXPECT_NEAR(campaign::reportOf(c, p, {}).result->coefficients.CD, 0.5, 1e-12);
    EXPECT_TRUE(std::filesystem::exists(first / "result.json"));
    const auto holdings = campaign::holdingsOf(c);
    EXPECT_EQ(std::count_if(holdings.begin(), holdings.end(),
                            [](const auto& h) { return h.use == campaign::Holding::Use::Earlier; }),
              1);
    EXPECT_EQ(std::count_if(holdings.begin(), holdings.end(),
                            [](const auto& h) { return h.use == campaign::Holding::Use::Other; }),
              1);
    for (const auto& h : holdings)
        if (h.use == campaign::Holding::Use::Earlier) campaign::remove(c, h);
    EXPECT_FALSE(std::filesystem::exists(first));
    EXPECT_NEAR(campaign::reportOf(c, p, {}).result->coefficients.CD, 0.5, 1e-12);
}

TEST(Store, ShowsAResultOfAnEarlierSolverAsSuch) {
    const test::Folder folder;
    const auto c = ball(folder);
    const auto p = campaign::pointsOf(c.settings).front();
    const auto run = finished(c, p, 0.4);
    // As an earlier solver would have left it: another key and version, the same case.
    auto order = campaign::readOrder(run);
    order.key = "0123456789abcdef";
    order.solver = 0;
    std::filesystem::rename(run, run.parent_path() / order.key);
    campaign::writeOrder(order, run.parent_path() / order.key);
    const auto r = campaign::reportOf(c, p, {});
    EXPECT_EQ(r.state, campaign::PointState::OutOfDate);
    EXPECT_NE(r.message.find("earlier solver"), std::string::npos) << r.message;
    EXPECT_NEAR(r.result->coefficients.CD, 0.4, 1e-12);
}

TEST(Store, ReadsEverythingInAFolderThatWasMoved) {
    const test::Folder folder;
    auto c = ball(folder);
    c.settings.grid.cellBudget = 4000;
    c.settings.grid.curvatureLevels = 0;
    c.save();
    campaign::makeGrid(c, {});
    const auto p = campaign::pointsOf(c.settings).front();
    finished(c, p, 0.4);
    std::filesystem::rename(c.folder(), folder / "elsewhere.cvane");
    const auto moved = campaign::Campaign::open(folder / "elsewhere.cvane");
    EXPECT_TRUE(campaign::gridIsCurrent(moved));
    const auto r = campaign::reportOf(moved, p, {});
    EXPECT_EQ(r.state, campaign::PointState::Settled);
    EXPECT_TRUE(std::filesystem::exists(campaign::readOrder(r.folder).grid));
}

namespace {
// What an order had of its case before it had one of its own.
json caseBefore3(const campaign::Settings& s) {
    const auto settings = campaign::toJson(s);
    return {
        {"tunnel", settings["tunnel"]},
        {"flow", settings["flow"]},
        {"devices", settings["devices"]},
        {"ground_layer_from_m", -0.5},
        {"moving", json::array()},
        {"wind",
         {{"speed_m_s", 14.0},
          {"alpha_deg", 3.0},
          {"beta_deg", 0.0},
          {"temperature_K", 288.15},
          {"pressure_Pa", 101325.0},
          {"density_kg_m3", 1.225},
          {"viscosity_Pa_s", 1.79e-5},
          {"sound_speed_m_s", 340.3}}},
        {"reference", {{"area_m2", 0.4}, {"length_m", 2.6}, {"span_m", 0.7}, {"moment_centre_m", {1.0, 0.0, 0.2}}}}};
}
}  // namespace

TEST(Store, ReadsTheOrderOfARunThatAnEarlierVersionWrote) {
    const test::Folder folder;
    campaign::Settings asThen;
    asThen.tunnel.floor = grid::Floor::Fixed;
    asThen.flow.model = flow::Model::KEpsilon;
    asThen.devices.roughParts = {{"hull", 2e-4}};
    auto j = caseBefore3(asThen);
    j.update({{"schema", 2}, {"key", "abc"}, {"grid", "../grids/1/grid.cgns"}, {"coarse_grid", ""}, {"neighbour", ""}});
    base::replaceJson(folder / "run.json", j);
    const auto o = campaign::readOrder(folder.path());
    EXPECT_EQ(o.flowCase.tunnel.floor, grid::Floor::Fixed);
    EXPECT_EQ(o.flowCase.settings.model, flow::Model::KEpsilon);
    EXPECT_EQ(o.flowCase.rough, asThen.devices.roughParts);
    EXPECT_EQ(o.flowCase.groundLayerFrom, -0.5);
    EXPECT_NEAR(o.flowCase.wind.alpha, 3.0 * std::acos(-1.0) / 180.0, 1e-12);
    EXPECT_EQ(o.flowCase.reference.momentCentre, Vec3(1.0, 0.0, 0.2));
    // Written again it is one of the present.
    campaign::writeOrder(o, folder.path());
    const auto again = campaign::readOrder(folder.path());
    EXPECT_EQ(again.flowCase.tunnel, o.flowCase.tunnel);
    EXPECT_EQ(again.flowCase.settings, o.flowCase.settings);
    EXPECT_EQ(again.flowCase.rough, o.flowCase.rough);
}

TEST(Claim, HoldsARunForOneProcessOfOneHost) {
    const test::Folder folder;
    campaign::claim(folder.path());
    EXPECT_TRUE(campaign::isClaimed(folder.path()));
    EXPECT_NE(refusalOf([&] { campaign::claim(folder.path()); }).find("process"), std::string::npos);
    campaign::release(folder.path());
    EXPECT_FALSE(campaign::isClaimed(folder.path()));
    // On another host only the heartbeat tells.
    base::replaceFile(folder / "running.json", R"({"host":"node-of-another-name","pid":1,"start":1})");
    campaign::beat(folder.path());
    EXPECT_NE(refusalOf([&] { campaign::claim(folder.path()); }).find("node-of-another-name"), std::string::npos);
    const auto long_ago = std::filesystem::file_time_type::clock::now() - std::chrono::minutes(30);
    for (const char* name : {"running.json", "heartbeat"}) std::filesystem::last_write_time(folder / name, long_ago);
    EXPECT_NO_THROW(campaign::claim(folder.path()));
    base::replaceFile(folder / "running.json", "not json");
    EXPECT_FALSE(campaign::isClaimed(folder.path()));
}

TEST(SchemaOne, IsBroughtToThePresentWithABackupAndItsResults) {
    const test::Folder folder;
    const auto c = ball(folder);
    const auto file = c.folder() / "campaign.json";
    // As the version before wrote it: lists of named things, one folder a point.
    const std::string part = c.settings.model.parts[0].name;
    json old = campaign::toJson(c.settings);
    old["schema"] = 1;
    old.erase("configurations");
    old.erase("set_ups");
    for (const char* name : {"also", "left_out"}) old["schedule"].erase(name);
    old["model"]["parts"] = json::array({{{"name", part}, {"in_the_air", true}}});
    old["grid"]["finer_parts"] = json::array({{{"name", part}, {"levels", 1}}});
    old["devices"] = {{"wheels", json::array()},
                      {"rough_parts", json::array({{{"part", part}, {"sand_grain_m", 1e-4}}})},
                      {"discs", json::array({{{"name", "fan"}, {"outer_radius_m", 0.2}, {"thrust_N", 3.0}}})},
                      {"porous_blocks", json::array()}};
    base::replaceFile(file, old.dump(2));
    const auto run = c.folder() / "runs" / "v20.00_a0.00_b0.00";
    std::filesystem::create_directories(run);
    campaign::RunOrder order;
    order.key = "an old key";
    order.flowCase.wind.speed = 20.0;
    campaign::writeOrder(order, run);
    auto j = base::readJson(run / "run.json");
    for (const char* since : {"checksum", "point", "solver", "case_key", "case"}) j.erase(since);
    j.update(caseBefore3({}));
    j["wind"]["speed_m_s"] = 20.0;
    j["wind"]["alpha_deg"] = 0.0;
    j["schema"] = 1;
    j["grid"] = "/where/it/was/ball.cvane/grids/0123/grid.cgns";
    j["devices"] = old["devices"];
    base::replaceFile(run / "run.json", j.dump());
    readout::Result r;
    r.verdict = flow::Verdict::Settled;
    auto result = readout::toJson(r);
    result["schema"] = 1;
    base::replaceFile(run / "result.json", result.dump());

    const auto now = campaign::Campaign::open(c.folder());
    EXPECT_EQ(base::readJson(file)["schema"], 2);
    EXPECT_EQ(base::readJson(c.folder() / "campaign.schema1.json"), old);
    EXPECT_EQ(now.settings.grid.finerParts.at(part), 1);
    EXPECT_DOUBLE_EQ(now.settings.devices.discs.at(0).thrust, 3.0);
    const auto report = campaign::reportOf(now, campaign::pointsOf(now.settings).front(), {});
    EXPECT_EQ(report.state, campaign::PointState::OutOfDate);
    EXPECT_TRUE(report.result.has_value());
    EXPECT_NE(report.message.find("earlier solver"), std::string::npos) << report.message;
    EXPECT_EQ(campaign::readOrder(run).grid, c.folder() / "grids" / "0123" / "grid.cgns");
}

TEST(DamagedFiles, AreRefusedByTheirChecksums) {
    const test::Folder folder;
    auto c = ball(folder);
    c.settings.grid.cellBudget = 4000;
    c.settings.grid.curvatureLevels = 0;
    campaign::makeGrid(c, {});
    const auto p = campaign::pointsOf(c.settings).front();
    const auto run = finished(c, p, 0.4);
    const auto flip = [](const std::filesystem::path& file, std::size_t at, char to) {
        auto bytes = base::readFile(file);
        bytes[at] = to;
        std::ofstream(file, std::ios::binary) << bytes;
    };
    // Another digit of the drag: as good a JSON file as before, and no word of it.
    const auto text = base::readFile(run / "result.json");
    flip(run / "result.json", text.find("0.4"), '3');
    EXPECT_FALSE(campaign::reportOf(c, p, {}).result.has_value());
    const auto grid = campaign::gridFile(c);
    flip(grid, base::readFile(grid).size() / 2, 'x');
    // The advice is to make it again; that does.
    EXPECT_NO_THROW(campaign::makeGrid(c, {}));
    EXPECT_TRUE(std::filesystem::exists(grid.parent_path() / "damaged-grid.cgns"));
    base::replaceFile(run / "run.json", "[1, 2");
    campaign::MeasureBook book;
    EXPECT_EQ(campaign::reportsOf(c, book).size(), 1u);  // one damaged run blocks no sweep
}

TEST(Json, ThatHoldsTooLargeANumberOrNoTextIsRefusedInWords) {
    const test::Folder folder;
    base::replaceFile(folder / "a.json", "{\"a\": 1e999}");
    EXPECT_NE(refusalOf([&] { base::readJson(folder / "a.json"); }).find("too large"), std::string::npos);
    base::replaceFile(folder / "a.json", "{\"a\": \"\xff\xfe\"}");
    EXPECT_NE(refusalOf([&] { base::readJson(folder / "a.json"); }).find("UTF-8"), std::string::npos);
    EXPECT_EQ(base::printable("a\x1b[2J\xff\xc3\xa4"), "a?[2J?\xc3\xa4");
}

TEST(Export, WritesIntoDevicesAndLinksAndLeavesThemWhatTheyAre) {
    const test::Folder folder;
    base::replaceFile(folder / "real.csv", "old");
    std::filesystem::create_symlink(folder / "real.csv", folder / "link.csv");
    base::exportFile(folder / "link.csv", "new");
    EXPECT_TRUE(std::filesystem::is_symlink(folder / "link.csv"));
    EXPECT_EQ(base::readFile(folder / "real.csv"), "new");
    EXPECT_NO_THROW(base::exportFile("/dev/null", "gone"));
    EXPECT_TRUE(std::filesystem::is_character_file("/dev/null"));
    EXPECT_THROW(base::exportFile(folder.path(), "x"), base::InputError);
}

TEST(Actions, TakeAndGiveJsonAndNameWhatTheyDoNotKnow) {
    const test::Folder folder;
    const auto c = ball(folder);
    const auto out = command::perform("check", {{"campaign", c.folder().string()}});
    EXPECT_EQ(out.value["blocked"], false);
    EXPECT_EQ(out.value["model"]["parts"].size(), 1u);
    EXPECT_NE(refusalOf([&] { command::perform("chek", json::object()); }).find("\"check\""), std::string::npos);
    EXPECT_NE(refusalOf([&] {
                  command::perform("run", {{"campaign", c.folder().string()}, {"rank", 2}});
              }).find("\"ranks\""),
              std::string::npos);
    EXPECT_FALSE(refusalOf([&] {
                     command::perform("run", {{"campaign", c.folder().string()}, {"ranks", 0}});
                 }).empty());
    EXPECT_NE(refusalOf([&] { command::perform("check", json::object()); }).find("campaign is missing"),
              std::string::npos);
    for (const auto& a : command::actions()) EXPECT_FALSE(a.help.empty()) << a.name;
    EXPECT_EQ(command::perform(
                  "configuration",
                  {{"campaign", c.folder().string()}, {"name", "small"}, {"set", {"reference.typed_area_m2=0.5"}}})
                  .code,
              0);
    EXPECT_FALSE(refusalOf([&] {
                     command::perform(
                         "configuration",
                         {{"campaign", c.folder().string()}, {"name", "wide"}, {"set", {"tunnel.sideways_lengths=9"}}});
                 }).empty());
    const auto index = command::perform("index", {{"campaign", c.folder().string()}});
    EXPECT_TRUE(index.value["runs"].empty());
}

TEST(Conditions, ChangeOneByOne) {
    campaign::Schedule s;
    s.speeds = {10, 20};
    s.alphas_deg = {0, 2};
    campaign::replaceCondition(s, {20, 2, 0}, {25, 2, 0});
    EXPECT_EQ(campaign::conditionsOf(s),
              (std::vector<campaign::Condition>{{10, 0, 0}, {10, 2, 0}, {20, 0, 0}, {25, 2, 0}}));
    EXPECT_THROW(campaign::replaceCondition(s, {25, 2, 0}, {10, 0, 0}), base::InputError);  // would merge two into one
    campaign::replaceCondition(s, {25, 2, 0}, {20, 2, 0});
    EXPECT_TRUE(s.also.empty() && s.leftOut.empty());  // back to what the lists make
    campaign::Schedule one;
    campaign::replaceCondition(one, {20, 0, 0}, {30, 0, 0});
    EXPECT_EQ(one.speeds, std::vector<double>{30.0});
}

TEST(RideHeight, IsThatOfTheWholeModelSoThatHidingAPartMovesNothing) {
    const test::Folder folder;
    shape::Surface two = bench::sphere(0.5, 12);
    const auto n = static_cast<std::int32_t>(two.points.size());
    const auto facets = two.facets;
    for (std::int32_t i = 0; i < n; ++i)
        two.points.push_back(two.points[static_cast<std::size_t>(i)] + Vec3(3, 0, -0.8));
    for (const auto& f : facets) {
        two.facets.push_back({f[0] + n, f[1] + n, f[2] + n});
        two.partOf.push_back(1);
    }
    two.parts.push_back({"low ball"});
    shape::writeStl(two, folder / "two.stl", 1.0);
    auto c = campaign::Campaign::create(folder / "two.cvane", folder / "two.stl", "m");
    c.settings.tunnel.floor = grid::Floor::Moving;
    c.settings.tunnel.rideHeight = 0.1;
    const auto ground = [&] {
        const auto m = campaign::measure(campaign::placedModel(c), false);
        return grid::tunnelBox(campaign::tunnelFor(c.settings, m), m.bounds).low.z();
    };
    const double before = ground();
    ASSERT_EQ(c.settings.model.parts.size(), 2u);
    c.settings.model.parts[c.settings.model.parts[1].name == "low ball" ? 1 : 0].inTheAir = false;
    EXPECT_NEAR(ground(), before, 1e-9);
    EXPECT_NEAR(campaign::flowCaseOf(c.settings, {{20, 0, 0}}, campaign::placedModel(c), {}).tunnel.rideHeight, 0.9,
                1e-6);
    // A configuration can have one of its own.
    c.settings.configurations = {{"raised", {{"model", {{"ride_height_m", 0.25}}}}}};
    const auto raised = c.of("raised", "");
    const auto m = campaign::measure(campaign::placedModel(raised), false);
    EXPECT_NEAR(grid::tunnelBox(campaign::tunnelFor(raised.settings, m), m.bounds).low.z(), before - 0.15, 1e-9);
    EXPECT_NE(campaign::gridKey(raised), campaign::gridKey(c));
}

TEST(Plan, IsWhatTheGridBecomes) {
    const test::Folder folder;
    auto c = ball(folder);
    c.settings.grid.cellBudget = 20000;
    c.settings.targetYPlus = 30.0;
    c.settings.tunnel.floor = grid::Floor::Moving;
    c.settings.tunnel.rideHeight = 0.05;
    const auto plan = campaign::plannedGrid(c, campaign::placedModel(c), {});
    const auto g = campaign::makeGrid(c, {});
    EXPECT_NEAR(static_cast<double>(plan.cells), static_cast<double>(g->cells()), 0.1 * g->cells());
    EXPECT_DOUBLE_EQ(plan.surfaceCell, g->surfaceCell);
    EXPECT_DOUBLE_EQ(plan.firstHeight, g->firstHeight);
    EXPECT_NE(g->notes.find(std::to_string(plan.mostLayers) + " wall layers"), std::string::npos) << g->notes;
}

TEST(FirstHeights, StayWhenTheScheduleGetsShorterAndFollowWhenItGetsFaster) {
    const test::Folder folder;
    auto c = ball(folder);
    c.settings.grid.cellBudget = 4000;
    c.settings.targetYPlus = 30.0;
    c.settings.schedule.speeds = {20.0, 40.0};
    c.save();
    auto slower = c.settings;
    slower.schedule.speeds = {20.0};
    auto next = slower;
    campaign::keepFirstHeights(c, next);
    EXPECT_EQ(next, slower) << "without a grid there is nothing to keep";
    campaign::makeGrid(c, {});
    campaign::keepFirstHeights(c, next);
    ASSERT_TRUE(next.schedule.heightsWind);
    EXPECT_DOUBLE_EQ(next.schedule.heightsWind->x(), 40.0);
    auto shorter = c;
    shorter.settings = next;
    EXPECT_TRUE(campaign::gridIsCurrent(shorter));
    EXPECT_EQ(campaign::runKey(shorter, {{20, 0, 0}}), campaign::runKey(c, {{20, 0, 0}}));
    EXPECT_EQ(campaign::settingsFromJson(campaign::toJson(next), "here"), next);
    // Shorter still, it is the same one; with the old speed back, or a faster one, heights follow the schedule again.
    auto other = next;
    other.schedule.speeds = {10.0};
    campaign::keepFirstHeights(shorter, other);
    EXPECT_EQ(other.schedule.heightsWind, next.schedule.heightsWind);
    other.schedule.speeds = {10.0, 50.0};
    campaign::keepFirstHeights(shorter, other);
    EXPECT_FALSE(other.schedule.heightsWind);
}

TEST(NearestSettled, AreTheNextPointAndOneBehindItInALineOfAngles) {
    const test::Folder folder;
    auto c = ball(folder);
    c.settings.schedule.speeds = {10.0, 20.0};
    c.settings.schedule.alphas_deg = {-2.0, 0.0, 2.0, 4.0};
    c.settings.schedule.betas_deg = {0.0, 3.0};
    c.save();
    const auto at = [](double speed, double alpha, double beta = 0.0) { return campaign::Point{{speed, alpha, beta}}; };
    std::map<std::string, std::filesystem::path> run;
    for (const double alpha : {0.0, 2.0}) {
        const auto made = finished(c, at(10.0, alpha), 0.3);
        base::replaceFile(made / "checkpoint.bin", "a flow");
        run[at(10.0, alpha).name()] = made;
    }
    finished(c, at(10.0, 4.0, 3.0), 0.3);  // without a flow to start from
    const air::Reference reference{1.0, 1.0, 1.0, Vec3::Zero()};
    using Folders = std::vector<std::filesystem::path>;
    const auto none = run[at(10.0, 0.0).name()], two = run[at(10.0, 2.0).name()];
    EXPECT_EQ(campaign::nearestSettled(c, at(10.0, 4.0), reference), (Folders{two, none}));
    EXPECT_EQ(campaign::nearestSettled(c, at(10.0, -2.0), reference), (Folders{none, two}));
    // Beside the line, and at another speed, one has to do.
    EXPECT_EQ(campaign::nearestSettled(c, at(10.0, 2.0, 3.0), reference), (Folders{two}));
    EXPECT_EQ(campaign::nearestSettled(c, at(20.0, 0.0), reference), (Folders{none}));
    // Not from far beyond what the two span.
    c.settings.schedule.alphas_deg = {-2.0, 0.0, 2.0, 6.0};
    EXPECT_EQ(campaign::nearestSettled(c, at(10.0, 6.0), reference), (Folders{two}));
}
