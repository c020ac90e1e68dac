#pragma once
#include <nlohmann/json.hpp>
#include <string>

#include "flow/case.h"

namespace cvane::campaign {

/// The case of a run order of schema 1 or 2, which had tunnel, flow and devices in the form of campaign.json.
/// @param file  for messages. Throws what reading JSON and settings throws.
flow::Case flowCaseBefore3(const nlohmann::json& order, const std::string& file);

}  // namespace cvane::campaign
