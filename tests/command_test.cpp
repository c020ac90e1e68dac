// Every command of the headless program: what it says, what it writes, and how it refuses.
#include <gtest/gtest.h>
#include <sys/wait.h>

#include <algorithm>
#include <chrono>
#include <cstdio>
#include <sstream>
#include <string>

#include "base/files.h"
#include "bench/models.h"
#include "campaign/store/campaign.h"
#include "folder.h"
#include "shape/stl_export.h"

using namespace cvane;

namespace {
struct Said {
    int code = -1;
    std::string text;  ///< output and errors together
    bool has(const std::string& words) const { return text.find(words) != std::string::npos; }
};

/// A campaign of a ball and a wheel beside it, in millimetres.
struct Shop {
    test::Folder folder;
    std::string campaign = (folder / "shop.cvane").string();
    Shop() {
        shape::Surface s = bench::sphere(0.5, 16);
        s.parts[0].name = "ball";
        const auto wheel = bench::cylinder(0.3, 0.1, 24);  // along x; turned to lie along y
        const auto first = static_cast<std::int32_t>(s.points.size());
        for (const Vec3& p : wheel.points) s.points.push_back(Vec3(p.y() + 2.0, p.x(), p.z() + 0.3));
        for (auto t : wheel.facets) {
            s.facets.push_back({t[0] + first, t[2] + first, t[1] + first});
            s.partOf.push_back(1);
        }
        s.parts.push_back({"front wheel", true});
        shape::writeStl(s, folder / "shop.stl", 1e-3);
        EXPECT_EQ(say("new " + campaign + " --model " + (folder / "shop.stl").string() + " --unit mm").code, 0);
    }
    static Said say(const std::string& arguments) {
        Said s;
        std::FILE* pipe = ::popen((std::string(CVANE_BIN) + "/cvane " + arguments + " 2>&1").c_str(), "r");
        if (!pipe) return s;
        char buffer[4096];
        for (std::size_t n = 0; (n = std::fread(buffer, 1, sizeof buffer, pipe)) > 0;) s.text.append(buffer, n);
        const int status = ::pclose(pipe);
        s.code = WIFEXITED(status) ? WEXITSTATUS(status) : -1;
        return s;
    }
    Said on(const std::string& command, const std::string& rest = {}) const {
        return say(command + " " + campaign + " " + rest);
    }
    campaign::Settings settings() const { return campaign::Campaign::open(campaign).settings; }
};
}  // namespace

TEST(CommandNew, MakesTheCampaignWithItsPartsAndNothingWhereItRefuses) {
    const Shop s;
    ASSERT_EQ(s.settings().model.parts.size(), 2u);
    EXPECT_EQ(s.settings().model.parts[1].name, "front wheel");
    EXPECT_EQ(s.settings().model.unit, "mm");
    const auto again = s.say("new " + s.campaign + " --model " + (s.folder / "shop.stl").string());
    EXPECT_EQ(again.code, 2);
    EXPECT_TRUE(again.has("exists")) << again.text;
    const auto wrong = s.say("new " + (s.folder / "b.cvane").string() + " --model " + (s.folder / "shop.stl").string() +
                             " --set grid.colour=red");
    EXPECT_EQ(wrong.code, 2);
    EXPECT_TRUE(wrong.has("no such field") && wrong.has("cell_budget")) << wrong.text;
    EXPECT_FALSE(std::filesystem::exists(s.folder / "b.cvane"));
}

TEST(CommandNew, SaysWhenTheUnitLooksWrong) {
    const Shop s;
    const auto huge = s.say("new " + (s.folder / "huge.cvane").string() + " --model " +
                            (s.folder / "shop.stl").string() + " --unit m");
    EXPECT_EQ(huge.code, 0);
    EXPECT_TRUE(huge.has("Look at") && huge.has("mm")) << huge.text;
}

