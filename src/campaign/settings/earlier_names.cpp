#include "campaign/settings/earlier_names.h"

namespace cvane::campaign {
namespace {
constexpr const char* kBefore = "half_model";

const char* extentOf(bool half) {
    return half ? "half" : "whole";
}
}  // namespace

void giveLaterNames(nlohmann::json& j) {
    if (!j.is_object() || !j.contains("tunnel") || !j["tunnel"].is_object()) return;
    auto& tunnel = j["tunnel"];
    const auto before = tunnel.find(kBefore);
    if (before == tunnel.end() || !before->is_boolean()) return;
    const bool half = before->get<bool>();
    tunnel.erase(before);
    tunnel["model"] = extentOf(half);
}

void giveLaterName(std::string& path, std::string& value) {
    if (path != std::string("tunnel.") + kBefore || (value != "true" && value != "false")) return;
    path = "tunnel.model";
    value = extentOf(value == "true");
}

}  // namespace cvane::campaign
