// The headless program: everything that the window does, for scripts. Exit codes: 0 done and settled, 1 a point failed or
// diverged, 2 bad input or usage, 3 a point ended unsteady, 4 stopped by the user.
#include <fmt/format.h>
#include <signal.h>
#include <unistd.h>

#include <CLI/CLI.hpp>
#include <atomic>
#include <chrono>
#include <cmath>
#include <iostream>
#include <optional>
#include <thread>

#include "base/errors.h"
#include "base/files.h"
#include "base/time_left.h"
#include "base/units.h"
#include "campaign/flow_case.h"
#include "campaign/folder_lock.h"
#include "campaign/grid_stage.h"
#include "campaign/model_stage.h"
#include "campaign/point_run.h"
#include "campaign/preflight.h"
#include "campaign/set_field.h"
#include "campaign/table.h"
#include "grid/cgns_file.h"
#include "readout/pressure_station.h"
#include "shape/health.h"
#include "shape/import.h"

using namespace cvane;
namespace fs = std::filesystem;

namespace {

std::atomic<bool> interrupted{false};

base::Progress progressTo(std::FILE* out) {
    if (!::isatty(::fileno(out))) return [](double, std::string_view) { return !interrupted.load(); };
    return [out, left = base::TimeLeft()](double fraction, std::string_view doing) {
        fmt::print(out, "\r{:3.0f} %  {:<40} {:<24}", 100.0 * fraction, doing, left.words(fraction));
        if (fraction >= 1.0) fmt::print(out, "\n");
        std::fflush(out);
        return !interrupted.load();
    };
}

struct Prepared {
    campaign::Campaign campaign;
    shape::Surface model;
    campaign::ModelMeasures measures;
    air::Reference reference;
};

Prepared prepare(const fs::path& folder) {
    auto c = campaign::Campaign::open(folder);
    auto model = campaign::placedModel(c);
    const auto m = campaign::measure(model, c.settings.tunnel.halfModel);
    const auto r = campaign::resolveReference(c.settings.reference, m, c.settings.tunnel.halfModel);
    return {std::move(c), std::move(model), m, r};
}

// The settings that mend a remark.
std::string waysOut(const campaign::Remark& r) {
    std::string out;
    for (const auto& m : r.mends) out += fmt::format("{}{} ({})", out.empty() ? "Set " : " or ", m.assignment, m.words);
    return out.empty() ? out : out + ".";
}

std::vector<campaign::PointReport> reports(const Prepared& p) {
    std::vector<campaign::PointReport> out;
    for (const auto& point : campaign::pointsOf(p.campaign.settings.schedule)) out.push_back(campaign::reportOf(p.campaign, point, p.reference));
    return out;
}

void check(const fs::path& folder) {
    const auto p = prepare(folder);
    const auto& s = p.campaign.settings;
    const Vec3 size = p.measures.bounds.size();
    fmt::print("Model: {} facets, {} {}, {:.4g} x {:.4g} x {:.4g} m\n", p.model.facets.size(), p.model.parts.size(), p.model.parts.size() == 1 ? "part" : "parts", size.x(), size.y(), size.z());
    for (const auto& part : p.model.parts) fmt::print("  part {}{}\n", part.name, part.inTheAir ? "" : " (hidden)");
    fmt::print("Surface: {}\n", shape::checkHealth(shape::withoutHiddenParts(p.model), progressTo(stderr)).sentence());
    fmt::print("Areas: frontal {:.5g} m2, side {:.5g} m2, planform {:.5g} m2{}\n", p.measures.frontal, p.measures.side, p.measures.planform, s.tunnel.halfModel ? " (whole model)" : "");
    fmt::print("Reference: S {:.5g} m2, c {:.5g} m, b {:.5g} m, moment centre {:.4g} {:.4g} {:.4g} m\n", p.reference.area, p.reference.length, p.reference.span, p.reference.momentCentre.x(),
               p.reference.momentCentre.y(), p.reference.momentCentre.z());
    for (const auto& w : s.devices.wheels) {
        const auto m = campaign::motionOf(w, p.model, s.tunnel, s.schedule.speeds.front());
        fmt::print("Wheel {}: {:.0f} rpm at {} m/s about {:.3f} {:.3f} {:.3f} through {:.4g} {:.4g} {:.4g} m\n", w.part, m.spin.norm() * 30.0 / std::acos(-1.0), s.schedule.speeds.front(), m.spin.normalized().x(),
                   m.spin.normalized().y(), m.spin.normalized().z(), m.centre.x(), m.centre.y(), m.centre.z());
    }
    for (const auto& r : s.devices.roughParts) fmt::print("Rough: {} with sand grains of {:.3g} m\n", r.part, r.sandGrain);
    for (const auto& d : s.devices.discs) fmt::print("Disc {}: radius {:.4g} m, {}\n", d.name, d.outer, d.thrust != 0.0 ? fmt::format("thrust {:.4g} N", d.thrust) : fmt::format("power {:.4g} W", d.power));
    for (const auto& b : s.devices.blocks) fmt::print("Porous block {}: {:.4g} 1/m2, {:.4g} 1/m\n", b.name, b.linear, b.quadratic);
    for (const auto& point : campaign::pointsOf(s.schedule)) fmt::print("{}\n", air::windSentence(campaign::windOf(s, point), p.reference.length));
    const auto grid = campaign::gridSummary(p.campaign);
    fmt::print("Grid: {}\n", grid.empty() ? "none for these settings" : grid);
    bool blocked = false;
    for (const auto& r : campaign::preflight(p.campaign, p.measures)) {
        fmt::print("{}: {} {}\n", r.blocks ? "Must be mended" : "Look at", r.text, waysOut(r));
        blocked = blocked || r.blocks;
    }
    if (blocked) throw base::InputError("the campaign cannot be run as it is.", folder.string(), "Mend what is listed above.");
}

int runPoints(const fs::path& folder, const std::vector<std::string>& only, int ranks, bool again, int further) {
    const auto p = prepare(folder);
    const campaign::FolderLock lock(p.campaign.folder());
    for (const auto& r : campaign::preflight(p.campaign, p.measures))
        if (r.blocks) throw base::InputError(r.text, folder.string(), waysOut(r));
    if (!campaign::gridIsCurrent(p.campaign)) {
        fmt::print("Making the grid\n");
        campaign::makeGrid(p.campaign, progressTo(stdout));
    }
    fmt::print("Grid: {}\n", campaign::gridSummary(p.campaign));
    int code = 0, matched = 0;
    for (const auto& point : campaign::pointsOf(p.campaign.settings.schedule)) {
        if (!only.empty() && std::find(only.begin(), only.end(), point.name()) == only.end()) continue;
        ++matched;
        auto report = campaign::reportOf(p.campaign, point, p.reference);
        const bool done = report.state == campaign::PointState::Settled || report.state == campaign::PointState::Unsteady;
        if (done && !again && further == 0) {
            fmt::print("{}: {} already\n", point.name(), campaign::nameOf(report.state));
        } else {
            if (again) {
                std::error_code ec;
                fs::remove(campaign::runFolder(p.campaign, point) / "checkpoint.bin", ec);
                fs::remove(campaign::runFolder(p.campaign, point) / "result.json", ec);
            }
            fmt::print("{}: running on {} ranks\n", point.name(), ranks);
            std::fflush(stdout);
            const auto run = campaign::PointRun::start(p.campaign, point, p.reference, ranks, further);
            bool asked = false;
            for (int tick = 0; run.alive(); ++tick) {
                std::this_thread::sleep_for(std::chrono::milliseconds(200));
                if (interrupted && !asked) {
                    run.askToStop();
                    asked = true;
                    fmt::print("\nstopping after this iteration, the checkpoint is kept\n");
                }
                if (tick % 5 == 0 && ::isatty(STDOUT_FILENO)) {
                    report = campaign::reportOf(p.campaign, point, p.reference);
                    fmt::print("\r  {} {:5d}   CL {:9.5f}   CD {:9.5f}   {:<24}", report.coarse ? "coarse grid, iteration" : "             iteration", report.iterations, report.CL, report.CD, report.secondsLeft > 0.0 ? base::TimeLeft::wordsFor(report.secondsLeft) : "");
                    std::fflush(stdout);
                }
            }
            if (::isatty(STDOUT_FILENO)) fmt::print("\n");
            report = campaign::reportOf(p.campaign, point, p.reference);
        }
        switch (report.state) {
            case campaign::PointState::Settled: break;
            case campaign::PointState::Unsteady: code = std::max(code, 3); break;
            default:
                if (report.message.empty() && !fs::exists(campaign::runFolder(p.campaign, point))) report.message = "the folder of its run has vanished. Run it again.";
                fmt::print(stderr, "{}: {}{}{}\n", point.name(), campaign::nameOf(report.state), report.message.empty() ? "" : ": ", report.message);
                code = 1;
        }
        if (interrupted) break;
    }
    if (matched == 0) throw base::InputError("no point of the schedule has that name.", folder.string(), "Names look like v12.00_a2.00_b0.00; the command \"table\" lists the schedule.");
    fmt::print("{}", campaign::textTable(reports(p)));
    return interrupted ? 4 : code == 0 ? 0 : code;
}

void printCut(const fs::path& folder, const std::string& name, char axis, double position, const std::string& csv) {
    const auto p = prepare(folder);
    for (const auto& point : campaign::pointsOf(p.campaign.settings.schedule)) {
        if (point.name() != name) continue;
        const fs::path run = campaign::runFolder(p.campaign, point);
        const auto grid = grid::readCgns(campaign::readOrder(run).grid);
        const auto station = readout::cutStation(grid, grid::geometryOf(grid), readout::readWallField(run / "wall.csv"), axis - 'x', position);
        if (station.samples.empty()) throw base::InputError(fmt::format("the plane {} = {} m misses the model.", axis, position), name, "Choose a plane through it.");
        if (csv.empty())
            fmt::print("{}", readout::toCsv(station));
        else
            base::replaceFile(csv, readout::toCsv(station));
        return;
    }
    throw base::InputError("no point of the schedule has that name.", name, "Names look like v12.00_a2.00_b0.00.");
}

/// A campaign opened by this program alone, for as long as it lives.
struct Locked {
    explicit Locked(const fs::path& folder) : campaign(campaign::Campaign::open(folder)), lock(campaign.folder()) {}
    campaign::Campaign campaign;
    campaign::FolderLock lock;
};

shape::Part& partNamed(campaign::Settings& settings, const std::string& name) {
    for (auto& part : settings.model.parts)
        if (part.name == name) return part;
    throw base::InputError("no part has that name.", name, "The command \"check\" lists the parts.");
}

}  // namespace

