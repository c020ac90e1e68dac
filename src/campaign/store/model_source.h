#pragma once
#include <memory>

#include "campaign/store/campaign.h"
#include "shape/source.h"

namespace cvane::campaign {

/// Where the campaign's model comes from: an aircraft from numbers, or a surface file. Throws InputError: it has none.
std::unique_ptr<const shape::Source> sourceOf(const Campaign& campaign);

/// Of its source, for keys; "gone" where there is none: nothing was stored under that, and who needs the model says
/// what is wrong.
std::string modelSum(const Campaign& campaign);

}  // namespace cvane::campaign
