// What a campaign says of its runs: by what a verdict was asked, which run is shown, what is whole.
#include <gtest/gtest.h>
#include <sys/stat.h>
#include <sys/wait.h>
#include <unistd.h>

#include <algorithm>
#include <chrono>
#include <random>

#include "base/child_process.h"
#include "base/errors.h"
#include "campaign/plan/preflight.h"
#include "campaign/settings/set_field.h"
#include "campaign/steps/model_stage.h"
#include "campaign/steps/solver_process.h"
#include "campaign/store/holdings.h"
#include "campaign/store/monitor.h"
#include "campaign/store/own_files.h"
#include "campaign/store/point_report.h"
#include "campaign/store/run_standing.h"
#include "flow/checkpoint.h"
#include "grid/build.h"
#include "made_up_run.h"
#include "readout/quantities.h"
#include "section/outline/coordinates.h"
#include "section/polar/table.h"
#include "section/potential/panelling.h"
#include "shape/health.h"
#include "shape/import.h"

using namespace cvane;
using campaign::PointState;
using test::refusalOf;

namespace {
const air::Reference kReference;

campaign::Point only(const campaign::Campaign& c) {
    return campaign::pointsOf(c.settings).front();
}

/// Another run of a point, judged by the campaign's present settings; of one that goes on there is a provisional
/// result, or none.
std::filesystem::path endedAs(const campaign::Campaign& c, flow::Verdict verdict, int iterations, double CD = 0.3) {
    const auto folder = test::finished(c, only(c), CD);
    auto r = readout::resultFromJson(base::readCheckedJson(folder / "result.json", 2), "");
    r.verdict = verdict;
    r.iterations = iterations;
    r.asked = readout::askedBy(c.settings.flow);
    base::replaceJson(folder / "result.json", readout::toJson(r));
    return folder;
}
std::filesystem::path begun(const campaign::Campaign& c) {
    const auto folder = test::finished(c, only(c), 0.0);
    std::filesystem::remove(folder / "result.json");
    return folder;
}
void tighten(campaign::Campaign& c, double by) {
    c.settings.flow.toleranceCD /= by;
    c.settings.flow.toleranceCL /= by;
}
}  // namespace

TEST(Verdict, HoldsForWhatItWasAskedByAndForLess) {
    const test::Folder folder;
    auto c = test::ball(folder);
    endedAs(c, flow::Verdict::Settled, 96);
    const auto state = [&] { return campaign::reportOf(c, only(c), kReference).state; };
    EXPECT_EQ(state(), PointState::Settled);
    tighten(c, 0.5);  // looser
    EXPECT_EQ(state(), PointState::Settled);
    tighten(c, 4.0);
    EXPECT_EQ(state(), PointState::Stopped);
    EXPECT_NE(campaign::reportOf(c, only(c), kReference).message.find("looser"), std::string::npos);
    tighten(c, 0.5);
    EXPECT_EQ(state(), PointState::Settled);
    c.settings.flow.leastIterations = 200;
    EXPECT_EQ(state(), PointState::Stopped);
}

TEST(Verdict, OfTighterTolerancesThatWereNotMetIsNoneOfLooserOnes) {
    const test::Folder folder;
    auto c = test::ball(folder);
    c.settings.flow.mostIterations = 120;
    endedAs(c, flow::Verdict::Unsteady, 120);
    EXPECT_EQ(campaign::reportOf(c, only(c), kReference).state, PointState::Unsteady);
    tighten(c, 0.1);
    EXPECT_EQ(campaign::reportOf(c, only(c), kReference).state, PointState::Stopped);
}

