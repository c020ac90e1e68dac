#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <optional>

#include "base/errors.h"
#include "base/files.h"
#include "campaign/plan/points.h"
#include "campaign/steps/reports.h"
#include "campaign/store/run_standing.h"
#include "campaign/store/stored_flow.h"
#include "command/edit.h"
#include "command/film_file.h"
#include "command/groups.h"
#include "view/item_shape.h"
#include "view/picture.h"

namespace cvane::command {
using nlohmann::json;
using enum Argument::Kind;

namespace {
const std::pair<const char*, view::Look> kLooks[] = {{"oblique", view::Look::Oblique},     {"side", view::Look::Side},
                                                     {"starboard", view::Look::Starboard}, {"front", view::Look::Front},
                                                     {"back", view::Look::Back},           {"above", view::Look::Above},
                                                     {"below", view::Look::Below}};
constexpr int kMostFrames = 2000;

/// What pictures of a campaign's points are drawn by.
struct Plan {
    view::PictureSettings settings;
    std::vector<campaign::FlowItem> items;  ///< of the view that is asked for
    bool isView = false;
};

Plan planOf(const json& a, const campaign::Campaign& c) {
    Plan p;
    auto& s = p.settings;
    if (a.contains("size")) {
        const auto size = textIn(a, "size");
        char rest = 0;
        if (std::sscanf(size.c_str(), "%dx%d%c", &s.width, &s.height, &rest) != 2)
            throw base::InputError(fmt::format("\"{}\" is no size.", size), "size", "Give it as 1600x900.");
    }
    for (const auto& [name, look] : kLooks)
        if (a.value("from", std::string("oblique")) == name) s.look = look;
    s.zoom = a.value("zoom", 1.0);
    s.perspective = a.value("perspective", false);
    s.dark = a.value("dark", false);
    s.surroundings = !a.value("bare", false);
    if (a.contains("eye")) {
        view::Camera c;
        c.eye = vectorIn(a, "eye", c.eye);
        c.focus = vectorIn(a, "focus", c.focus);
        c.up = vectorIn(a, "up", c.up);
        c.height = a.value("height", (c.eye - c.focus).norm());
        c.perspective = s.perspective;
        if (!((c.eye - c.focus).cross(c.up).norm() > 0.0))
            throw base::InputError("looks nowhere, or along what is upright.", "eye",
                                   "Give --eye, --focus and --up that are not on one line.");
        s.camera = c;
    }
    if (!a.contains("view")) return p;
    const auto name = textIn(a, "view");
    const auto& views = c.settings.views;
    const auto v = std::find_if(views.begin(), views.end(), [&](const auto& one) { return one.name == name; });
    if (v == views.end()) {
        std::string known;
        for (const auto& one : views) known += (known.empty() ? "" : ", ") + one.name;
        throw base::InputError(fmt::format("there is no view \"{}\".", name), c.settings.name,
                               known.empty() ? "Keep one in the stage Flow." : fmt::format("There are: {}.", known));
    }
    s.camera = view::Camera{v->eye, v->focus, v->up, v->height, v->perspective};
    s.dark = s.dark || v->dark;
    p.items = v->items;
    p.isView = true;
    return p;
}

/// A point's flow, with what is drawn of it and under which words.
struct Subject {
    std::shared_ptr<const field::FlowField> flow;
    std::vector<campaign::FlowItem> items;
    std::string caption;
    std::optional<double> ground;
};

Subject subjectOf(const campaign::Campaign& c, const campaign::Point& point, const Plan& plan) {
    Subject out;
    const auto seen = c.of(point);
    const auto run = runOf(c, point);
    out.flow = campaign::openFlow(run);
    const auto& own = seen.settings.flowItems;
    out.items = plan.isView ? plan.items : own.empty() ? view::firstItems(*out.flow) : own;
    out.caption = fmt::format("{}: {} m/s, alpha {} deg, beta {} deg", c.settings.name, point.condition.speed,
                              point.condition.alpha_deg, point.condition.beta_deg);
    if (const auto result = campaign::standingOf(run).result; result && result->provisional())
        out.caption += fmt::format("; provisional, after {} iterations", result->iterations);
    out.ground = view::groundOf(*out.flow, seen.settings.tunnel);
    return out;
}

void draw(const Subject& of, view::PictureSettings s, const std::filesystem::path& file, const std::string& point,
          const Talk& talk) {
    s.caption = of.caption;
    s.ground = of.ground;
    for (const auto& trouble : view::writePicture(*of.flow, of.items, s, file))
        talk({{"warning", fmt::format("{}: {}", point, trouble)}});
}

void go(const Talk& talk, int done, std::size_t of, const std::filesystem::path& file) {
    if (!talk({{"progress", static_cast<double>(done) / static_cast<double>(of)}, {"doing", file.filename().string()}}))
        throw base::Cancelled();
}

/// The points that have been run, in the order of the schedule.
std::vector<campaign::Point> pointsRun(const campaign::Campaign& c) {
    std::vector<campaign::Point> out;
    for (const auto& point : campaign::pointsOf(c.settings))
        if (const auto run = campaign::runWithValues(c, point); run && campaign::standingOf(*run).result)
            out.push_back(point);
    if (out.empty()) throw base::InputError("no point has been run.", c.settings.name, "Run the schedule first.");
    return out;
}

/// One point, or all that have a flow: numbered files then.
Outcome picture(const json& a, const Talk& talk) {
    const auto c = campaign::Campaign::open(textIn(a, "campaign"));
    const bool all = a.value("all", false);
    if (all == a.contains("point"))
        throw base::InputError("asks for no point, or for one and all.", "picture", "Name a point, or give --all.");
    const auto plan = planOf(a, c);
    const std::filesystem::path out = textIn(a, "out");
    json files = json::array();
    if (!all) {
        const auto point = campaign::pointNamed(c.settings, textIn(a, "point"));
        draw(subjectOf(c, point, plan), plan.settings, out, point.name(), talk);
        files.push_back(out.string());
    } else {
        const auto points = pointsRun(c);
        for (const auto& point : points) {
            const auto file = numberedPicture(out, static_cast<int>(files.size()) + 1);
            draw(subjectOf(c, point, plan), plan.settings, file, point.name(), talk);
            files.push_back(file.string());
            go(talk, static_cast<int>(files.size()), points.size(), file);
        }
    }
    return {{{"files", files}}, "", 0};
}

/// Pictures one after the other: through points, with a slice that moves, or around the model.
Outcome film(const json& a, const Talk& talk) {
    const auto c = campaign::Campaign::open(textIn(a, "campaign"));
    auto plan = planOf(a, c);
    const std::filesystem::path out = textIn(a, "out");
    const auto kind = out.extension().string();
    if (kind != ".png" && kind != ".mp4" && kind != ".webm")
        throw base::InputError(fmt::format("\"{}\" is no kind of film.", kind), "out",
                               "Give it as .mp4 or .webm, or as .png for the pictures alone.");
    const auto through = textIn(a, "through");
    const auto frames = static_cast<std::size_t>(std::lround(a.value("frames", 48.0)));
    json files = json::array();
    const auto next = [&] { return numberedPicture(out, static_cast<int>(files.size()) + 1); };
    const auto take = [&](const Subject& subject, const std::string& point, std::size_t of) {
        const auto file = next();
        draw(subject, plan.settings, file, point, talk);
        files.push_back(file.string());
        go(talk, static_cast<int>(files.size()), of, file);
    };
    if (through == "points") {
        const auto points = pointsRun(c);
        for (const auto& point : points) take(subjectOf(c, point, plan), point.name(), points.size());
    } else {
        if (!a.contains("point")) throw base::InputError("asks for no point.", "film", "Name the one that is shown.");
        const auto point = campaign::pointNamed(c.settings, textIn(a, "point"));
        auto subject = subjectOf(c, point, plan);
        const auto caption = subject.caption;
        if (through == "turn") {
            for (std::size_t k = 0; k < frames; ++k) {
                plan.settings.turn_deg = 360.0 * static_cast<double>(k) / static_cast<double>(frames);
                take(subject, point.name(), frames);
            }
        } else {
            const auto wanted = a.contains("item") ? textIn(a, "item") : std::string();
            const auto item = std::find_if(subject.items.begin(), subject.items.end(), [&](const auto& i) {
                return i.shown && i.kind == campaign::FlowItem::Kind::Slice && (wanted.empty() || i.name == wanted);
            });
            if (item == subject.items.end())
                throw base::InputError(wanted.empty() ? "no slice is shown."
                                                      : fmt::format("no slice that is shown is named \"{}\".", wanted),
                                       "film", "Add one in the stage Flow, or choose another view.");
            const Vec3 n = item->normal.normalized();
            const Box walls = view::wallsOf(*subject.flow);
            const double middle = n.dot(walls.centre()), reach = 0.5 * n.cwiseAbs().dot(walls.size());
            const double from = a.value("first", middle - reach), to = a.value("last", middle + reach);
            for (std::size_t k = 0; k < frames; ++k) {
                const double at =
                    frames < 2 ? from : from + (to - from) * static_cast<double>(k) / static_cast<double>(frames - 1);
                item->through += (at - n.dot(item->through)) * n;
                subject.caption = fmt::format("{}; {} at {:.4g} m", caption, item->name, at);
                take(subject, point.name(), frames);
            }
        }
    }
    if (kind != ".png") {
        const auto trouble = joinPictures(out, a.value("frames_a_second", through == "points" ? 2.0 : 12.0));
        if (!trouble.empty())
            talk({{"warning", trouble}});
        else
            return {{{"files", files}, {"film", out.string()}}, "", 0};
    }
    return {{{"files", files}}, "", 0};
}

std::vector<Argument> lookArguments(std::vector<Argument> own) {
    std::vector<std::string> looks;
    for (const auto& [name, look] : kLooks) looks.emplace_back(name);
    const std::vector<Argument> rest{
        {"view", Text, "a view that was kept, with what it shows; without it all items of the campaign"},
        {"size", Text, "in pixels, as 1600x900"},
        {"from", Text, "where it looks from, without a view", false, false, 0, looks},
        {"zoom", Number, "1: the model fills most of it", false, false, 0, {}, 0.01, 1000},
        {"eye", Numbers, "instead: from where it looks [m]", false, false, 3},
        {"focus", Numbers, "to where [m]", false, false, 3},
        {"up", Numbers, "what is upright; without it z", false, false, 3},
        {"height", Number, "of what is seen at the focus [m]", false, false, 0, {}, 1e-9, 1e6},
        {"perspective", Flag, "near things larger; without it parallel"},
        {"dark", Flag, "on a dark ground"},
        {"bare", Flag, "without axes, scale and ground"}};
    own.insert(own.end(), rest.begin(), rest.end());
    return own;
}
}  // namespace

std::vector<Action> pictureActions() {
    return {{"picture", "what the stage Flow shows of a point, as a PNG; no display is needed",
             lookArguments({{"campaign", Text, "the campaign's folder", true, true},
                            {"point", Text, "name of the point", false, true},
                            {"all", Flag, "all points that have been run, into numbered files"},
                            {"out", Output, "the PNG file", true}}),
             picture},
            {"film", "numbered pictures, joined where ffmpeg is installed; no display is needed",
             lookArguments({{"campaign", Text, "the campaign's folder", true, true},
                            {"point", Text, "name of the point, unless it goes through them", false, true},
                            {"through",
                             Text,
                             "points: all that have been run; slice: one that moves; turn: around the model",
                             true,
                             false,
                             0,
                             {"points", "slice", "turn"}},
                            {"out", Output, "the film (.mp4, .webm), or .png for the pictures alone", true},
                            {"item", Text, "name of the slice that moves; without it the first"},
                            {"first", Number, "its first place along its normal [m]; without it the model's end"},
                            {"last", Number, "its last place [m]"},
                            {"frames", Whole, "how many pictures", false, false, 0, {}, 1, kMostFrames},
                            {"frames_a_second", Number, "of the film", false, false, 0, {}, 0.1, 120}}),
             film}};
}

}  // namespace cvane::command
