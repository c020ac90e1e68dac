#include <fmt/format.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <iterator>
#include <set>

#include "base/errors.h"
#include "base/text.h"
#include "base/time_left.h"
#include "campaign/launch/point_run.h"
#include "campaign/methods/runner.h"
#include "campaign/plan/preflight.h"
#include "campaign/plan/propellers.h"
#include "campaign/steps/flow_case.h"
#include "campaign/steps/grid_stage.h"
#include "campaign/steps/reports.h"
#include "campaign/store/keys.h"
#include "campaign/store/table.h"
#include "command/edit.h"
#include "command/groups.h"
#include "command/point_runner.h"
#include "shape/health.h"

namespace cvane::command {
using nlohmann::json;
using enum Argument::Kind;
namespace fs = std::filesystem;

namespace {

// The settings that mend a remark.
std::string waysOut(const campaign::Remark& r) {
    std::string out;
    for (const auto& m : r.mends) out += fmt::format("{}{} ({})", out.empty() ? "Set " : " or ", m.assignment, m.words);
    return out.empty() ? out : out + ".";
}

json listOf(const Vec3& v) {
    return {v.x(), v.y(), v.z()};
}

// What is said of a model in a tunnel, in words and for programs.
class CheckList {
  public:
    CheckList(const campaign::Campaign& c, const Talk& talk)
        : c_(c),
          model_(campaign::placedModel(c)),
          measures_(campaign::measure(c, model_)),
          reference_(campaign::resolveReference(c.settings.reference, measures_, c.settings.tunnel.halfModel)),
          talk_(talk) {}

    Outcome make() {
        model();
        devices();
        for (const auto& w : campaign::conditionsOf(c_.settings.schedule)) {
            const auto sentence = air::windSentence(campaign::windOf(c_.settings, w), reference_.length);
            line("{}", sentence);
            out_.value["winds"].push_back(sentence);
        }
        const auto grid = campaign::gridSummary(c_);
        line("Grid: {}", grid.empty() ? "none for these settings" : grid);
        out_.value["grid"] = grid.empty() ? json(nullptr) : json(grid);
        out_.value["remarks"] = json::array();
        out_.value["blocked"] = false;
        for (const auto& r : campaign::preflight(c_, measures_)) {
            line("{}: {} {}", r.blocks ? "Must be mended" : "Look at", r.text, waysOut(r));
            json mends = json::array();
            for (const auto& m : r.mends) mends.push_back({{"words", m.words}, {"setting", m.assignment}});
            out_.value["remarks"].push_back({{"blocks", r.blocks}, {"text", r.text}, {"mends", mends}});
            if (r.blocks) out_.value["blocked"] = true;
        }
        return std::move(out_);
    }

  private:
    template <class... Args>
    void line(fmt::format_string<Args...> form, Args&&... args) {
        fmt::format_to(std::back_inserter(out_.text), form, std::forward<Args>(args)...);
        out_.text += '\n';
    }

    void model() {
        const Vec3 size = measures_.bounds.size();
        line("Model: {} facets, {} {}, {:.4g} x {:.4g} x {:.4g} m", model_.facets.size(), model_.parts.size(),
             model_.parts.size() == 1 ? "part" : "parts", size.x(), size.y(), size.z());
        json parts = json::array();
        for (const auto& part : model_.parts) {
            line("  part {}{}", part.name, part.inTheAir ? "" : " (hidden)");
            parts.push_back({{"name", part.name}, {"in_the_air", part.inTheAir}});
        }
        const auto health = shape::checkHealth(shape::withoutHiddenParts(model_), progressTo(talk_)).sentence();
        line("Surface: {}", health);
        line("Areas: frontal {:.5g} m2, side {:.5g} m2, planform {:.5g} m2{}", measures_.frontal, measures_.side,
             measures_.planform, c_.settings.tunnel.halfModel ? " (whole model)" : "");
        if (const auto extent = campaign::extentSentence(c_.settings); !extent.empty()) line("Extent: {}", extent);
        line("Reference: S {:.5g} m2, c {:.5g} m, b {:.5g} m, moment centre {:.4g} {:.4g} {:.4g} m", reference_.area,
             reference_.length, reference_.span, reference_.momentCentre.x(), reference_.momentCentre.y(),
             reference_.momentCentre.z());
        out_.value["model"] = {{"facets", model_.facets.size()},   {"parts", parts},
                               {"size_m", listOf(size)},           {"surface", health},
                               {"frontal_m2", measures_.frontal},  {"side_m2", measures_.side},
                               {"planform_m2", measures_.planform}};
        out_.value["reference"] = {{"area_m2", reference_.area},
                                   {"length_m", reference_.length},
                                   {"span_m", reference_.span},
                                   {"moment_centre_m", listOf(reference_.momentCentre)}};
        // A whole aircraft would fill the screen: campaign.json has it.
        const auto shortly = [](const json& patch) {
            constexpr std::size_t kMost = 200;
            const auto text = patch.dump();
            return text.size() > kMost ? text.substr(0, kMost) + "..." : text;
        };
        for (const auto& v : c_.settings.configurations) line("Configuration {}: {}", v.name, shortly(v.patch));
        for (const auto& v : c_.settings.setUps) line("Set-up {}: {}", v.name, shortly(v.patch));
    }

