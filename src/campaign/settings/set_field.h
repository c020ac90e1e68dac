#pragma once
#include <string>

#include "campaign/store/campaign.h"

namespace cvane::campaign {

/// Changes one field named as in campaign.json, for instance "grid.cell_budget=150000" or "schedule.alphas_deg=-2:6:2".
/// Lists may be typed as numbers with commas or first:last:step; "auto" empties an optional field.
/// Throws InputError: no such field, a value of the wrong kind.
void setField(Settings& settings, const std::string& assignment);

}  // namespace cvane::campaign
