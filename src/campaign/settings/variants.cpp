#include "campaign/settings/variants.h"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>

#include "base/errors.h"

namespace cvane::campaign {
using nlohmann::json;

namespace {
const Variant& variantNamed(const std::vector<Variant>& variants, const std::string& name, const char* kind,
                            const std::string& where) {
    for (const auto& v : variants)
        if (v.name == name) return v;
    throw base::InputError(fmt::format("there is no {} \"{}\".", kind, name), where,
                           "The command \"check\" lists them.");
}

Variant* find(std::vector<Variant>& variants, const std::string& name) {
    const auto it = std::find_if(variants.begin(), variants.end(), [&](const auto& v) { return v.name == name; });
    return it == variants.end() ? nullptr : &*it;
}

// Only the groups of one side.
template <class Belongs>
json groupsOf(const json& settings, Belongs&& belongs) {
    json out = json::object();
    for (const auto& [group, fields] : settings.items())
        if (belongs(group)) out[group] = fields;
    return out;
}

void requireSide(const Variant& v, bool (*belongs)(const std::string&), const char* side, const std::string& where) {
    for (const auto& [group, unused] : v.patch.items())
        if (!belongs(group))
            throw base::InputError(
                fmt::format("\"{}\" changes the group \"{}\", which is not of the {}'s side.", v.name, group, side),
                where, "Change it in the base, or in the other kind of variant.");
}
}  // namespace

bool isModelSide(const std::string& group) {
    return group == "model" || group == "reference" || group == "devices";
}
bool isTunnelSide(const std::string& group) {
    return group == "tunnel" || group == "grid" || group == "flow" || group == "air";
}

Settings resolved(const Settings& base, const std::string& configuration, const std::string& setUp,
                  const std::string& where) {
    if (configuration.empty() && setUp.empty()) return base;
    json j = toJson(base);
    j["configurations"] = j["set_ups"] = json::array();
    std::string place = where;
    if (!configuration.empty()) {
        const auto& v = variantNamed(base.configurations, configuration, "configuration", where);
        requireSide(v, isModelSide, "model", where);
        j.merge_patch(v.patch);
        place += ", configuration " + configuration;
    }
    if (!setUp.empty()) {
        const auto& v = variantNamed(base.setUps, setUp, "set-up", where);
        requireSide(v, isTunnelSide, "tunnel", where);
        j.merge_patch(v.patch);
        place += ", set-up " + setUp;
    }
    Settings s = settingsFromJson(j, place);
    s.configurations = base.configurations;
    s.setUps = base.setUps;
    return s;
}

json mergePatchBetween(const json& from, const json& to) {
    if (!from.is_object() || !to.is_object()) return to;
    json patch = json::object();
    for (const auto& [key, value] : to.items()) {
        const auto before = from.find(key);
        if (before == from.end())
            patch[key] = value;
        else if (*before != value)
            patch[key] = mergePatchBetween(*before, value);
    }
    for (const auto& [key, value] : from.items())
        if (!to.contains(key)) patch[key] = nullptr;
    return patch;
}

Settings withVariantChanged(const Settings& base, const std::string& configuration, const std::string& setUp,
                            const Settings& changed) {
    json now = toJson(changed);
    Settings next = base;
    const json from = toJson(base);
    json into = from;
    Variant* c = find(next.configurations, configuration);
    Variant* t = find(next.setUps, setUp);
    if (c) c->patch = mergePatchBetween(groupsOf(from, isModelSide), groupsOf(now, isModelSide));
    if (t) t->patch = mergePatchBetween(groupsOf(from, isTunnelSide), groupsOf(now, isTunnelSide));
    for (const auto& [group, fields] : now.items()) {
        const bool kept =
            (c && isModelSide(group)) || (t && isTunnelSide(group)) || group == "configurations" || group == "set_ups";
        if (!kept) into[group] = fields;
    }
    into["configurations"] = json::array();
    into["set_ups"] = json::array();
    Settings out = settingsFromJson(into, "campaign.json");
    out.configurations = std::move(next.configurations);
    out.setUps = std::move(next.setUps);
    return out;
}

void checkVariantName(const std::vector<Variant>& variants, const std::string& where) {
    const std::string& name = variants.back().name;
    const auto good = [](unsigned char c) {
        return std::isalnum(c) != 0 || c == ' ' || c == '-' || c == '_' || c == '.' || c == '+' || c >= 0x80;
    };
    if (name.empty() || name == "base" || !std::all_of(name.begin(), name.end(), good) || name.front() == ' ' ||
        name.back() == ' ')
        throw base::InputError(fmt::format("\"{}\" cannot be the name of a configuration or set-up.", name), where,
                               "Use letters, digits, blanks, - _ . +, and not the word \"base\".");
    if (std::count_if(variants.begin(), variants.end(), [&](const auto& v) { return v.name == name; }) > 1)
        throw base::InputError(fmt::format("two of the same kind are named \"{}\".", name), where,
                               "Give each a name of its own.");
}

namespace {
// The list of the kind, and the member by which things of the schedule name one of it.
std::vector<Variant>& listOf(Settings& s, VariantKind kind) {
    return kind == VariantKind::Configuration ? s.configurations : s.setUps;
}
template <class Item>
auto& nameIn(Item& item, VariantKind kind) {
    return kind == VariantKind::Configuration ? item.configuration : item.setUp;
}
const char* wordOf(VariantKind kind) {
    return kind == VariantKind::Configuration ? "configuration" : "set-up";
}
}  // namespace

void renameVariant(Settings& s, VariantKind kind, const std::string& from, const std::string& to,
                   const std::string& where) {
    Settings next = s;
    auto& all = listOf(next, kind);
    variantNamed(all, from, wordOf(kind), where);
    // The last one is checked: the renamed one goes there for it and back to its place.
    const auto it = std::find_if(all.begin(), all.end(), [&](const auto& v) { return v.name == from; });
    it->name = to;
    std::rotate(it, it + 1, all.end());
    checkVariantName(all, where);
    std::rotate(it, all.end() - 1, all.end());
    const auto rename = [&](auto& items) {
        for (auto& item : items)
            if (auto& name = nameIn(item, kind); name == from) name = to;
    };
    rename(next.schedule.groups);
    rename(next.schedule.single);
    rename(next.schedule.held);
    s = std::move(next);
}

void removeVariant(Settings& s, VariantKind kind, const std::string& name, const std::string& where) {
    auto& all = listOf(s, kind);
    variantNamed(all, name, wordOf(kind), where);
    std::erase_if(all, [&](const auto& v) { return v.name == name; });
    const auto ofIt = [&](const auto& item) { return nameIn(item, kind) == name; };
    std::erase_if(s.schedule.groups, ofIt);
    std::erase_if(s.schedule.single, ofIt);
    std::erase_if(s.schedule.held, ofIt);
}

}  // namespace cvane::campaign