TEST(Extension, ThatWasInterruptedIsStoppedAndTheEarlierResultIsShown) {
    const test::Folder folder;
    auto c = test::ball(folder);
    const auto first = endedAs(c, flow::Verdict::Settled, 96, 0.3);
    tighten(c, 1e6);
    const auto second = begun(c);
    ASSERT_NE(first, second);
    auto r = campaign::reportOf(c, only(c), kReference);
    EXPECT_EQ(r.state, PointState::Stopped);
    EXPECT_EQ(r.latest, second);
    ASSERT_TRUE(r.result.has_value());  // what there was is still read, as what it is
    EXPECT_EQ(r.folder, first);
    EXPECT_EQ(r.result->iterations, 96);
    EXPECT_TRUE(r.provisional());
    EXPECT_EQ(campaign::runWithValues(c, only(c)), first);
    // With values of its own it is those that are shown.
    auto half = readout::resultFromJson(base::readCheckedJson(first / "result.json", 2), "");
    half.verdict = flow::Verdict::Running;
    half.iterations = 300;
    half.asked = readout::askedBy(c.settings.flow);
    base::replaceJson(second / "result.json", readout::toJson(half));
    r = campaign::reportOf(c, only(c), kReference);
    EXPECT_EQ(r.state, PointState::Stopped);
    EXPECT_EQ(r.result->iterations, 300);
    EXPECT_EQ(r.stateWords(), "stopped, provisional");
    EXPECT_NE(readout::remarkOf(*r.result).find("Provisional, after 300"), std::string::npos);
    // And with the tolerances back the settled one has come back.
    tighten(c, 1e-6);
    r = campaign::reportOf(c, only(c), kReference);
    EXPECT_EQ(r.state, PointState::Settled);
    EXPECT_EQ(r.result->iterations, 96);
    EXPECT_EQ(r.folder, first);
}

TEST(Extension, ThatEndedOtherwiseDoesNotHideWhatSettledBefore) {
    const test::Folder folder;
    auto c = test::ball(folder);
    const auto first = endedAs(c, flow::Verdict::Settled, 96);
    for (const auto end : {flow::Verdict::Unsteady, flow::Verdict::Diverged}) {
        tighten(c, 1e6);
        endedAs(c, end, c.settings.flow.mostIterations);
        EXPECT_EQ(campaign::reportOf(c, only(c), kReference).state,
                  end == flow::Verdict::Unsteady ? PointState::Unsteady : PointState::Diverged);
        tighten(c, 1e-6);
        EXPECT_EQ(campaign::reportOf(c, only(c), kReference).folder, first);
        EXPECT_EQ(campaign::reportOf(c, only(c), kReference).state, PointState::Settled);
    }
}

// Versions before wrote the order of an extension over that of the run, and kept a copy of the result.
TEST(Extension, OfAnEarlierVersionThatWasInterruptedIsNotSettled) {
    const test::Folder folder;
    auto c = test::ball(folder);
    const auto run = test::finished(c, only(c), 0.3);
    EXPECT_EQ(campaign::reportOf(c, only(c), kReference).state, PointState::Settled);
    base::replaceFile(run / "result.100.json", base::readFile(run / "result.json"));
    base::replaceJson(run / "result.json", base::readCheckedJson(run / "result.json", 2));
    base::replaceJson(run / "run.json", base::readCheckedJson(run / "run.json", 2));
    const auto r = campaign::reportOf(c, only(c), kReference);
    EXPECT_EQ(r.state, PointState::Stopped);
    ASSERT_TRUE(r.result.has_value());
    EXPECT_EQ(r.result->iterations, 100);
}

TEST(Holdings, CallNoRunAnEarlierOneThatIsShownOrGoneOnFrom) {
    const test::Folder folder;
    auto c = test::ball(folder);
    const auto first = endedAs(c, flow::Verdict::Settled, 96);
    const auto uses = [&] {
        std::map<std::filesystem::path, campaign::Holding::Use> out;
        for (const auto& h : campaign::holdingsOf(c)) out[h.folder] = h.use;
        return out;
    };
    using enum campaign::Holding::Use;
    tighten(c, 1e6);
    const auto second = begun(c);
    EXPECT_EQ(uses().at(first), Present);
    tighten(c, 1e-6);
    EXPECT_EQ(uses().at(first), Present);
    const auto third = endedAs(c, flow::Verdict::Settled, 130);
    EXPECT_EQ(uses().at(first), Earlier);
    EXPECT_EQ(uses().at(third), Present);
    // A run whose order is gone is listed all the same.
    std::filesystem::remove(first / "run.json");
    EXPECT_TRUE(uses().contains(first));
}

TEST(Verdict, DoesNotFollowFromTheTypedReference) {
    const test::Folder folder;
    auto c = test::ball(folder);
    const auto m = campaign::measure(campaign::placedModel(c), false);
    const auto own = campaign::ownReference(m, false);
    EXPECT_NEAR(own.area, 0.25 * std::acos(-1.0), 0.02);  // frontal
    // A wing is judged on its planform: wider than long, and thin.
    campaign::ModelMeasures wing = m;
    wing.planform = 10.0 * wing.frontal;
    wing.bounds.low = Vec3(0, -5, 0);
    wing.bounds.high = Vec3(1, 5, 0.1);
    EXPECT_EQ(campaign::ownReference(wing, false).area, wing.planform);
    wing.bounds.high.x() = 20.0;  // a slender body is none
    EXPECT_EQ(campaign::ownReference(wing, false).area, wing.frontal);
}

