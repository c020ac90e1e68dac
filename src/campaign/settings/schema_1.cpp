#include "campaign/settings/schema_1.h"

#include "base/errors.h"

namespace cvane::campaign {
using nlohmann::json;

namespace {
// A list whose things carry their name in the field `key`, as an object by that name.
void byName(json& group, const char* list, const char* key) {
    if (!group.contains(list)) return;
    json out = json::object();
    for (json thing : group.at(list)) {
        const auto name = thing.at(key).get<std::string>();
        thing.erase(key);
        out[name] = std::move(thing);
    }
    group[list] = std::move(out);
}
}  // namespace

json fromSchema1(const json& old, const std::string& where) {
    try {
        json j = old;
        j["schema"] = 2;
        if (j.contains("model") && j["model"].contains("parts")) {
            json parts = json::object();
            int number = 0;
            for (const json& p : j["model"]["parts"]) {
                const auto name = p.at("name").get<std::string>();
                parts[name] = {{"number", number++}, {"name", name}, {"in_the_air", p.value("in_the_air", true)}};
            }
            j["model"]["parts"] = std::move(parts);
        }
        if (j.contains("grid")) byName(j["grid"], "finer_parts", "name");
        if (j.contains("devices")) {
            byName(j["devices"], "wheels", "part");
            byName(j["devices"], "rough_parts", "part");
            byName(j["devices"], "discs", "name");
            byName(j["devices"], "porous_blocks", "name");
        }
        return j;
    } catch (const json::exception&) {
        throw base::InputError("holds a list that is not one of named things.", where, "Restore it from a copy.");
    }
}

}  // namespace cvane::campaign
