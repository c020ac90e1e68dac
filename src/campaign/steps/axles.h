#pragma once
#include <optional>

#include "campaign/settings/settings.h"
#include "readout/quantities.h"

namespace cvane::campaign {

/// Where the axles of a placed model are: as typed, else those of its foremost and rearmost wheels; they stand on the
/// ground, or at the moment centre's height where there is none. Nothing for a model with neither.
std::optional<readout::Axles> axlesOf(const Settings& settings, const shape::Surface& placed,
                                      const air::Reference& reference);

}  // namespace cvane::campaign
