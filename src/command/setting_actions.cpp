#include <fmt/format.h>

#include <algorithm>

#include "base/errors.h"
#include "base/text.h"
#include "base/units.h"
#include "campaign/settings/set_field.h"
#include "campaign/settings/variants.h"
#include "campaign/steps/model_stage.h"
#include "command/edit.h"
#include "command/groups.h"
#include "shape/import.h"
#include "vehicle/outline_json.h"
#include "wing/aircraft_json.h"

namespace cvane::command {
using nlohmann::json;
using enum Argument::Kind;

namespace {

vehicle::Outline outlineNamed(const std::string& file) {
    return file == "sketch" ? vehicle::startingOutline() : vehicle::readOutline(file);
}

Outcome makeNew(const json& a, const Talk& talk) {
    campaign::Settings trial;
    for (const auto& s : textsIn(a, "set")) campaign::setField(trial, s);  // refuse before anything is made
    if (a.contains("model") + a.contains("wing") + a.contains("outline") > 1)
        throw base::InputError("more than one of model, wing and outline is given.", textIn(a, "campaign"),
                               "Give one of them.");
    if (!a.contains("model") && !a.contains("wing") && !a.contains("outline")) {
        auto c = campaign::Campaign::createEmpty(textIn(a, "campaign"));
        for (const auto& s : textsIn(a, "set")) campaign::setField(c.settings, s);
        c.save();
        return {{{"campaign", c.folder().string()}, {"parts", json::array()}}, {}, 0};
    }
    const auto unit = a.value("unit", std::string("m"));
    auto c =
        a.contains("wing") ? campaign::Campaign::create(textIn(a, "campaign"), wing::readAircraft(textIn(a, "wing")))
        : a.contains("outline") ? campaign::Campaign::create(textIn(a, "campaign"), outlineNamed(textIn(a, "outline")))
                                : campaign::Campaign::create(textIn(a, "campaign"), textIn(a, "model"), unit);
    for (const auto& s : textsIn(a, "set")) campaign::setField(c.settings, s);
    c.save();
    const auto remark =
        shape::sizeRemark(campaign::placedModel(c).bounds(), base::unitNamed(base::lengthUnits(), unit).inSI);
    if (!remark.empty()) talk({{"warning", "Look at: " + remark}});
    json parts = json::array();
    for (const auto& p : c.settings.model.parts) parts.push_back(p.name);
    return {{{"campaign", c.folder().string()}, {"parts", parts}}, {}, 0};
}

Outcome set(const json& a, const Talk&) {
    edit(a, [&](campaign::Campaign& c) {
        for (const auto& s : textsIn(a, "settings")) campaign::setField(c.settings, s);
    });
    return {};
}

Outcome parts(const json& a, const Talk&) {
    edit(a, [&](campaign::Campaign& c) {
        for (const auto& n : textsIn(a, "hide")) partNamed(c.settings, n).inTheAir = false;
        for (const auto& n : textsIn(a, "show")) partNamed(c.settings, n).inTheAir = true;
        const auto rename = textsIn(a, "rename");
        if (rename.size() % 2 != 0)
            throw base::InputError("a part is renamed by two names.", "rename",
                                   "Give the present name and the new one.");
        for (std::size_t i = 0; i < rename.size(); i += 2) {
            if (rename[i + 1] != base::printable(rename[i + 1]))
                throw base::InputError("holds signs that cannot be shown.", base::printable(rename[i + 1]),
                                       "Choose another name.");
            campaign::renamePart(c.settings, rename[i], rename[i + 1]);
        }
    });
    return {};
}

Outcome finer(const json& a, const Talk&) {
    edit(a, [&](campaign::Campaign& c) {
        auto& g = c.settings.grid;
        if (a.value("clear", false)) {
            g.finerPlaces.clear();
            g.finerParts.clear();
        }
        const double cell = a.value("cell", 0.0);
        const auto place = [&](const char* name, grid::FinerPlace::Shape shape, std::size_t to, std::size_t radius) {
            if (!a.contains(name)) return;
            if (!(cell > 0.0))
                throw base::InputError("a place needs a cell size.", textIn(a, "campaign"),
                                       "Add --cell with a length in metres.");
            const auto v = a.at(name).get<std::vector<double>>();
            const auto at = [&](std::size_t i) { return Vec3(v[i], v[i + 1], v[i + 2]); };
            g.finerPlaces.push_back({shape, at(0), at(to), radius > 0 ? v[radius] : 0.0, cell});
        };
        place("box", grid::FinerPlace::Shape::Box, 3, 0);
        place("ball", grid::FinerPlace::Shape::Ball, 0, 3);
        place("cylinder", grid::FinerPlace::Shape::Cylinder, 3, 6);
        if (a.contains("part")) g.finerParts[partNamed(c.settings, textIn(a, "part")).name] = a.value("levels", 1);
    });
    return {};
}

// Makes, renames or takes out a configuration or set-up.
Outcome variant(const json& a, std::vector<campaign::Variant> campaign::Settings::*list) {
    auto c = campaign::Campaign::open(textIn(a, "campaign"));
    auto& variants = c.settings.*list;
    const auto name = textIn(a, "name");
    const bool model = list == &campaign::Settings::configurations;
    const auto of = model ? campaign::VariantKind::Configuration : campaign::VariantKind::SetUp;
    if (a.value("remove", false)) {
        campaign::removeVariant(c.settings, of, name, c.folder().string());
    } else if (a.contains("rename")) {
        campaign::renameVariant(c.settings, of, name, textIn(a, "rename"), c.folder().string());
    } else if (std::none_of(variants.begin(), variants.end(), [&](const auto& v) { return v.name == name; })) {
        variants.push_back({name, json::object()});
        campaign::checkVariantName(variants, c.folder().string());
    }
    if (!textsIn(a, "set").empty()) {
        auto seen = campaign::resolved(c.settings, model ? name : "", model ? "" : name, c.folder().string());
        for (const auto& s : textsIn(a, "set")) campaign::setField(seen, s);
        c.settings = folded(c.settings, model ? name : "", model ? "" : name, seen);
    }
    campaign::checkRanges(c.settings, c.folder().string());
    c.save();
    return {};
}

std::vector<Argument> variantArguments(const char* kind) {
    return {{"campaign", Text, "the campaign's folder", true, true},
            {"name", Text, fmt::format("name of the {}", kind), true, true},
            {"set", Texts, "settings that it changes, as group.field=value"},
            {"rename", Text, "give it this name"},
            {"remove", Flag, "take it out; its results stay in the folder"}};
}
}  // namespace

std::vector<Action> settingActions() {
    return {
        {"new",
         "make a campaign folder from a surface file, or from an aircraft's numbers",
         {{"campaign", Text, "folder to make, by habit name.cvane", true, true},
          {"model", Text, "STL, OBJ, PLY, STEP or IGES file; none for a campaign of sections"},
          {"wing", Text, "an aircraft's file (JSON), whose surface is the model"},
          {"outline", Text, "a vehicle's outline (JSON), whose surface is the model; \"sketch\": one to begin with"},
          {"unit", Text, "unit of the file: mm, cm, m, in, ft; solids know theirs"},
          {"set", Texts, "settings as group.field=value"}},
         makeNew},
        {"set", "change settings, named as in campaign.json",
         editArguments({{"settings", Texts, "group.field=value ...", true, true}}), set},
        {"parts", "take parts out of the air, put them back or rename them",
         editArguments({{"hide", Texts, "names of parts"},
                        {"show", Texts, "names of parts"},
                        {"rename", Texts, "the present name and the new one"}}),
         parts},
        {"finer", "ask for smaller cells on parts or in places",
         editArguments({{"box", Numbers, "two opposite corners: x y z x y z [m]", false, false, 6},
                        {"ball", Numbers, "middle and radius: x y z r [m]", false, false, 4},
                        {"cylinder", Numbers, "middles of both ends and radius: x y z x y z r [m]", false, false, 7},
                        {"cell", Number, "largest cell in that place [m]"},
                        {"part", Text, "name of a part"},
                        {"levels", Whole, "how many times its cells are halved"},
                        {"clear", Flag, "first take back all that was asked for"}}),
         finer},
        {"configuration", "another build of the model: parts, reference values, devices",
         variantArguments("configuration"),
         [](const json& a, const Talk&) { return variant(a, &campaign::Settings::configurations); }},
        {"set-up", "another tunnel for the model: ground, sides, grid, flow, air", variantArguments("set-up"),
         [](const json& a, const Talk&) { return variant(a, &campaign::Settings::setUps); }}};
}

}  // namespace cvane::command
