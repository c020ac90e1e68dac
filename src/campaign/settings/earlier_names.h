#pragma once
#include <nlohmann/json.hpp>
#include <string>

namespace cvane::campaign {

/// Puts today's names in the place of those that settings had in earlier versions of the present schema:
/// tunnel.half_model, true or false, is tunnel.model.
/// @param settings  campaign.json or a variant's patch; anything else is left as it is
void giveLaterNames(nlohmann::json& settings);
/// The same of a setting as it is typed.
void giveLaterName(std::string& path, std::string& value);

}  // namespace cvane::campaign
