#include <fmt/format.h>

#include <cstdio>

#include "base/errors.h"
#include "campaign/plan/points.h"
#include "campaign/steps/reports.h"
#include "campaign/store/stored_flow.h"
#include "command/edit.h"
#include "command/groups.h"
#include "view/item_shape.h"
#include "view/picture.h"

namespace cvane::command {
using nlohmann::json;
using enum Argument::Kind;

namespace {
const std::pair<const char*, view::Look> kLooks[] = {{"oblique", view::Look::Oblique}, {"side", view::Look::Side},
                                                     {"front", view::Look::Front},     {"back", view::Look::Back},
                                                     {"above", view::Look::Above},     {"below", view::Look::Below}};

/// One point, or all that have a flow: numbered files then.
Outcome picture(const json& a, const Talk& talk) {
    const auto c = campaign::Campaign::open(textIn(a, "campaign"));
    const bool all = a.value("all", false);
    if (all == a.contains("point"))
        throw base::InputError("asks for no point, or for one and all.", "picture", "Name a point, or give --all.");
    view::PictureSettings s;
    if (a.contains("size")) {
        const auto size = textIn(a, "size");
        char rest = 0;
        if (std::sscanf(size.c_str(), "%dx%d%c", &s.width, &s.height, &rest) != 2)
            throw base::InputError(fmt::format("\"{}\" is no size.", size), "size", "Give it as 1600x900.");
    }
    for (const auto& [name, look] : kLooks)
        if (a.value("from", std::string("oblique")) == name) s.look = look;
    s.zoom = a.value("zoom", 1.0);
    s.dark = a.value("dark", false);
    s.perspective = a.value("perspective", false);
    std::vector<campaign::Point> points;
    if (all)
        points = campaign::pointsOf(c.settings);
    else
        points.push_back(campaign::pointNamed(c.settings, textIn(a, "point")));
    const std::filesystem::path out = textIn(a, "out");
    json files = json::array();
    int number = 0;
    for (const auto& point : points) {
        ++number;
        const auto seen = c.of(point);
        if (all && !campaign::shownRun(seen, point)) continue;
        const auto flow = campaign::openFlow(runOf(c, point));
        const auto& own = seen.settings.flowItems;
        s.caption = fmt::format("{}: {} m/s, alpha {} deg, beta {} deg", c.settings.name, point.condition.speed,
                                point.condition.alpha_deg, point.condition.beta_deg);
        auto file = out;
        if (all)
            file.replace_filename(fmt::format("{}-{:03}{}", out.stem().string(), number, out.extension().string()));
        for (const auto& trouble : view::writePicture(*flow, own.empty() ? view::firstItems(*flow) : own, s, file))
            talk({{"warning", fmt::format("{}: {}", point.name(), trouble)}});
        files.push_back(file.string());
        if (!talk({{"progress", static_cast<double>(number) / static_cast<double>(points.size())},
                   {"doing", file.filename().string()}}))
            throw base::Cancelled();
    }
    if (files.empty()) throw base::InputError("no point has been run.", c.settings.name, "Run the schedule first.");
    return {{{"files", files}}, "", 0};
}
}  // namespace

std::vector<Action> pictureActions() {
    std::vector<std::string> looks;
    for (const auto& [name, look] : kLooks) looks.emplace_back(name);
    return {{"picture",
             "what the stage Flow shows of a point, as a PNG; no display is needed",
             {{"campaign", Text, "the campaign's folder", true, true},
              {"point", Text, "name of the point", false, true},
              {"all", Flag, "all points that have been run, into numbered files"},
              {"out", Text, "the PNG file", true},
              {"size", Text, "in pixels, as 1600x900"},
              {"from", Text, "where it looks from", false, false, 0, looks},
              {"zoom", Number, "1: the model fills most of it", false, false, 0, {}, 0.01, 1000},
              {"perspective", Flag, "near things larger; without it parallel"},
              {"dark", Flag, "on a dark ground"}},
             picture}};
}

}  // namespace cvane::command