TEST(CommandSet, ChangesOneFieldAndLeavesTheFileAloneWhereOneOfSeveralIsWrong) {
    const Shop s;
    EXPECT_EQ(s.on("set", "schedule.alphas_deg=0:4:2 tunnel.upstream_lengths=6").code, 0);
    EXPECT_EQ(s.settings().schedule.alphas_deg, (std::vector<double>{0, 2, 4}));
    EXPECT_DOUBLE_EQ(s.settings().tunnel.upstream, 6.0);
    const auto before = s.settings();
    const auto bad = s.on("set", "tunnel.upstream_lengths=8 tunnel.upstream_lengths=far");
    EXPECT_EQ(bad.code, 2);
    EXPECT_TRUE(bad.has("far")) << bad.text;
    EXPECT_EQ(s.settings(), before);
}

TEST(CommandCheck, MeasuresTheModelAndNamesItsParts) {
    const Shop s;
    const auto c = s.on("check");
    EXPECT_EQ(c.code, 0) << c.text;
    EXPECT_TRUE(c.has("2 parts") && c.has("front wheel")) << c.text;
    EXPECT_TRUE(c.has("clean and closed")) << c.text;
    EXPECT_TRUE(c.has("Air at 20.0 m/s")) << c.text;
    EXPECT_TRUE(c.has("none for these settings")) << c.text;
}

TEST(CommandCheck, EndsWithTwoWhereTheRunCannotWork) {
    const Shop s;
    EXPECT_EQ(s.on("set", "tunnel.ground=moving schedule.alphas_deg=3").code, 0);
    const auto c = s.on("check");
    EXPECT_EQ(c.code, 2);
    EXPECT_TRUE(c.has("Must be mended") && c.has("through the ground")) << c.text;
}

TEST(CommandParts, HidesAndShowsByName) {
    const Shop s;
    EXPECT_EQ(s.on("parts", "--hide 'front wheel'").code, 0);
    EXPECT_FALSE(s.settings().model.parts[1].inTheAir);
    EXPECT_TRUE(s.on("check").has("front wheel (hidden)"));
    EXPECT_EQ(s.on("parts", "--show 'front wheel'").code, 0);
    EXPECT_TRUE(s.settings().model.parts[1].inTheAir);
    const auto unknown = s.on("parts", "--hide wing");
    EXPECT_EQ(unknown.code, 2);
    EXPECT_TRUE(unknown.has("wing") && unknown.has("check")) << unknown.text;
}

TEST(CommandFiner, TakesBoxesBallsCylindersAndPartsAndTakesThemBack) {
    const Shop s;
    EXPECT_EQ(s.on("finer", "--box 0 0 0 1 1 1 --cell 0.05").code, 0);
    EXPECT_EQ(s.on("finer", "--ball 0 0 0 0.5 --cell 0.02").code, 0);
    EXPECT_EQ(s.on("finer", "--cylinder 0 0 0 1 0 0 0.2 --cell 0.03").code, 0);
    EXPECT_EQ(s.on("finer", "--part ball --levels 2").code, 0);
    const auto g = s.settings().grid;
    ASSERT_EQ(g.finerPlaces.size(), 3u);
    EXPECT_EQ(g.finerPlaces[1].shape, grid::FinerPlace::Shape::Ball);
    EXPECT_DOUBLE_EQ(g.finerPlaces[2].radius, 0.2);
    EXPECT_EQ(g.finerParts.at("ball"), 2);
    EXPECT_EQ(s.on("finer", "--box 0 0 0 1 1").code, 2);  // five numbers make no box
    EXPECT_EQ(s.on("finer", "--clear").code, 0);
    EXPECT_TRUE(s.settings().grid.finerPlaces.empty() && s.settings().grid.finerParts.empty());
}

