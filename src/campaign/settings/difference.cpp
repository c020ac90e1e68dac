#include "campaign/settings/difference.h"

#include <set>

namespace cvane::campaign {
using nlohmann::json;

namespace {
void gather(const json& a, const json& b, const std::string& path, std::vector<DifferingSetting>& out) {
    if (a == b) return;
    if (!a.is_object() || !b.is_object()) {
        out.push_back({path, a, b});
        return;
    }
    std::set<std::string> names;
    for (const auto* j : {&a, &b})
        for (const auto& [key, value] : j->items()) names.insert(key);
    for (const auto& n : names) gather(a.value(n, json()), b.value(n, json()), path.empty() ? n : path + "." + n, out);
}
}  // namespace

std::vector<DifferingSetting> differingSettings(const Settings& first, const Settings& other) {
    json a = toJson(first), b = toJson(other);
    for (auto* j : {&a, &b})
        for (const char* aside : {"view", "schedule", "configurations", "set_ups", "sections"}) j->erase(aside);
    std::vector<DifferingSetting> out;
    gather(a, b, {}, out);
    return out;
}

}  // namespace cvane::campaign