TEST(Monitor, IsReadOnAnyReference) {
    const test::Folder folder;
    auto c = test::ball(folder);
    const auto run = test::finished(c, only(c), 0.3);
    auto order = campaign::readOrder(run);
    order.flowCase.wind = campaign::windOf(c.settings, only(c).condition);
    order.flowCase.reference = {2.0, 1.0, 1.0, Vec3::Zero()};
    campaign::writeOrder(order, run);
    base::replaceFile(run / "monitor.csv", "iteration,CL,CD,CY,Cl,Cm,Cn\n1,0.2,0.1,0,0,0.05,0\n");
    const auto m = campaign::readMonitor(run, {1.0, 1.0, 1.0, Vec3(1.0, 0.0, 0.0)});
    EXPECT_NEAR(m.column("CL")->at(0), 0.4, 1e-12);
    EXPECT_NEAR(m.column("CD")->at(0), 0.2, 1e-12);
    EXPECT_NEAR(m.column("Cm")->at(0), 0.1 + 0.4, 1e-12);  // lift acts a length ahead of the new centre
}

TEST(RunFiles, ThatAreDamagedOrMissingAreNoticed) {
    const test::Folder folder;
    auto c = test::ball(folder);
    const auto run = endedAs(c, flow::Verdict::Settled, 96);
    base::replaceFile(run / "flow.cgns", "a flow");
    base::replaceFile(run / "wall.csv", "face,x_m\n");
    auto r = *campaign::standingOf(run).result;
    r.sums = {{"flow.cgns", base::sumOfFile(run / "flow.cgns")}, {"wall.csv", base::sumOfFile(run / "wall.csv")}};
    base::replaceJson(run / "result.json", readout::toJson(r));
    EXPECT_EQ(campaign::damageOf(run), "");
    base::replaceFile(run / "flow.cgns", "a f1ow");
    EXPECT_NE(campaign::damageOf(run).find("flow.cgns: is damaged"), std::string::npos);
    EXPECT_NE(campaign::damageOf(run).find("Run the point again"), std::string::npos);
    std::filesystem::remove(run / "flow.cgns");
    EXPECT_NE(campaign::damageOf(run), "");
    base::replaceFile(run / "flow.cgns", "a flow");
    base::replaceFile(run / "run.json", "{");
    EXPECT_NE(campaign::damageOf(run).find("run.json"), std::string::npos);
}

TEST(Outputs, AreRefusedWhereACampaignKeepsItsOwn) {
    const test::Folder folder;
    auto c = test::ball(folder);
    std::filesystem::create_directories(c.folder() / "runs" / "x");
    for (const char* own : {"campaign.json", "models/ball.stl", "models/new.csv", "runs/x/result.json", "grids/t.csv",
                            "sections/a.dat", ".lock", "models/../campaign.json"})
        EXPECT_NE(refusalOf([&] { campaign::refuseOwnFile(c.folder() / own); }).find("not written over"),
                  std::string::npos)
            << own;
    std::filesystem::create_symlink(c.folder() / "campaign.json", folder / "link.csv");
    EXPECT_NE(refusalOf([&] { campaign::refuseOwnFile(folder / "link.csv"); }), "");
    for (const char* free : {"table.csv", "pictures/a.png"})
        EXPECT_NO_THROW(campaign::refuseOwnFile(c.folder() / free)) << free;
    EXPECT_NO_THROW(campaign::refuseOwnFile(folder / "campaign.json"));  // of no campaign
}

