// What stands on the disk: documented in full, read back as written, and readable while it is being written or after
// damage.
#include "base/files.h"

#include <gtest/gtest.h>

#include <algorithm>
#include <cmath>
#include <fstream>
#include <functional>
#include <sstream>

#include "base/errors.h"
#include "bench/models.h"
#include "campaign/settings/fields.h"
#include "campaign/settings/set_field.h"
#include "campaign/steps/grid_stage.h"
#include "campaign/store/keys.h"
#include "campaign/store/monitor.h"
#include "campaign/store/point_report.h"
#include "campaign/store/table.h"
#include "folder.h"
#include "grid/build.h"
#include "grid/cgns_file.h"
#include "grid/structured.h"
#include "readout/pressure_station.h"
#include "shape/stl_export.h"

using namespace cvane;

namespace {
std::string documentation() {
    return base::readFile(std::string(CVANE_SOURCE) + "/docs/files.md");
}

campaign::Campaign ballCampaign(const test::Folder& folder) {
    shape::writeStl(bench::sphere(0.5, 24), folder / "ball.stl", 1.0);
    return campaign::Campaign::create(folder / "ball.cvane", folder / "ball.stl", "m");
}
std::filesystem::path startedRun(const campaign::Campaign& c, const campaign::Point& p) {
    const auto run = campaign::runFolder(c, p);
    std::filesystem::create_directories(run);
    campaign::RunOrder order;
    order.key = campaign::runKey(c, p);
    order.point = p;
    campaign::writeOrder(order, run);
    return run;
}
readout::Result someResult() {
    readout::Result r;
    r.verdict = flow::Verdict::Settled;
    r.wind = {20.0, 0.03, 0.01, {}};
    r.reference = {0.8, 1.2, 1.5, Vec3(0.1, 0.2, 0.3)};
    r.coefficients = {0.1, 0.2, 0.3, 0.4, 0.5, 0.6};
    r.band = {0.001, 0.002, 0.003, 0.004, 0.005, 0.006};
    r.swing = r.band;
    r.iterations = 100;
    r.cells = 8000;
    r.coarse = readout::CoarseResult{1000, 60, flow::Verdict::Settled, {0.11, 0.22, 0.3, 0.4, 0.5, 0.6}, {}, {}};
    r.field.emplace().discs.push_back({"fan", 1, 2, 3, 4, 5});
    r.field->blocks.push_back({"core", 6, 7});
    r.parts.push_back({"wheel", {1, 2, 3}, {4, 5, 6}, {7, 8, 9}, {1, 2, 3, 4, 5, 6}});
    return r;
}
/// A grid between two walls whose lower one, z = 0, carries Cp = 1 + x and its upper one Cp = -2.
struct Walls {
    grid::Grid grid = grid::boxGrid(grid::evenLine(0, 2, 16), grid::evenLine(0, 1, 4), grid::evenLine(0, 1, 4), {4, 5});
    grid::Geometry geometry = grid::geometryOf(grid);
    readout::WallField field;
    Walls() {
        for (const auto& p : grid.patches)
            if (p.kind == grid::PatchKind::Wall)
                for (auto f = p.first; f < p.first + p.count; ++f) {
                    const Vec3 x = geometry.faceCentre[static_cast<std::size_t>(f)];
                    field.face.push_back(f);
                    field.Cp.push_back(x.z() < 0.5 ? 1.0 + x.x() : -2.0);
                    field.Cf.push_back(Vec3(0.003, 0.0, 0.004));
                    field.yPlus.push_back(30.0 + x.x());
                }
    }
};
}  // namespace