TEST(CommandWheel, FindsTheAxleFromTheShapeAndSaysHowItTurns) {
    const Shop s;
    EXPECT_EQ(s.on("set", "tunnel.ground=moving").code, 0);
    EXPECT_EQ(s.on("wheel", "'front wheel'").code, 0);
    const auto c = s.on("check");
    // 20 m/s at a radius of 0.3 m: 637 rpm. The model stands on the ball, 0.5 m below the axle of a wheel of 0.3 m.
    EXPECT_TRUE(c.has("Wheel front wheel:") && c.has("rpm")) << c.text;
    EXPECT_EQ(s.on("wheel", "'front wheel' --rpm 900").code, 0);
    ASSERT_EQ(s.settings().devices.wheels.size(), 1u);  // replaced, not doubled
    EXPECT_TRUE(s.on("check").has("900 rpm"));
    EXPECT_EQ(s.on("wheel", "nobody").code, 2);
    EXPECT_EQ(s.on("wheel", "'front wheel' --remove").code, 0);
    EXPECT_TRUE(s.settings().devices.wheels.empty());
    EXPECT_EQ(s.on("wheel", "'front wheel' --remove").code, 2);
}

TEST(CommandRough, NeedsAGrain) {
    const Shop s;
    const auto none = s.on("rough", "ball");
    EXPECT_EQ(none.code, 2);
    EXPECT_TRUE(none.has("--sand-grain")) << none.text;
    EXPECT_EQ(s.on("rough", "ball --sand-grain 0.0002").code, 0);
    EXPECT_TRUE(s.on("check").has("sand grains of 0.0002 m"));
}

TEST(CommandDisc, NeedsACentreARingAndAPush) {
    const Shop s;
    EXPECT_TRUE(s.on("disc", "fan --radius 0.2 --thrust 5").has("--centre"));
    EXPECT_TRUE(s.on("disc", "fan --centre 1 0 0 --radius 0.1 --hub 0.2 --thrust 5").has("--radius above --hub"));
    EXPECT_TRUE(s.on("disc", "fan --centre 1 0 0 --radius 0.2").has("--thrust or --power"));
    EXPECT_TRUE(s.settings().devices.discs.empty());
    EXPECT_EQ(s.on("disc", "fan --centre 1 0 0 --radius 0.2 --power 50 --rpm 1800").code, 0);
    EXPECT_TRUE(s.on("check").has("Disc fan: radius 0.2 m, power 50 W"));
}

TEST(CommandPorous, NeedsABoxAndAResistance) {
    const Shop s;
    EXPECT_TRUE(s.on("porous", "core --quadratic 80").has("--from or --to"));
    EXPECT_TRUE(s.on("porous", "core --from 0 0 0 --to 0.1 0.1 0.1").has("--linear or --quadratic"));
    EXPECT_EQ(s.on("porous", "core --from 0 0 0 --to 0.1 0.1 0.1 --axis w --linear 1").code, 2);
    EXPECT_EQ(s.on("porous", "core --from 0 0 0 --to 0.1 0.2 0.3 --axis z --quadratic 80").code, 0);
    ASSERT_EQ(s.settings().devices.blocks.size(), 1u);
    EXPECT_EQ(s.settings().devices.blocks[0].axis, 2);
}

TEST(CommandTable, ListsWhatIsNotDoneYetAndWritesIt) {
    const Shop s;
    EXPECT_EQ(s.on("set", "schedule.speeds_m_s=10,20 schedule.alphas_deg=0,2").code, 0);
    const auto t = s.on("table");
    EXPECT_EQ(t.code, 0);
    EXPECT_TRUE(t.has("waiting")) << t.text;
    const auto csv = (s.folder / "t.csv").string(), json = (s.folder / "t.json").string();
    EXPECT_EQ(s.on("table", "--csv " + csv + " --json-file " + json).code, 0);
    const auto lines = base::readFile(csv);
    EXPECT_EQ(std::count(lines.begin(), lines.end(), '\n'), 5);
    // Every row has as many columns as the head, so that a spreadsheet takes it.
    std::size_t at = 0, columns = 0;
    for (std::size_t end = lines.find('\n'); end != std::string::npos; at = end + 1, end = lines.find('\n', at)) {
        const auto here = static_cast<std::size_t>(std::count(lines.begin() + static_cast<std::ptrdiff_t>(at),
                                                              lines.begin() + static_cast<std::ptrdiff_t>(end), ','));
        if (columns == 0) columns = here;
        EXPECT_EQ(here, columns) << lines.substr(at, end - at);
    }
    EXPECT_EQ(base::readJson(json).size(), 4u);
    EXPECT_EQ(s.on("table", "--csv /no/such/folder/t.csv").code, 2);
}