int main(int argc, char** argv) {
    CLI::App app{"Crisp Vane without a window: from a surface file to coefficients and pressures"};
    app.require_subcommand(1);
    std::string folder, model, unit = "m", csv, json, point, axis = "y", file;
    std::vector<std::string> assignments, only, hide, show;
    int ranks = campaign::cores();
    double position = 0.0;
    bool again = false;
    int further = 0;

    auto* create = app.add_subcommand("new", "make a campaign folder from a surface file");
    create->add_option("campaign", folder, "folder to make, by habit name.cvane")->required();
    create->add_option("--model", model, "STL, OBJ or PLY file")->required();
    create->add_option("--unit", unit, "unit of the file: mm, cm, m, in, ft");
    create->add_option("--set", assignments, "settings as group.field=value");
    auto* set = app.add_subcommand("set", "change settings, named as in campaign.json");
    set->add_option("campaign", folder)->required();
    set->add_option("settings", assignments, "group.field=value ...")->required();
    auto* parts = app.add_subcommand("parts", "take parts out of the air or put them back");
    parts->add_option("campaign", folder)->required();
    parts->add_option("--hide", hide, "names of parts");
    parts->add_option("--show", show, "names of parts");
    auto* finer = app.add_subcommand("finer", "ask for smaller cells on parts or in places");
    std::vector<double> box, ball, cylinder;
    double cell = 0.0;
    std::string part;
    int levels = 1;
    bool clear = false;
    finer->add_option("campaign", folder)->required();
    finer->add_option("--box", box, "two opposite corners: x y z x y z [m]")->expected(6);
    finer->add_option("--ball", ball, "middle and radius: x y z r [m]")->expected(4);
    finer->add_option("--cylinder", cylinder, "middles of both ends and radius: x y z x y z r [m]")->expected(7);
    finer->add_option("--cell", cell, "largest cell in that place [m]");
    finer->add_option("--part", part, "name of a part");
    finer->add_option("--levels", levels, "how many times its cells are halved");
    finer->add_flag("--clear", clear, "first take back all that was asked for");
    auto* wheel = app.add_subcommand("wheel", "let a part turn about its axle");
    std::string name;
    std::vector<double> centre, direction, from, to;
    double rpm = 0.0, inner = 0.0, outer = 0.0, thrust = 0.0, power = 0.0, sand = 0.0, linear = 0.0, quadratic = 0.0, across = 10.0;
    bool remove = false;
    const auto device = [&](CLI::App* command, const std::string& what) {
        command->add_option("campaign", folder)->required();
        command->add_option("name", name, what)->required();
        command->add_flag("--remove", remove, "take it out again");
    };
    device(wheel, "name of the part");
    auto* rpmOfWheel = wheel->add_option("--rpm", rpm, "revolutions a minute, forwards above 0; without it the wheel rolls with the ground");
    wheel->add_option("--axis", direction, "direction of the axle, when it shall not be found from the shape")->expected(3);
    wheel->add_option("--centre", centre, "a point on the axle [m]")->expected(3);
    auto* rough = app.add_subcommand("rough", "give a part a rough surface");
    device(rough, "name of the part");
    rough->add_option("--sand-grain", sand, "height of equivalent sand grains [m]");
    auto* disc = app.add_subcommand("disc", "put a propeller or fan into the air, as a disc that pushes");
    device(disc, "name of the disc");
    disc->add_option("--centre", centre, "[m]")->expected(3);
    disc->add_option("--axis", direction, "way in which the air is pushed; 1 0 0 without it")->expected(3);
    disc->add_option("--radius", outer, "[m]");
    disc->add_option("--hub", inner, "inner radius [m]");
    disc->add_option("--thrust", thrust, "[N]");
    disc->add_option("--power", power, "[W], in place of the thrust");
    disc->add_option("--rpm", rpm, "lets the slipstream turn, right-handed about the axis");
    auto* porous = app.add_subcommand("porous", "put a radiator core into the air, as a box that resists");
    device(porous, "name of the block");
    porous->add_option("--from", from, "corner [m]")->expected(3);
    porous->add_option("--to", to, "opposite corner [m]")->expected(3);
    porous->add_option("--axis", axis, "way through")->check(CLI::IsMember({"x", "y", "z"}));
    porous->add_option("--linear", linear, "resistance to slow flow [1/m2]");
    porous->add_option("--quadratic", quadratic, "resistance to fast flow [1/m]");
    porous->add_option("--across", across, "resistance across the way through over that along it");
    auto* look = app.add_subcommand("check", "measure the model, look for mistakes");
    look->add_option("campaign", folder)->required();
    auto* makeGrid = app.add_subcommand("grid", "make the grid of the present settings");
    makeGrid->add_option("campaign", folder)->required();
    auto* run = app.add_subcommand("run", "run the points of the schedule that are not done");
    run->add_option("campaign", folder)->required();
    run->add_option("--point", only, "only these points, by name");
    run->add_option("--ranks", ranks, "MPI ranks")->check(CLI::Range(1, 4096));
    auto* anew = run->add_flag("--again", again, "also points that are done");
    run->add_option("--further", further, "as many iterations beyond what is done, settled or not")->check(CLI::Range(1, 1000000))->excludes(anew);
    auto* save = app.add_subcommand("save", "let running points write a checkpoint now");
    save->add_option("campaign", folder)->required();
    auto* table = app.add_subcommand("table", "results of all points");
    table->add_option("campaign", folder)->required();
    table->add_option("--csv", csv, "write a spreadsheet table to this file");
    table->add_option("--json", json, "write everything to this file");
    auto* cut = app.add_subcommand("cut", "Cp along a cut through the model");
    cut->add_option("campaign", folder)->required();
    cut->add_option("point", point)->required();
    cut->add_option("--axis", axis, "plane normal")->check(CLI::IsMember({"x", "y", "z"}));
    cut->add_option("--at", position, "place of the plane [m]")->required();
    cut->add_option("--csv", csv, "write to this file instead of the screen");
    try {
        app.parse(argc, argv);
    } catch (const CLI::ParseError& e) {
        return app.exit(e) == 0 ? 0 : 2;
    }

    struct sigaction act {};
    act.sa_handler = [](int) { interrupted = true; };
    sigaction(SIGINT, &act, nullptr);
    sigaction(SIGTERM, &act, nullptr);
    try {
        if (create->parsed()) {
            campaign::Settings trial;
            for (const auto& a : assignments) campaign::setField(trial, a);  // refuse before anything is made
            auto c = campaign::Campaign::create(folder, model, unit);
            for (const auto& a : assignments) campaign::setField(c.settings, a);
            c.save();
            const auto remark = shape::sizeRemark(campaign::placedModel(c).bounds(), base::unitNamed(base::lengthUnits(), unit).inSI);
            if (!remark.empty()) fmt::print(stderr, "Look at: {}\n", remark);
        } else if (set->parsed()) {
            Locked opened(folder);
            auto& c = opened.campaign;
            for (const auto& a : assignments) campaign::setField(c.settings, a);
            c.save();
        } else if (parts->parsed()) {
            Locked opened(folder);
            auto& c = opened.campaign;
            for (const auto& n : hide) partNamed(c.settings, n).inTheAir = false;
            for (const auto& n : show) partNamed(c.settings, n).inTheAir = true;
            c.save();
        } else if (finer->parsed()) {
            Locked opened(folder);
            auto& c = opened.campaign;
            auto& g = c.settings.grid;
            if (clear) {
                g.finerPlaces.clear();
                g.finerParts.clear();
            }
            const auto place = [&](grid::FinerPlace::Shape shape, const Vec3& from, const Vec3& to, double radius) {
                if (!(cell > 0.0)) throw base::InputError("a place needs a cell size.", folder, "Add --cell with a length in metres.");
                g.finerPlaces.push_back({shape, from, to, radius, cell});
            };
            const auto at = [](const std::vector<double>& v, std::size_t i) { return Vec3(v[i], v[i + 1], v[i + 2]); };
            if (!box.empty()) place(grid::FinerPlace::Shape::Box, at(box, 0), at(box, 3), 0.0);
            if (!ball.empty()) place(grid::FinerPlace::Shape::Ball, at(ball, 0), at(ball, 0), ball[3]);
            if (!cylinder.empty()) place(grid::FinerPlace::Shape::Cylinder, at(cylinder, 0), at(cylinder, 3), cylinder[6]);
            if (!part.empty()) {
                g.finerParts[partNamed(c.settings, part).name] = levels;
            }
            c.save();
        } else if (wheel->parsed() || rough->parsed() || disc->parsed() || porous->parsed()) {
            Locked opened(folder);
            auto& c = opened.campaign;
            auto& d = c.settings.devices;
            const auto vec = [](const std::vector<double>& v) { return Vec3(v[0], v[1], v[2]); };
            const auto need = [&](bool given, const char* option) {
                if (!given && !remove) throw base::InputError(fmt::format("{} is missing.", option), name, "Add it, or take the device out with --remove.");
            };
            // A device is named once; giving it again replaces it.
            const auto put = [&](auto& list, auto&& nameOf, auto value) {
                const auto gone = std::erase_if(list, [&](const auto& x) { return nameOf(x) == name; });
                if (remove && gone == 0) throw base::InputError("there is none of that name.", name, "The command \"check\" lists what there is.");
                if (!remove) list.push_back(std::move(value));
            };
            if (wheel->parsed()) {
                if (!remove) partNamed(c.settings, name);
                campaign::Wheel w{name, rpmOfWheel->count() == 0, rpm, {}, {}};
                if (!direction.empty()) w.axis = vec(direction);
                if (!centre.empty()) w.centre = vec(centre);
                put(d.wheels, [](const auto& x) { return x.part; }, w);
                if (!remove) campaign::motionOf(w, campaign::placedModel(c), c.settings.tunnel, 1.0);
            } else if (rough->parsed()) {
                if (!remove) partNamed(c.settings, name);
                need(sand > 0.0, "--sand-grain");
                put(d.roughParts, [](const auto& x) { return x.part; }, flow::RoughPart{name, sand});
            } else if (disc->parsed()) {
                need(centre.size() == 3, "--centre");
                need(outer > inner && inner >= 0.0, "--radius above --hub");
                need(thrust != 0.0 || power > 0.0, "--thrust or --power");
                flow::Disc p{name, centre.empty() ? Vec3::Zero() : vec(centre), direction.empty() ? Vec3::UnitX() : vec(direction), inner, outer, thrust, power, rpm};
                put(d.discs, [](const auto& x) { return x.name; }, p);
            } else {
                need(from.size() == 3 && to.size() == 3, "--from or --to");
                need(linear > 0.0 || quadratic > 0.0, "--linear or --quadratic");
                flow::PorousBlock b{name, from.empty() ? Vec3::Zero() : vec(from), to.empty() ? Vec3::Zero() : vec(to), porous->count("--axis") ? axis[0] - 'x' : 0, linear, quadratic, across};
                put(d.blocks, [](const auto& x) { return x.name; }, b);
            }
            c.save();
        } else if (save->parsed()) {
            const auto p = prepare(folder);
            int asked = 0;
            for (const auto& point : campaign::pointsOf(p.campaign.settings.schedule))
                if (const auto running = campaign::PointRun::attach(p.campaign, point)) {
                    running->askToSave();
                    ++asked;
                }
            if (asked == 0) throw base::InputError("no point is running.", folder, "Points that are stopped or done have their checkpoints already.");
            fmt::print("{} asked to write a checkpoint\n", asked == 1 ? "1 point was" : fmt::format("{} points were", asked));
        } else if (look->parsed()) {
            check(folder);
        } else if (makeGrid->parsed()) {
            const Locked opened(folder);
            const auto& c = opened.campaign;
            campaign::makeGrid(c, progressTo(stdout));
            fmt::print("{}\n", campaign::gridSummary(c));
        } else if (run->parsed()) {
            return runPoints(folder, only, ranks, again, further);
        } else if (table->parsed()) {
            const auto all = reports(prepare(folder));
            if (!csv.empty()) base::replaceFile(csv, campaign::csvTable(all));
            if (!json.empty()) base::replaceFile(json, campaign::jsonTable(all).dump(2) + "\n");
            if (csv.empty() && json.empty()) fmt::print("{}", campaign::textTable(all));
        } else if (cut->parsed()) {
            printCut(folder, point, axis[0], position, csv);
        }
        return 0;
    } catch (const base::Cancelled&) {
        fmt::print(stderr, "Stopped; nothing half-made is left.\n");
        return 4;
    } catch (const base::InputError& e) {
        fmt::print(stderr, "{}\n", e.what());
        return 2;
    } catch (const std::exception& e) {
        fmt::print(stderr, "Something went wrong: {}\n", e.what());
        return 1;
    }
}