TEST(Documentation, NamesEverySettingOfACampaign) {
    campaign::Settings s;
    s.grid.finerPlaces = {{}};
    s.devices.wheels = {{}};
    s.devices.discs = {{}};
    s.devices.blocks = {{}};
    s.devices.roughParts = {{}};
    const auto text = documentation();
    const std::function<void(const nlohmann::json&, const std::string&)> look = [&](const nlohmann::json& j,
                                                                                    const std::string& where) {
        if (j.is_array()) {
            for (const auto& e : j) look(e, where);
            return;
        }
        if (!j.is_object()) return;
        for (const auto& [key, value] : j.items()) {
            // Extents of the tunnel are documented once: upstream_, downstream_ ... lengths.
            const bool extent = key.ends_with("_lengths");
            const bool known = text.find(key) != std::string::npos ||
                               (extent && text.find(key.substr(0, key.size() - 7)) != std::string::npos);
            EXPECT_TRUE(known) << where << "." << key << " is not in docs/files.md";
            look(value, where + "." + key);
        }
    };
    look(campaign::toJson(s), "campaign.json");
}

TEST(Documentation, HasTheTableOfSettingsAsTheyAre) {
    const auto text = documentation();
    const std::string begin = "fields.cpp -->\n", end = "<!-- end of settings -->";
    const auto from = text.find(begin) + begin.size(), to = text.find(end);
    ASSERT_LT(from, to);
    // Where they differ, the program's table below replaces the document's.
    EXPECT_EQ(text.substr(from, to - from), campaign::settingsInMarkdown());
}

TEST(Documentation, HasLinesThatFitAScreen) {
    const std::filesystem::path source = CVANE_SOURCE;
    std::vector<std::filesystem::path> pages{source / "README.md", source / "CHANGELOG.md"};
    for (const auto& page : std::filesystem::recursive_directory_iterator(source / "docs"))
        if (page.path().extension() == ".md") pages.push_back(page.path());
    EXPECT_GT(pages.size(), 15u);
    for (const auto& page : pages) {
        std::istringstream in(base::readFile(page));
        int number = 0;
        for (std::string line; std::getline(in, line);) {
            ++number;
            EXPECT_LE(line.size(), 170u) << page.filename() << ", line " << number;  // 160 letters, some of two bytes
        }
    }
}

TEST(Documentation, NamesEveryFieldOfAResult) {
    const auto text = documentation();
    const auto result = readout::toJson(someResult());
    for (const auto& [key, value] : result.items())
        if (key != "schema") {
            EXPECT_NE(text.find(key), std::string::npos) << key << " is not in docs/files.md";
        }
}

TEST(SetField, ReachesEverySingleValueOfEveryGroup) {
    campaign::Settings s;
    const auto all = campaign::toJson(s);
    for (const char* group : {"air", "tunnel", "grid", "flow", "reference"})
        for (const auto& [field, value] : all.at(group).items()) {
            if (!value.is_number() && !value.is_boolean() && !value.is_string()) continue;
            const std::string now = value.is_string() ? value.get<std::string>() : value.dump();
            EXPECT_NO_THROW(campaign::setField(s, std::string(group) + "." + field + "=" + now))
                << group << "." << field;
        }
    EXPECT_EQ(s, campaign::Settings{});
}

TEST(Result, ComesBackFromItsFileInEveryField) {
    const auto r = someResult();
    const auto j = readout::toJson(r);
    EXPECT_EQ(readout::toJson(readout::resultFromJson(j, "here")), j);
    auto damaged = j;
    damaged["coefficients"].erase("CD");
    EXPECT_THROW(readout::resultFromJson(damaged, "here"), base::InputError);
    damaged = j;
    damaged["parts"] = 7;
    EXPECT_THROW(readout::resultFromJson(damaged, "here"), base::InputError);
}

TEST(Result, KeepsWhatIsNotANumberAsUnknown) {
    auto r = someResult();
    r.coefficients.CD = std::nan("");
    const auto back = readout::resultFromJson(readout::toJson(r), "here");
    EXPECT_TRUE(std::isnan(back.coefficients.CD));
    EXPECT_EQ(back.coefficients.CL, 0.1);
}