TEST(CommandSchedule, AddsGroupsTablesVariantsAndHeldLifts) {
    const Shop s;
    const auto count = [&] { return campaign::pointsOf(s.settings()).size(); };
    EXPECT_EQ(s.on("group", "gusts --alphas 0,2 --betas 0,5").code, 0);
    EXPECT_EQ(count(), 4u);
    EXPECT_EQ(s.on("group", "gusts --switch off").code, 0);
    EXPECT_EQ(count(), 1u);
    base::replaceFile(s.folder / "points.txt", "speed alpha\n20 3\n20 4\n");
    EXPECT_EQ(s.on("points", "--add " + (s.folder / "points.txt").string()).code, 0);
    EXPECT_EQ(count(), 3u);
    EXPECT_TRUE(s.on("vary", "model.shift_m.z 0.1 0.2").has("shift_m z 0.1"));
    EXPECT_EQ(count(), 5u);  // single points are the base's
    EXPECT_TRUE(s.on("hold", "--CL 0.2").has("CL 0.2 at 20 m/s"));
    const auto wrong = s.on("hold", "--CL 0.2 --follows speed");
    EXPECT_EQ(wrong.code, 2);
    EXPECT_TRUE(wrong.has("hardly follows")) << wrong.text;
    EXPECT_EQ(s.on("hold").code, 2);
    EXPECT_EQ(s.on("vary", "air.colour red").code, 2);
    EXPECT_EQ(s.on("group", "calm --remove").code, 2);
    base::replaceFile(s.folder / "bad.txt", "20 fast\n");
    EXPECT_TRUE(s.on("points", "--add " + (s.folder / "bad.txt").string()).has("row 1"));
    EXPECT_EQ(s.settings().schedule.single.size(), 2u);
}

TEST(CommandCut, SaysWhichNamesThereAre) {
    const Shop s;
    const auto c = s.on("cut", "v1.00_a0.00_b0.00 --at 0");
    EXPECT_EQ(c.code, 2);
    EXPECT_TRUE(c.has("no point of the schedule")) << c.text;
    EXPECT_EQ(s.on("cut", "v20.00_a0.00_b0.00 --at 0").code, 2);  // not run yet
    EXPECT_EQ(s.on("cut", "v20.00_a0.00_b0.00").code, 2);         // where?
}

TEST(CommandField, SaysWhatIsMissingBeforeItReads) {
    const Shop s;
    const char* const point = "v20.00_a0.00_b0.00";
    for (const char* command : {"probe", "slice", "streamlines", "quantities", "picture"})
        EXPECT_EQ(s.on(command, point + std::string(std::string(command) == "streamlines" ? " --from 0 0 0"
                                                    : std::string(command) == "picture"   ? " --out p.png"
                                                                                          : ""))
                      .code,
                  2)
            << command;  // not run yet
    EXPECT_TRUE(s.on("probe", std::string(point) + " --at 0 0").has("at"));
    EXPECT_EQ(s.on("picture", "--out p.png").code, 2);  // which?
}

TEST(CommandSave, SaysThatNothingRuns) {
    const Shop s;
    const auto c = s.on("save");
    EXPECT_EQ(c.code, 2);
    EXPECT_TRUE(c.has("no point is running")) << c.text;
}

