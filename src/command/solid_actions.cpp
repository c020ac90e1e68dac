#include <fmt/format.h>

#include "command/groups.h"
#include "solid/solid_file.h"

namespace cvane::command {
using nlohmann::json;
using enum Argument::Kind;

namespace {
std::string textOf(const json& found) {
    std::string text;
    for (const auto& b : found.at("bodies")) {
        text += fmt::format("{:30} {:8.4g} x {:.4g} x {:.4g} m  {}", b.at("name").get<std::string>(),
                            b.at("size_m")[0].get<double>(), b.at("size_m")[1].get<double>(),
                            b.at("size_m")[2].get<double>(),
                            b.at("sheet").get<bool>() ? std::string("sheet, encloses nothing")
                                                      : fmt::format("{:.4g} m3", b.at("volume_m3").get<double>()));
        if (b.at("holds_the_others")) text += ", a box around all others: left out of the air";
        if (const auto in = b.at("within").get<std::string>(); !in.empty()) text += fmt::format(", in {}", in);
        text += "\n";
    }
    for (const auto& f : found.at("facets_by_tolerance"))
        text += fmt::format("facet tolerance {:.3g} m: {} facets\n", f.at("tolerance_m").get<double>(),
                            f.at("facets").get<std::size_t>());
    return text;
}

Outcome solids(const json& a, const Talk&) {
    const solid::SolidFile file(textIn(a, "file"));
    json out{{"bodies", json::array()}, {"size_m", file.size()}, {"facets_by_tolerance", json::array()}};
    for (const auto& b : file.bodies()) {
        const Vec3 size = b.box.size();
        json body{{"name", b.name},
                  {"within", b.within},
                  {"size_m", {size.x(), size.y(), size.z()}},
                  {"volume_m3", b.volume},
                  {"area_m2", b.area},
                  {"sheet", b.isSheet},
                  {"holds_the_others", b.holdsTheOthers}};
        if (b.colour) body["colour"] = *b.colour;
        out["bodies"].push_back(std::move(body));
    }
    const auto facets =
        a.contains("tolerance") ? std::vector{file.facetsAt(a["tolerance"].get<double>())} : file.facetChoices();
    for (const auto& f : facets)
        out["facets_by_tolerance"].push_back({{"tolerance_m", f.tolerance}, {"facets", f.count}});
    const auto text = textOf(out);
    return {std::move(out), text, 0};
}
}  // namespace

std::vector<Action> solidActions() {
    return {{"solids",
             "what a STEP or IGES file holds, and how many facets it takes",
             {{"file", Text, "STEP or IGES file", true, true},
              {"tolerance", Number, "how far facets may stand off curved faces [m]"}},
             solids}};
}

}  // namespace cvane::command
