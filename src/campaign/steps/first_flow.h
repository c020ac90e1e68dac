#pragma once
#include "base/progress.h"
#include "campaign/store/campaign.h"
#include "grid/build.h"

namespace cvane::campaign {

/// Where the flows of conditionsOfFirstFlow ask for smaller cells: each is solved, one from the other, on a grid with
/// half of the cells; a cell counts by the flow that asks most of it. The flows stay in `folder`, so that one that was
/// stopped goes on. Throws InputError: a flow that blows up on that grid, no solver; Cancelled.
/// @param resolved  the campaign as a configuration and set-up make it
/// @param settings  of the grid that is wanted
grid::Marks marksByFlow(const Campaign& resolved, const grid::GridSettings& settings,
                        const std::filesystem::path& folder, const base::Progress& progress);

}  // namespace cvane::campaign