TEST(Commands, RefuseAFolderThatIsNoCampaign) {
    const Shop s;
    for (const char* command : {"check", "grid", "run", "table", "save", "parts", "set"}) {
        const auto c = s.say(std::string(command) + " " + (s.folder / "nothing.cvane").string() +
                             (std::string(command) == "set" ? " grid.layers=3" : ""));
        EXPECT_EQ(c.code, 2) << command;
        EXPECT_TRUE(c.has("nothing.cvane")) << command << ": " << c.text;
    }
    base::replaceFile(std::filesystem::path(s.campaign) / "campaign.json", "{\n \"schema\": 1,\n oh\n}");
    const auto damaged = s.on("check");
    EXPECT_EQ(damaged.code, 2);
    EXPECT_TRUE(damaged.has("line 3")) << damaged.text;
}

TEST(Commands, ExplainThemselves) {
    const Shop s;
    const auto help = s.say("--help");
    EXPECT_EQ(help.code, 0);
    for (const char* command : {"new", "set", "parts", "finer", "wheel", "rough", "disc", "porous", "check", "grid",
                                "run", "save", "table", "cut"}) {
        EXPECT_TRUE(help.has(command)) << command;
        EXPECT_EQ(s.say(std::string(command) + " --help").code, 0) << command;
        EXPECT_EQ(s.say(std::string(command) + " --no-such-option").code, 2) << command;
    }
    EXPECT_EQ(s.say("").code, 2);
}

TEST(SectionCommand, GivesAPolarWithoutACampaign) {
    const test::Folder folder;
    const auto csv = (folder / "polar.csv").string(), out = (folder / "polar.json").string();
    const auto said = Shop::say("section 4412 --alpha 0:4:2 --re 1e6,2e6 --csv " + csv + " --json " + out);
    EXPECT_EQ(said.code, 0) << said.text;
    EXPECT_TRUE(said.has("zero lift"));
    const auto j = base::readJson(out);
    ASSERT_EQ(j.at("polars").size(), 2u);
    EXPECT_EQ(j["polars"][0]["points"].size(), 3u);
    EXPECT_NEAR(j["polars"][0]["points"][1]["cl"].get<double>(), 0.69, 0.04);  // thin-section slope, -4.1 deg
    const auto table = base::readFile(csv);
    EXPECT_EQ(std::count(table.begin(), table.end(), '\n'), 7);
}

TEST(SectionCommand, RefusesInOneSentence) {
    const test::Folder folder;
    base::replaceFile(folder / "one.dat", "0.1\n0.2\n0.3\n");
    for (const std::string& bad :
         {std::string("section nothing"), "section " + (folder / "one.dat").string(),
          std::string("section 4412 --re 0"), std::string("section 4412 --re 1e12"),
          std::string("section 4412 --alpha 90"), std::string("section 4412 --alpha 1:2"),
          std::string("section 4412 --mach 2"), std::string("section 4412 --method field --n 9"),
          std::string("section 4412 --n 9 --turbulence 0.1")}) {
        const auto said = Shop::say(bad);
        EXPECT_EQ(said.code, 2) << bad << ": " << said.text;
        EXPECT_LT(std::count(said.text.begin(), said.text.end(), '\n'), 3) << said.text;
    }
}

namespace {
/// A campaign without a model, with these settings.
struct SectionShop {
    test::Folder folder;
    std::string campaign = (folder / "s.cvane").string();
    explicit SectionShop(const std::string& settings) {
        EXPECT_EQ(Shop::say("new " + campaign + " --set " + settings).code, 0);
    }
};
}  // namespace

TEST(SectionsCommand, KeepsPolarsUnderKeysAndTheyComeBackWithTheSettings) {
    const SectionShop shop("sections.first_deg=0 sections.last_deg=2");
    const auto& folder = shop.folder;
    const auto& c = shop.campaign;
    ASSERT_EQ(Shop::say("sections " + c + " --add 0012").code, 0);
    const auto polars = folder / "s.cvane" / "sections" / "polars";
    const auto count = [&] {
        return std::distance(std::filesystem::directory_iterator(polars), std::filesystem::directory_iterator());
    };
    EXPECT_EQ(count(), 1);
    Shop::say("set " + c + " sections.n_critical=5");
    Shop::say("sections " + c);
    EXPECT_EQ(count(), 2);
    Shop::say("set " + c + " sections.n_critical=9");
    EXPECT_TRUE(Shop::say("sections " + c).has("3/3"));
    EXPECT_EQ(count(), 2);
    EXPECT_EQ(Shop::say("sections " + c + " --remove nobody").code, 2);
    EXPECT_EQ(Shop::say("grid " + c).code, 2);  // no model
    EXPECT_EQ(Shop::say("table " + c).code, 0);
}

