#pragma once
#include <vector>

#include "campaign/settings/settings.h"

namespace cvane::campaign {

/// The propellers of a model that was built from numbers, as discs of the field, where the model is placed; none of
/// another model.
std::vector<flow::Disc> builtDiscs(const Settings& settings);

/// All discs that push the air: those of the tunnel and those of the model.
std::vector<flow::Disc> discsOf(const Settings& settings);
/// The same where only the starboard half is in the tunnel: of a pair the one there.
std::vector<flow::Disc> discsInTunnel(const Settings& settings);

/// A disc's image in y = 0, without its name.
flow::Disc imageOf(flow::Disc disc);

}  // namespace cvane::campaign