    void devices() {
        const auto& s = c_.settings;
        for (const auto& w : s.devices.wheels) {
            const auto m = campaign::motionOf(w, model_, campaign::tunnelFor(s, model_), s.schedule.speeds.front());
            const Vec3 axle = m.spin.normalized();
            line("Wheel {}: {:.0f} rpm at {} m/s about {:.3f} {:.3f} {:.3f} through {:.4g} {:.4g} {:.4g} m", w.part,
                 m.spin.norm() * 30.0 / std::acos(-1.0), s.schedule.speeds.front(), axle.x(), axle.y(), axle.z(),
                 m.centre.x(), m.centre.y(), m.centre.z());
        }
        for (const auto& r : s.devices.roughParts) line("Rough: {} with sand grains of {:.3g} m", r.part, r.sandGrain);
        for (const auto& d : campaign::discsOf(s))
            line("Disc {}: radius {:.4g} m, {}", d.name, d.outer,
                 d.thrust != 0.0 ? fmt::format("thrust {:.4g} N", d.thrust) : fmt::format("power {:.4g} W", d.power));
        for (const auto& b : s.devices.blocks)
            line("Porous block {}: {:.4g} 1/m2, {:.4g} 1/m", b.name, b.linear, b.quadratic);
    }

    const campaign::Campaign& c_;
    shape::Surface model_;
    campaign::ModelMeasures measures_;
    air::Reference reference_;
    const Talk& talk_;
    Outcome out_;
};

Outcome check(const json& a, const Talk& talk) {
    const auto base = campaign::Campaign::open(textIn(a, "campaign"));
    auto out = CheckList(base.of(textIn(a, "configuration"), textIn(a, "set-up")), talk).make();
    if (out.value["blocked"] == true) {
        talk({{"text", out.text}, {"check", out.value}});
        throw base::InputError("the campaign cannot be run as it is.", base.folder().string(),
                               "Mend what is listed above.");
    }
    return out;
}

// The grids that points ask for, each once, by the point that names it.
std::vector<campaign::Campaign> buildsOf(const campaign::Campaign& base, const std::vector<campaign::Point>& points) {
    std::vector<campaign::Campaign> out;
    std::set<std::string> seen;
    for (const auto& p : points)
        if (const auto c = base.of(p); seen.insert(campaign::gridKey(c)).second) out.push_back(c);
    return out;
}

Outcome makeGrids(const json& a, const Talk& talk) {
    const auto base = campaign::Campaign::open(textIn(a, "campaign"));
    Outcome out;
    auto points = campaign::pointsOf(base.settings);
    if (a.contains("configuration") || a.contains("set-up"))
        std::erase_if(points, [&](const auto& p) {
            return (a.contains("configuration") && p.configuration != textIn(a, "configuration")) ||
                   (a.contains("set-up") && p.setUp != textIn(a, "set-up"));
        });
    if (points.empty()) base.of(textIn(a, "configuration"), textIn(a, "set-up"));  // says which of them there is not
    for (const auto& c : buildsOf(base, points)) {
        campaign::makeGrid(c, progressTo(talk));
        out.text += campaign::gridSummary(c) + "\n";
        out.value["grids"].push_back({{"file", fs::relative(campaign::gridFile(c), c.folder()).string()},
                                      {"summary", campaign::gridSummary(c)}});
    }
    return out;
}

Outcome run(const json& a, const Talk& talk) {
    auto base = campaign::Campaign::open(textIn(a, "campaign"));
    campaign::StartOptions options{a.value("further", 0), a.value("again", false), a.value("oversubscribe", false)};
    const int ranks = a.value("ranks", campaign::cores());
    campaign::checkRanks(ranks, 0, options.oversubscribe);
    if (options.anew && options.further > 0)
        throw base::InputError("--again and --further exclude each other.", "run",
                               "A new run begins anew; a further one goes on.");
    std::vector<campaign::Point> points;
    for (const auto& name : textsIn(a, "point")) points.push_back(campaign::pointNamed(base.settings, name));
    if (points.empty()) points = campaign::pointsOf(base.settings);
    PointRunner runner(base, ranks, options, talk);
    std::vector<campaign::Point> onGrids;
    for (const auto& p : points)
        if (campaign::runnerOf(p.method).needsGrid()) onGrids.push_back(p);
    for (const auto& c : buildsOf(base, onGrids)) {
        for (const auto& r : campaign::preflight(c, runner.book().measures(c)))
            if (r.blocks) throw base::InputError(r.text, c.folder().string(), waysOut(r));
        if (!campaign::gridIsCurrent(c) || !campaign::gridIsWhole(c)) {
            talk({{"text", "Making the grid\n"}});
            campaign::makeGrid(c, progressTo(talk));
        }
        talk({{"text", fmt::format("Grid: {}\n", campaign::gridSummary(c))}});
    }
    if (const auto seconds = campaign::secondsForeseen(campaign::reportsOf(base, runner.book())))
        talk({{"text", fmt::format("{} by the points already run\n", base::TimeLeft::wordsFor(*seconds))},
              {"foreseen_s", *seconds}});
    bool goesOn = true;
    for (const auto& p : points) goesOn = goesOn && runner.run(p);
    if (textsIn(a, "point").empty())
        for (const auto& held : base.settings.schedule.held) goesOn = goesOn && (!held.on || runner.hold(held));
    base = campaign::Campaign::open(base.folder());  // with the tries of what was held
    const auto reports = campaign::reportsOf(base, runner.book());
    return {{{"points", campaign::jsonTable(reports)}}, campaign::textTable(reports), runner.code()};
}

Outcome save(const json& a, const Talk&) {
    const auto c = campaign::Campaign::open(textIn(a, "campaign"));
    int asked = 0;
    for (const auto& p : campaign::pointsOf(c.settings))
        if (const auto running = campaign::PointRun::attach(c, p)) {
            running->askToSave();
            ++asked;
        }
    if (asked == 0)
        throw base::InputError("no point is running.", c.folder().string(),
                               "Points that are stopped or done have their checkpoints already.");
    return {{{"asked", asked}},
            fmt::format("{} asked to write a checkpoint\n",
                        asked == 1 ? "1 point was" : fmt::format("{} points were", asked)),
            0};
}
}  // namespace

std::vector<Action> workActions() {
    const Argument folder{"campaign", Text, "the campaign's folder", true, true};
    return {{"check",
             "measure the model, look for mistakes",
             {folder, {"configuration", Text, "which one"}, {"set-up", Text, "which one"}},
             check},
            {"grid",
             "make the grids of the present settings",
             {folder, {"configuration", Text, "of this one only"}, {"set-up", Text, "of this one only"}},
             makeGrids},
            {"run",
             "run the points of the schedule that are not done",
             {folder,
              {"point", Texts, "only these points, by name"},
              {"ranks", Whole, "MPI ranks", false, false, 0, {}, 1, 4096},
              {"oversubscribe", Flag, "more ranks than cores are meant"},
              {"again", Flag, "also points that are done: a new run beside the old one"},
              {"further",
               Whole,
               "as many iterations beyond what is done, settled or not",
               false,
               false,
               0,
               {},
               1,
               1000000}},
             run},
            {"save", "let running points write a checkpoint now", {folder}, save}};
}

}  // namespace cvane::command