TEST(SectionsCommand, SweepsOverMachNumberTransitionAndFlapAndMixesSections) {
    const SectionShop shop(
        "sections.first_deg=0 sections.last_deg=0 sections.mach=0,0.3 sections.n_critical=4,9 "
        "sections.flap_turns_deg=0,10");
    const auto& folder = shop.folder;
    const auto& c = shop.campaign;
    const auto said = Shop::say("sections " + c + " --add 0012 --add mix:0012+4412,50 --csv " +
                                (folder / "t.csv").string() + " --xlsx " + (folder / "t.xlsx").string());
    ASSERT_EQ(said.code, 0) << said.text;
    std::istringstream table(base::readFile(folder / "t.csv"));
    std::string line;
    std::getline(table, line);
    double plain = -1.0, flapped = -1.0, mixed = -1.0;
    int rows = 0;
    for (; std::getline(table, line); ++rows) {
        // A name with a comma stays one column.
        const bool mix = line.starts_with("\"mix:0012+4412,50\",panels,");
        const auto from = line.find("panels,");
        ASSERT_NE(from, std::string::npos) << line;
        std::istringstream in(line.substr(from + 7));
        double thickness = 0, camber = 0, flap = 0, re = 0, mach = 0, n = 0, alpha = 0, cl = 0;
        char comma;
        in >> thickness >> comma >> camber >> comma >> flap >> comma >> re >> comma >> mach >> comma >> n >> comma >>
            alpha >> comma >> cl;
        if (mach == 0.0 && n == 9.0 && !mix && flap == 0.0) plain = cl;
        if (mach == 0.0 && n == 9.0 && line.starts_with("\"0012, flap 10 deg\"") && flap == 10.0) flapped = cl;
        if (mach == 0.0 && n == 9.0 && mix && flap == 0.0) mixed = cl;
    }
    EXPECT_EQ(rows, 16);
    EXPECT_NEAR(plain, 0.0, 1e-3);
    EXPECT_GT(flapped, 0.3);
    EXPECT_GT(mixed, 0.15);
    EXPECT_LT(mixed, 0.35);
    EXPECT_TRUE(base::readFile(folder / "t.xlsx").starts_with("PK"));
    EXPECT_EQ(Shop::say("sections " + c + " --add mix:0012+nothing,50").code, 2);
    EXPECT_EQ(Shop::say("sections " + c + " --add mix:0012+4412,150").code, 2);
    EXPECT_EQ(Shop::say("sections " + c + " --add mix:0012").code, 2);
    // A turn that leads beyond what a flap can do is not left out in silence.
    Shop::say("set " + c + " sections.flap_turns_deg=0,45");
    auto opened = campaign::Campaign::open(c);
    opened.settings.sections.sections.front().flapAngle_deg = 20.0;
    opened.save();
    EXPECT_TRUE(Shop::say("sections " + c).has("45"));
    EXPECT_EQ(Shop::say("sections " + c).code, 2);
}

