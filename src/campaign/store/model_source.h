#pragma once
#include <memory>

#include "campaign/store/campaign.h"
#include "shape/source.h"

namespace cvane::campaign {

/// What a model's file is a source of: an aircraft by numbers (.json), or a surface in a unit [m].
std::unique_ptr<const shape::Source> sourceFrom(const std::filesystem::path& file, double unit);
bool isAircraftFile(const std::filesystem::path& file);

/// Where the campaign's model comes from. Throws InputError: it has none.
std::unique_ptr<const shape::Source> sourceOf(const Campaign& campaign);

}  // namespace cvane::campaign
