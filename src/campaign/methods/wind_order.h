#pragma once
#include <nlohmann/json.hpp>
#include <optional>

#include "air/free_stream.h"
#include "campaign/store/campaign.h"

namespace cvane::campaign {

/// A wind as orders of quick methods have it.
nlohmann::json windJson(const air::FreeStream& wind);
air::FreeStream windFrom(const nlohmann::json& j);

/// Height of the ground's plane, where the tunnel has one [m]. Throws InputError: the model cannot be read.
std::optional<double> groundOf(const Campaign& campaign);

}  // namespace cvane::campaign
