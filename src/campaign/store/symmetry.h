#pragma once
#include "campaign/store/campaign.h"

namespace cvane::campaign {

/// Whether the model as it stands in the wind is its own mirror image in y = 0, and what is set of its parts, devices
/// and cells too. Found once for each model as it is placed, from several threads; false where it cannot be read.
/// @param resolved  with the settings of a configuration and set-up in place of the base's
bool isSymmetric(const Campaign& resolved);

}  // namespace cvane::campaign
