#pragma once
#include <nlohmann/json.hpp>
#include <string>
#include <vector>

#include "campaign/settings/settings.h"

namespace cvane::campaign {

/// A setting that two points do not share; null where one of them has none.
struct DifferingSetting {
    std::string path;  ///< "tunnel.ground"
    nlohmann::json first, other;
};

/// What of the model's and the tunnel's side differs between two resolved settings: not which points there are, nor
/// what is looked at.
std::vector<DifferingSetting> differingSettings(const Settings& first, const Settings& other);

}  // namespace cvane::campaign