TEST(Files, ThatArePipesAreRefusedAtOnce) {
    const test::Folder folder;
    const auto pipe = folder / "pipe.dat";
    ASSERT_EQ(::mkfifo(pipe.c_str(), 0600), 0);
    const auto began = std::chrono::steady_clock::now();
    EXPECT_NE(refusalOf([&] { base::readFile(pipe); }).find("a pipe"), std::string::npos);
    EXPECT_NE(refusalOf([&] { base::sumOfFile(pipe); }), "");
    EXPECT_NE(refusalOf([&] { section::sectionFrom(pipe.string()); }), "");
    EXPECT_NE(refusalOf([&] { base::startDetached({"/bin/true"}, pipe, {}); }), "");
    EXPECT_TRUE(campaign::readMonitor(folder.path()).names.empty());
    auto c = test::ball(folder);
    const auto run = test::finished(c, only(c), 0.3);
    for (const char* name : {"result.json", "run.json", "progress.jsonl", "monitor.csv", "running.json", "wall.csv"}) {
        std::filesystem::remove(run / name);
        ASSERT_EQ(::mkfifo((run / name).c_str(), 0600), 0);
        campaign::reportOf(c, only(c), kReference);
        campaign::damageOf(run);
        campaign::readMonitor(run);
    }
    EXPECT_LT(std::chrono::steady_clock::now() - began, std::chrono::seconds(10));
}

TEST(Process, ThatHasEndedAndWasNotCollectedDoesNotCountAsAlive) {
    const pid_t child = ::fork();
    if (child == 0) ::_exit(0);
    siginfo_t info{};
    ::waitid(P_PID, static_cast<id_t>(child), &info, WEXITED | WNOWAIT);  // it has ended, and stays uncollected
    EXPECT_EQ(base::processStart(child), 0u);
    ::waitpid(child, nullptr, 0);
    EXPECT_GT(base::processStart(::getpid()), 0u);
}

TEST(Ranks, BeyondCoresAreAskedBackAndBeyondReasonRefused) {
    const int cores = campaign::coresAtHand();
    EXPECT_NO_THROW(campaign::checkRanks(cores, 100000, false));
    EXPECT_NE(refusalOf([&] { campaign::checkRanks(3000, 0, false); }).find("--oversubscribe"), std::string::npos);
    EXPECT_NO_THROW(campaign::checkRanks(cores + 2, 100000, true));
    EXPECT_NE(refusalOf([&] { campaign::checkRanks(100, 4000, true); }).find("4000 cells"), std::string::npos);
    EXPECT_NE(refusalOf([&] { campaign::checkRanks(1000000, 0, true); }).find("GB"), std::string::npos);
}

// What can be set is what the builder takes: one declaration serves both.
TEST(Settings, RefuseWhatTheGridBuilderRefuses) {
    for (const char* wrong :
         {"grid.curvature_levels=12", "grid.gap_levels=12", "grid.layers=200", "grid.buffer_cells=20",
          "grid.cell_budget=500", "grid.wake_lengths=1000", "grid.sharp_angle_deg=1e-6", "tunnel.sideways_lengths=0",
          "tunnel.sideways_lengths=-1", "tunnel.above_lengths=-1", "tunnel.upstream_lengths=0", "grid.stretch=0.5,1,1",
          "grid.turn_angle_deg=1", "grid.layer_growth=1.01", "grid.wake_alpha_deg=80"}) {
        campaign::Settings s;
        EXPECT_THROW(campaign::setField(s, wrong), base::InputError) << wrong;
    }
    campaign::Settings s;
    for (const char* right :
         {"grid.curvature_levels=6", "grid.layers=40", "grid.cell_budget=2000", "tunnel.sideways_lengths=-0.3",
          "grid.stretch=[0,3,0]", "grid.stretch=[1, 1, 2]", "reference.area_from=\"planform\""})
        EXPECT_NO_THROW(campaign::setField(s, right)) << right;
    EXPECT_EQ(s.grid.stretch, Vec3(1, 1, 2));
    // And the other way round: the builder refuses what the ends of its ranges leave out.
    const auto ball = bench::sphere(0.5, 12);
    grid::GridSettings g;
    g.layers = 41;
    EXPECT_NE(refusalOf([&] { grid::build(ball, {}, g, {}); }).find("wall layers"), std::string::npos);
}