TEST(Balance, CoefficientsOfTheWholeAreTheSumOfThoseOfTheParts) {
    const air::FreeStream wind{25.0, 0.1, -0.05, {}};
    const air::Reference ref{0.7, 0.9, 1.4, Vec3(0.2, 0.0, 0.1)};
    const flow::Load a{Vec3(1, 2, 3), Vec3(0.1, 0.2, 0.3), Vec3(4, 5, 6), Vec3(0.4, 0.5, 0.6)},
        b{Vec3(-2, 1, 5), Vec3(0.3, 0.1, 0.0), Vec3(1, -5, 2), Vec3(0.0, 0.1, 0.2)};
    const flow::Load sum{a.pressure + b.pressure, a.friction + b.friction, a.pressureMoment + b.pressureMoment,
                         a.frictionMoment + b.frictionMoment};
    const auto ka = readout::balanceOf("a", a, wind, ref).coefficients,
               kb = readout::balanceOf("b", b, wind, ref).coefficients,
               k = readout::balanceOf("sum", sum, wind, ref).coefficients;
    for (const auto which : air::kAllCoefficients) EXPECT_NEAR(k.*which, ka.*which + kb.*which, 1e-12);
    EXPECT_EQ(readout::balanceOf("a", a, wind, ref).force(), a.pressure + a.friction);
}

TEST(TrustBand, GrowsWithTheDifferenceOfTheGridsAndFallsWithTheirRatio) {
    auto r = someResult();
    const double wide = r.gridBand()->CD;
    r.coarse->coefficients.CD = 0.21;
    EXPECT_NEAR(r.gridBand()->CD, 0.5 * wide, 1e-12);
    r.coarse->cells = 125;  // four times as coarse
    EXPECT_NEAR(r.gridBand()->CD, 3.0 / 15.0 * std::abs(r.coefficients.CD - 0.21), 1e-12);
    EXPECT_GE(r.trust().CD, r.band.CD);
    r.coarse.reset();
    EXPECT_EQ(r.gridsOfBand(), 0);
}

TEST(PointValues, OfAConstantAreThatConstantAndNothingOffTheWall) {
    const Walls w;
    const auto at = readout::toPoints(w.grid, w.geometry, w.field.face, std::vector<double>(w.field.face.size(), 3.0));
    for (std::size_t i = 0; i < at.size(); ++i) {
        const double z = w.grid.points[i].z();
        EXPECT_NEAR(at[i], z < 1e-9 || z > 1.0 - 1e-9 ? 3.0 : 0.0, 1e-12);
    }
}

TEST(PressureStation, ReadsALinearPressureExactlyAwayFromTheEnds) {
    const Walls w;
    const auto cut = readout::cutStation(w.grid, w.geometry, w.field, 1, 0.4);
    EXPECT_NEAR(cut.chord, 2.0, 1e-12);
    int seen = 0;
    for (const auto& s : cut.samples) {
        EXPECT_NEAR(s.place.y(), 0.4, 1e-12);
        EXPECT_NEAR(s.fraction, 0.5 * s.place.x(), 1e-12);
        EXPECT_NEAR(s.Cf, 0.005, 1e-12);
        if (s.place.x() < 0.2 || s.place.x() > 1.8) continue;
        EXPECT_NEAR(s.Cp, s.place.z() < 0.5 ? 1.0 + s.place.x() : -2.0, 1e-9);
        // The air is above the lower wall: that one faces up.
        EXPECT_EQ(s.upper, s.place.z() < 0.5);
        EXPECT_EQ(s.part, s.place.z() < 0.5 ? "z-" : "z+");
        ++seen;
    }
    EXPECT_GT(seen, 20);
    const auto text = readout::toCsv(cut);
    EXPECT_EQ(static_cast<std::size_t>(std::count(text.begin(), text.end(), '\n')), cut.samples.size() + 1);
}

TEST(PressureStation, CutsAcrossEveryAxis) {
    const Walls w;
    for (const auto& [axis, position] : {std::pair{0, 1.03}, std::pair{1, 0.4}})
        EXPECT_FALSE(readout::cutStation(w.grid, w.geometry, w.field, axis, position).samples.empty()) << axis;
    EXPECT_TRUE(readout::cutStation(w.grid, w.geometry, w.field, 2, 0.4).samples.empty());  // between the walls
}

