#include <fmt/format.h>

#include <algorithm>

#include "base/errors.h"
#include "campaign/settings/earlier_names.h"
#include "campaign/settings/fields.h"
#include "campaign/settings/schema_1.h"
#include "campaign/settings/settings.h"
#include "campaign/settings/variants.h"
#include "vehicle/body_skin.h"

namespace cvane::campaign {
using nlohmann::json;

namespace {
constexpr int kSchema = 2;

json variantsJson(const std::vector<Variant>& variants) {
    json out = json::array();
    for (const auto& v : variants) out.push_back({{"name", v.name}, {"patch", v.patch}});
    return out;
}

[[noreturn]] void failUnknown(const std::string& path, const std::string& key, const std::vector<std::string>& known,
                              const std::string& where) {
    const auto near = nearestName(key, known);
    const std::string full = path.empty() ? key : path + "." + key;
    throw base::InputError(fmt::format("the field \"{}\" is unknown.", full), where,
                           near.empty() ? "Take it out, or open the campaign with the version that wrote it."
                                        : fmt::format("Is \"{}\" meant?", near));
}

std::vector<Variant> variantsFrom(const json& j, const std::string& name, const std::string& where) {
    const auto fail = [&](const std::string& what) {
        throw base::InputError(fmt::format("the field \"{}\" {}.", name, what), where,
                               "Give a list of {\"name\": .., \"patch\": {..}}.");
    };
    std::vector<Variant> out;
    if (!j.is_array()) fail("is not a list");
    for (const auto& v : j) {
        if (!v.is_object() || !v.contains("name") || !v["name"].is_string() || !v.contains("patch") ||
            !v["patch"].is_object() || v.size() != 2)
            fail("holds something else than names and patches");
        out.push_back({v["name"].get<std::string>(), v["patch"]});
        checkVariantName(out, where);
    }
    return out;
}

Settings groupsFrom(const json& j, const std::string& where) {
    Settings s;
    std::vector<std::string> tops{"schema", "name", "configurations", "set_ups"};
    for (const auto& g : settingGroups()) tops.push_back(g.name);
    for (const auto& l : settingLists()) tops.push_back(l.group);
    for (const auto& [key, value] : j.items()) {
        if (std::find(tops.begin(), tops.end(), key) == tops.end()) failUnknown("", key, tops, where);
        if (key == "schema" || key == "name" || key == "configurations" || key == "set_ups") continue;
        if (!value.is_object())
            throw base::InputError(fmt::format("the field \"{}\" is not a group of fields.", key), where,
                                   "Correct it, or restore the file from a copy.");
        std::vector<std::string> known;
        for (const auto& g : settingGroups())
            if (g.name == key)
                for (const auto& r : g.rows) known.push_back(r.name);
        for (const auto& l : settingLists())
            if (l.group == key) known.push_back(l.name);
        for (const auto& [field, unused] : value.items())
            if (std::find(known.begin(), known.end(), field) == known.end()) failUnknown(key, field, known, where);
    }
    if (j.contains("name")) {
        if (!j["name"].is_string()) throw base::InputError("the field \"name\" is not a text.", where, "Correct it.");
        s.name = j["name"].get<std::string>();
    }
    for (const auto& g : settingGroups()) {
        const auto group = j.find(g.name);
        if (group == j.end()) continue;
        for (const auto& r : g.rows)
            if (const auto value = group->find(r.name); value != group->end()) {
                r.check(*value, g.name + "." + r.name, where);
                r.put(s, *value);
            }
    }
    for (const auto& l : settingLists())
        if (const auto group = j.find(l.group); group != j.end())
            if (const auto value = group->find(l.name); value != group->end()) l.put(s, *value, where);
    return s;
}
}  // namespace

json toJson(const Settings& s) {
    json out = {{"schema", kSchema},
                {"name", s.name},
                {"configurations", variantsJson(s.configurations)},
                {"set_ups", variantsJson(s.setUps)}};
    for (const auto& g : settingGroups())
        for (const auto& r : g.rows) out[g.name][r.name] = r.get(s);
    for (const auto& l : settingLists()) out[l.group][l.name] = l.get(s);
    return out;
}

Settings settingsFromJson(const json& j, const std::string& where) {
    if (!j.is_object())
        throw base::InputError("is not a campaign file.", where, "Choose a folder made by this program.");
    const auto schema = j.find("schema");
    if (schema == j.end() || !schema->is_number_integer() || schema->get<double>() < 1)
        throw base::InputError("is not a campaign file: it has no \"schema\".", where,
                               "Choose a folder made by this program.");
    if (schema->get<double>() > kSchema)
        throw base::InputError(
            fmt::format("was written by a newer version (schema {}, this program knows {}).", schema->dump(), kSchema),
            where, "Open it with that version.");
    json present = *schema == 1 ? fromSchema1(j, where) : j;
    giveLaterNames(present);
    for (const char* variants : {"configurations", "set_ups"})
        if (present.contains(variants) && present[variants].is_array())
            for (auto& v : present[variants])
                if (v.is_object() && v.contains("patch")) giveLaterNames(v["patch"]);
    Settings s = groupsFrom(present, where);
    if (present.contains("configurations"))
        s.configurations = variantsFrom(present["configurations"], "configurations", where);
    if (present.contains("set_ups")) s.setUps = variantsFrom(present["set_ups"], "set_ups", where);
    // Each patch is tried, so that none waits to fail when its points are run.
    for (const auto& v : s.configurations) resolved(s, v.name, "", where);
    for (const auto& v : s.setUps) resolved(s, "", v.name, where);
    return s;
}

void checkRanges(const Settings& s, const std::string& where) {
    settingsFromJson(toJson(s), where);
}

const std::string& ModelSettings::idOf(const std::string& name) const {
    for (const auto& p : parts)
        if (p.name == name) return p.id();
    return name;
}

const std::string& ModelSettings::nameOf(const std::string& id) const {
    for (const auto& p : parts)
        if (p.id() == id) return p.name;
    return id;
}

void renamePart(Settings& s, const std::string& from, const std::string& to) {
    auto& parts = s.model.parts;
    const auto it = std::find_if(parts.begin(), parts.end(), [&](const auto& p) { return p.name == from; });
    if (it == parts.end())
        throw base::InputError("no part has that name.", from, "The command \"check\" lists the parts.");
    if (to.find_first_not_of(" \t") == std::string::npos)
        throw base::InputError("cannot be without a name.", from, "Type one.");
    if (to == from) return;
    // Neither another part's name nor the name that another came with: grids and runs know it by that.
    if (std::any_of(parts.begin(), parts.end(),
                    [&](const auto& p) { return &p != &*it && (p.name == to || p.id() == to); }))
        throw base::InputError("is the name of another part.", to, "Choose another.");
    const std::string id = it->id();
    it->name = to;
    it->source = to == id ? std::string() : id;
    for (auto& w : s.devices.wheels)
        if (w.part == from) w.part = to;
    for (auto& r : s.devices.roughParts)
        if (r.part == from) r.part = to;
    if (auto finer = s.grid.finerParts.extract(from)) {
        finer.key() = to;
        s.grid.finerParts.insert(std::move(finer));
    }
}

void setAircraft(Settings& s, const wing::Aircraft& aircraft) {
    wing::check(aircraft);
    std::vector<shape::Part> parts;
    const auto add = [&](const std::string& id) {
        const auto known =
            std::find_if(s.model.parts.begin(), s.model.parts.end(), [&](const auto& p) { return p.id() == id; });
        parts.push_back(known == s.model.parts.end() ? shape::Part{id, true, {}} : *known);
    };
    for (const auto& surface : aircraft.surfaces) add(surface.name);
    for (const auto& body : aircraft.bodies) add(body.name);
    s.model.parts = std::move(parts);
    s.model.aircraft = aircraft;
    s.model.outline.reset();
    s.model.file.clear();
    if (s.reference.areaFrom == AreaFrom::Frontal) s.reference.areaFrom = AreaFrom::Wing;
}

void setOutline(Settings& s, const vehicle::Outline& outline) {
    const auto skin = vehicle::skinOf(outline);
    std::vector<shape::Part> parts;
    for (const auto& part : skin.parts) {
        const auto known = std::find_if(s.model.parts.begin(), s.model.parts.end(),
                                        [&](const auto& p) { return p.id() == part.name; });
        parts.push_back(known == s.model.parts.end() ? part : *known);
    }
    s.model.parts = std::move(parts);
    s.model.outline = outline;
    s.model.aircraft.reset();
    s.model.file.clear();
}

}  // namespace cvane::campaign