TEST(Preflight, LooksAtEveryPointAndNamesIt) {
    const test::Folder folder;
    auto c = test::ball(folder);
    const auto blocking = [&] {
        std::string all;
        for (const auto& r : campaign::preflight(c, campaign::measure(campaign::placedModel(c), false)))
            if (r.blocks) all += r.text + "\n";
        return all;
    };
    EXPECT_EQ(blocking(), "");
    c.settings.tunnel.floor = grid::Floor::Moving;
    c.settings.schedule.groups.push_back({"gusts", true, {12.0}, {4.0}, {0.0}, "", ""});
    EXPECT_NE(blocking().find("v12.00_a4.00_b0.00: Alpha other than 0"), std::string::npos) << blocking();
    c.settings.schedule.groups.clear();
    EXPECT_EQ(blocking(), "");
    c.settings.schedule.held.push_back({});  // alpha will move
    EXPECT_NE(blocking().find("held lift"), std::string::npos);
    c.settings.schedule.held.clear();
    c.settings.tunnel = {};
    c.settings.modelExtent = campaign::ModelExtent::Half;
    c.settings.tunnel.halfModel = true;
    c.settings.schedule.single.push_back({{20.0, 0.0, 5.0}, "", ""});
    EXPECT_NE(blocking().find("v20.00_a0.00_b5.00: A half model"), std::string::npos);
    c.settings.tunnel = {};
    c.settings.devices.discs.push_back({});
    c.settings.devices.discs.back().centre = Vec3(1000.0, 0.0, 0.0);
    EXPECT_NE(blocking().find("outside the tunnel"), std::string::npos);
    c.settings.devices.discs.clear();
    c.settings.schedule.single.clear();
    for (const double slow : {1e-6, 1e-300}) {
        c.settings.schedule.speeds = {slow};
        EXPECT_NE(blocking().find("Reynolds number"), std::string::npos) << slow;
    }
    c.settings.schedule.speeds = {20.0};
    c.settings.flow.turbulenceLength = 1e5;
    EXPECT_NE(blocking().find("turbulence"), std::string::npos);
    c.settings.flow.model = flow::Model::Laminar;  // which has none
    EXPECT_EQ(blocking(), "");
}

TEST(SectionFile, EndsItsLinesAndRemarksAsAnySystemDoes) {
    const auto contour = section::sectionFrom("4412");
    const std::string plain = section::writeCoordinates(contour, section::PointOrder::Loop);
    std::string carriage = plain, remarked;
    std::replace(carriage.begin(), carriage.end(), '\n', '\r');
    for (const char ch : plain) remarked += ch == '\n' ? std::string(" # measured\n") : std::string(1, ch);
    remarked += "# the end\n! of it\n";
    const auto expected = section::readCoordinates(plain, "a");
    for (const auto& text : {carriage, remarked}) {
        const auto read = section::readCoordinates(text, "a");
        ASSERT_EQ(read.points.size(), expected.points.size());
        for (std::size_t i = 0; i < read.points.size(); ++i) EXPECT_EQ(read.points[i], expected.points[i]);
    }
}

TEST(Import, RefusesWhatNoUnitMakesSenseOf) {
    const test::Folder folder;
    auto far = bench::sphere(0.5, 12);
    far.points[7].x() = 1e38;
    shape::writeStl(far, folder / "far.stl", 1.0);
    EXPECT_NE(refusalOf([&] { shape::readSurface(folder / "far.stl", 1.0); }).find("m away"), std::string::npos);
    shape::writeStl(bench::sphere(0.5, 12), folder / "atom.stl", 1.0);
    EXPECT_NE(refusalOf([&] { shape::readSurface(folder / "atom.stl", 1e-9); }).find("m long"), std::string::npos);
    EXPECT_NO_THROW(shape::readSurface(folder / "atom.stl", 1e-3));
}

TEST(Model, OfFacetsThatStandAloneIsNoSurface) {
    std::mt19937 random(1);
    std::uniform_real_distribution<double> anywhere(0.0, 1.0);
    shape::Surface soup;
    soup.parts.push_back({"soup", true});
    for (int f = 0; f < 2000; ++f) {
        const auto first = static_cast<std::int32_t>(soup.points.size());
        for (int k = 0; k < 3; ++k) soup.points.emplace_back(anywhere(random), anywhere(random), anywhere(random));
        soup.facets.push_back({first, first + 1, first + 2});
        soup.partOf.push_back(0);
    }
    EXPECT_TRUE(shape::isSoup(soup));
    EXPECT_NE(refusalOf([&] { grid::build(soup, {}, {}, {}); }).find("no surface"), std::string::npos);
    // A surface whose facets share no corner is one all the same.
    const auto ball = bench::sphere(0.5, 24);
    shape::Surface apart;
    apart.parts = ball.parts;
    for (std::size_t f = 0; f < ball.facets.size(); ++f) {
        const auto first = static_cast<std::int32_t>(apart.points.size());
        for (int k = 0; k < 3; ++k) apart.points.push_back(ball.corner(f, k));
        apart.facets.push_back({first, first + 1, first + 2});
        apart.partOf.push_back(0);
    }
    EXPECT_FALSE(shape::isSoup(apart));
}