TEST(WallField, ComesBackFromItsFileToTheDigitsWritten) {
    const Walls w;
    const test::Folder folder;
    readout::writeWallField(w.field, w.geometry, folder / "wall.csv");
    const auto back = readout::readWallField(folder / "wall.csv");
    ASSERT_EQ(back.face, w.field.face);
    for (std::size_t i = 0; i < back.face.size(); ++i) {
        EXPECT_NEAR(back.Cp[i], w.field.Cp[i], 1e-5);
        EXPECT_NEAR(back.yPlus[i], w.field.yPlus[i], 1e-2);
        EXPECT_LT((back.Cf[i] - w.field.Cf[i]).norm(), 1e-6);
    }
    auto text = base::readFile(folder / "wall.csv");
    base::replaceFile(folder / "wall.csv", text.substr(0, text.size() - 12));  // cut off within its last line
    EXPECT_THROW(readout::readWallField(folder / "wall.csv"), base::InputError);
}

TEST(Monitor, IsReadWhileItsLastLineIsBeingWritten) {
    const test::Folder folder;
    std::ofstream(folder / "monitor.csv") << "iteration,CL,CD\n1,0.1,0.2\n2,0.11,0.21\n3,0.1";
    const auto m = campaign::readMonitor(folder.path());
    ASSERT_EQ(m.names.size(), 3u);
    ASSERT_EQ(m.column("CD")->size(), 2u);
    EXPECT_DOUBLE_EQ(m.column("CD")->back(), 0.21);
    EXPECT_EQ(m.column("nothing"), nullptr);
    EXPECT_TRUE(campaign::readMonitor(folder / "absent").names.empty());
}

TEST(PointReport, FollowsARunByItsLastWholeLine) {
    const test::Folder folder;
    const auto c = ballCampaign(folder);
    const auto p = campaign::pointsOf(c.settings).front();
    const auto run = startedRun(c, p);
    std::ofstream(run / "progress.jsonl") << R"({"iteration":10,"most":500,"CL":0.1,"CD":0.3,"left_s":12.0})" << '\n'
                                          << R"({"iteration":20,"most":500,"CL":0.2,"CD":0.4,"left_s":9.0})" << '\n'
                                          << R"({"iteration":30,"most":50)";
    const auto r = campaign::reportOf(c, p, {});
    EXPECT_EQ(r.state, campaign::PointState::Stopped);  // no process of it lives
    EXPECT_EQ(r.iterations, 20);
    EXPECT_DOUBLE_EQ(r.CD, 0.4);
    EXPECT_DOUBLE_EQ(r.secondsLeft, 9.0);
}

TEST(PointReport, SaysWhyTheSolverGaveUpAndSurvivesDamagedFiles) {
    const test::Folder folder;
    const auto c = ballCampaign(folder);
    const auto p = campaign::pointsOf(c.settings).front();
    const auto run = startedRun(c, p);
    std::ofstream(run / "progress.jsonl") << R"({"iteration":10,"most":500,"CL":null,"CD":0.3})" << '\n'
                                          << R"({"error":"checkpoint.bin: cannot be written"})" << '\n';
    EXPECT_EQ(campaign::reportOf(c, p, {}).message, "checkpoint.bin: cannot be written");
    for (const char* name : {"running.json", "result.json"}) base::replaceFile(run / name, "{ not json");
    EXPECT_NO_THROW(campaign::reportOf(c, p, {}));
    EXPECT_EQ(campaign::reportOf(c, p, {}).state, campaign::PointState::Stopped);
    base::replaceFile(run / "run.json", "[]");
    EXPECT_NO_THROW(campaign::reportOf(c, p, {}));
}