TEST(SectionsCommand, SolvesInTheFieldOnceAndKeepsWhatIsSettled) {
    const SectionShop shop(
        "sections.first_deg=0 sections.last_deg=0 sections.field_level=0 sections.field_angles_deg=0,2");
    const auto& c = shop.campaign;
    const auto first = Shop::say("sections " + c + " --add 0012 --method field");
    EXPECT_EQ(first.code, 0) << first.text;
    EXPECT_TRUE(first.has("in the field"));
    const auto began = std::chrono::steady_clock::now();
    EXPECT_EQ(Shop::say("sections " + c + " --method field").text, first.text);
    EXPECT_LT(std::chrono::steady_clock::now() - began, std::chrono::seconds(2));
    // Another angle leaves the others alone.
    Shop::say("set " + c + " sections.field_angles_deg=0,1,2");
    const auto three = Shop::say("sections " + c + " --method field");
    EXPECT_EQ(std::count(three.text.begin(), three.text.end(), '\n'),
              std::count(first.text.begin(), first.text.end(), '\n') + 1);
}

TEST(StudyCommand, RunsAPointOnSeveralGridsAndSaysWhatTheyApproach) {
    const Shop shop;
    const int own = shop.settings().grid.cellBudget;
    ASSERT_EQ(
        Shop::say(
            "set " + shop.campaign +
            " flow.model=laminar schedule.speeds_m_s=1.5 flow.coarse_first=false grid.layers=3 grid.wake_lengths=0 "
            "flow.most_iterations=200")
            .code,
        0);
    const auto csv = (shop.folder / "study.csv").string();
    const auto said = Shop::say("study " + shop.campaign + " --budgets 12000,4000,8000 --ranks 1 --csv " + csv);
    EXPECT_TRUE(said.code == 0 || said.code == 3) << said.text;
    std::istringstream rows(base::readFile(csv));
    std::string line;
    std::getline(rows, line);
    double before = 0.0;
    int count = 0;
    for (; std::getline(rows, line); ++count) {
        EXPECT_GT(std::stod(line), before);  // the coarsest first
        before = std::stod(line);
    }
    EXPECT_GE(count, 2) << said.text;
    EXPECT_TRUE(said.has("on the finest")) << said.text;
    // The campaign's own budget is as it was.
    EXPECT_EQ(shop.settings().grid.cellBudget, own);
    EXPECT_EQ(Shop::say("study " + shop.campaign + " --budgets 5000").code, 2);
    EXPECT_EQ(Shop::say("study " + shop.campaign + " --budgets 5000,10").code, 2);
}

TEST(Command, TellsProgramsOfErrorsInJson) {
    const auto errorOf = [](const Said& s) {
        EXPECT_EQ(s.code, 2) << s.text;
        const auto j = nlohmann::json::parse(s.text, nullptr, false);
        EXPECT_TRUE(j.is_object() && j.contains("error")) << s.text;
        return j.is_object() && j.contains("error") ? j["error"]["id"].get<std::string>() : std::string();
    };
    EXPECT_EQ(errorOf(Shop::say("section nosuch --json -")), "input");
    EXPECT_EQ(errorOf(Shop::say("table /no/such/folder --json")), "input");
    EXPECT_EQ(errorOf(Shop::say("table --json")), "usage");
    EXPECT_EQ(errorOf(Shop::say("run x --ranks lots --json")), "usage");
}

TEST(Command, WritesNothingOverWhatACampaignKeeps) {
    const Shop shop;
    const auto before = base::readFile(shop.campaign + "/campaign.json");
    for (const char* action : {"table", "read"}) {
        const auto s = shop.on(action, "--csv " + shop.campaign + "/campaign.json");
        EXPECT_EQ(s.code, 2);
        EXPECT_TRUE(s.has("belongs to the campaign")) << s.text;
    }
    EXPECT_EQ(Shop::say("section 2412 --csv " + shop.campaign + "/models/shop.stl").code, 2);
    EXPECT_EQ(Shop::say("section 2412 --write " + shop.campaign + "/models/new.dat").code, 2);
    EXPECT_EQ(base::readFile(shop.campaign + "/campaign.json"), before);
    EXPECT_EQ(shop.on("set", "grid.stretch=[0,2,0]").code, 0);
    EXPECT_EQ(shop.settings().grid.stretch, Vec3(0, 2, 0));
    EXPECT_TRUE(shop.on("run", "--ranks 3000").has("--oversubscribe"));
}