TEST(Preflight, RefusesANeedle) {
    const test::Folder folder;
    auto c = test::ball(folder);
    auto m = campaign::measure(campaign::placedModel(c), false);
    m.bounds.low = Vec3::Zero();
    m.bounds.high = Vec3(1.0, 5e-6, 5e-6);
    const auto all = campaign::preflight(c, m);
    EXPECT_TRUE(std::any_of(all.begin(), all.end(),
                            [](const auto& r) { return r.blocks && r.text.find("needle") != std::string::npos; }));
}

// From scratch its iteration turns for ever between two places of transition.
TEST(SectionPoint, ThatFailsFromScratchIsReachedFromItsNeighbours) {
    const section::PanelFlow flow(section::panelsOf(section::sectionFrom("23012"), {}));
    section::PolarCase c;
    c.flow.air.reynolds = 1e6;
    const double degree = std::acos(-1.0) / 180.0;
    c.values = {4.0 * degree};
    const auto alone = section::computePolar(flow, c);
    c.values = {2.0 * degree, 3.0 * degree, 4.0 * degree};
    const auto swept = section::computePolar(flow, c);
    ASSERT_TRUE(alone[0].figures.converged);
    ASSERT_TRUE(swept[2].figures.converged);
    EXPECT_NEAR(alone[0].figures.cl, swept[2].figures.cl, 1e-4);
}

TEST(SectionPoint, ThatDidNotConvergeHasNoFigures) {
    section::PointFigures f;
    f.cl = -53.0;
    f.reynolds = 1e6;
    EXPECT_EQ(section::csvRow(f).find("-53"), std::string::npos);
    EXPECT_TRUE(section::shownJson(f)["cl"].is_null());
    const auto columns = [](const std::string& row) { return std::count(row.begin(), row.end(), ','); };
    EXPECT_EQ(columns(section::csvRow(f)), columns(section::csvHead()));
    f.converged = true;
    EXPECT_EQ(section::shownJson(f)["cl"], -53.0);
}

TEST(Checkpoint, IsKnownToBeDamagedWithoutBeingReadAsAWhole) {
    const test::Folder folder;
    flow::Checkpoint c;
    c.key = "a key";
    c.cellData.assign(700000, 1.5);  // longer than a piece
    const auto file = folder / "checkpoint.bin";
    flow::writeCheckpoint(c, file);
    EXPECT_NO_THROW(flow::checkCheckpoint(file));
    const auto whole = base::readFile(file);
    for (const std::size_t at : {std::size_t{0}, std::size_t{30}, whole.size() / 2, whole.size() - 3}) {
        auto bytes = whole;
        bytes[at] ^= 4;
        base::replaceFile(file, bytes);
        EXPECT_THROW(flow::checkCheckpoint(file), base::InputError) << at;
    }
    base::replaceFile(file, whole.substr(0, whole.size() - 100));
    EXPECT_THROW(flow::checkCheckpoint(file), base::InputError);
}

TEST(Part, HasNoBandWhereNoneIsKnown) {
    readout::Result r;
    r.band.CD = 0.01;
    r.parts.push_back(readout::balanceOf("wing", {}, r.wind, r.reference));
    const auto v = readout::resultQuantity("CD").of(readout::ofPart(r, "wing"), {});
    ASSERT_TRUE(v.value.has_value());
    EXPECT_FALSE(v.band && std::isfinite(*v.band));
}

TEST(Remark, OfAResultOfBeforeIsItsOwnSentenceAndOfANewOneFollowsFromIt) {
    readout::Result r;
    r.verdict = flow::Verdict::Unsteady;
    r.iterations = 120;
    r.remark = "Not settled.";
    EXPECT_EQ(readout::remarkOf(r), "Not settled.");
    r.remark.clear();
    EXPECT_EQ(readout::remarkOf(r), "");
    r.asked = readout::Asked{0.005, 0.002, 120, 60};
    EXPECT_NE(readout::remarkOf(r).find("Not settled after 120 iterations"), std::string::npos);
    r.verdict = flow::Verdict::Settled;
    EXPECT_EQ(readout::remarkOf(r), "");
}