TEST(Table, HasTheSameNumberOfColumnsWithAndWithoutAResult) {
    std::vector<campaign::PointReport> reports(2);
    reports[0].point = {20.0, 0.0, 0.0};
    reports[1].point = {20.0, 4.0, 0.0};
    reports[1].state = campaign::PointState::Settled;
    reports[1].result = someResult();
    const auto csv = campaign::csvTable(reports);
    std::vector<std::ptrdiff_t> commas;
    for (std::size_t at = 0, end = 0; (end = csv.find('\n', at)) != std::string::npos; at = end + 1)
        commas.push_back(std::count(csv.begin() + static_cast<std::ptrdiff_t>(at),
                                    csv.begin() + static_cast<std::ptrdiff_t>(end), ','));
    ASSERT_EQ(commas.size(), 3u);
    EXPECT_EQ(commas[1], commas[0]);
    EXPECT_EQ(commas[2], commas[0]);
    EXPECT_NE(csv.find("0.200000"), std::string::npos);
    const auto json = campaign::jsonTable(reports);
    EXPECT_TRUE(json[0]["result"].is_null());
    EXPECT_EQ(json[1]["result"]["coefficients"]["CD"], 0.2);
    EXPECT_EQ(campaign::textTable(reports).find('*'), std::string::npos);
    reports[1].result->coarse.reset();
    EXPECT_NE(campaign::textTable(reports).find("* +-"),
              std::string::npos);  // a band without the grid's part is marked
}

TEST(GridFigures, CountEveryWallFaceAndEveryCellAndMayBeLost) {
    const test::Folder folder;
    auto c = ballCampaign(folder);
    c.settings.grid.cellBudget = 8000;
    c.settings.flow.coarseFirst = false;
    EXPECT_FALSE(campaign::gridFigures(c).has_value());
    const auto g = campaign::makeGrid(c, {});
    const auto f = campaign::gridFigures(c);
    ASSERT_TRUE(f.has_value());
    std::size_t cells = 0, faces = 0, walls = 0;
    for (const auto& [level, n] : f->cellsByLevel) cells += n;
    for (const auto n : f->facesByTenDegrees) faces += n;
    for (const auto& [part, n] : f->wallFacesByPart) walls += n;
    EXPECT_EQ(cells, static_cast<std::size_t>(g->cells()));
    EXPECT_EQ(faces, static_cast<std::size_t>(g->internalFaces()));
    std::size_t onWalls = 0;
    for (const auto& p : g->patches) onWalls += p.kind == grid::PatchKind::Wall ? static_cast<std::size_t>(p.count) : 0;
    EXPECT_EQ(walls, onWalls);
    EXPECT_GT(f->peakMemory_GB, 0.0);
    EXPECT_NE(campaign::gridSummary(c).find("cells"), std::string::npos);
    base::replaceFile(campaign::gridFile(c).parent_path() / "grid.json", "{ oh");
    EXPECT_FALSE(campaign::gridFigures(c).has_value());
    EXPECT_TRUE(campaign::gridLeaks(c).empty());
    EXPECT_FALSE(campaign::gridSummary(c).empty());
    EXPECT_TRUE(campaign::gridIsCurrent(c));  // the grid itself is as good as before
}

TEST(CgnsFile, ThatIsCutOffIsRefusedInWords) {
    const test::Folder folder;
    const Walls w;
    grid::writeCgns(w.grid, folder / "g.cgns");
    const auto bytes = base::readFile(folder / "g.cgns");
    base::replaceFile(folder / "g.cgns", bytes.substr(0, bytes.size() / 3));
    EXPECT_THROW(grid::readCgns(folder / "g.cgns"), base::InputError);
    base::replaceFile(folder / "g.cgns", "Dear reader, this is no grid.");
    EXPECT_THROW(grid::readCgns(folder / "g.cgns"), base::InputError);
}

TEST(Table, GoesUpInSpeedAndAngleHoweverThePointsAreRun) {
    std::vector<campaign::PointReport> reports(4);
    reports[0].point = {{20.0, 0.0, 0.0}};
    reports[1].point = {{20.0, 2.0, 0.0}};
    reports[2].point = {{20.0, -2.0, 0.0}};
    reports[3].point = {{20.0, -4.0, 0.0}, "no wheels", ""};
    const auto csv = campaign::csvTable(reports);
    const auto at = [&](const char* row) { return csv.find(row); };
    EXPECT_LT(at("20,-2,0"), at("20,0,0"));
    EXPECT_LT(at("20,0,0"), at("20,2,0"));
    EXPECT_LT(at("20,2,0"), at("20,-4,0"));  // another build comes behind
    EXPECT_NE(at(",no wheels,base"), std::string::npos);
}
