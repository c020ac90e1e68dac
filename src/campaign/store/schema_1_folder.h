#pragma once
#include "campaign/store/campaign.h"

namespace cvane::campaign {

/// A campaign folder of schema 1 made ready for the present one: its settings stay as campaign.schema1.json, its grid
/// is found under the present key, its results stay where they are and are shown as those of an earlier solver.
/// @param old  its campaign.json Throws InputError: a point is running in it, it cannot be written.
void bringToPresent(const Campaign& campaign, const nlohmann::json& old);

}  // namespace cvane::campaign
