#pragma once
#include <optional>
#include <vector>

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

/// Where they stay, beside a grid's file.
inline std::filesystem::path firstFlowFolder(const std::filesystem::path& gridFile) {
    return gridFile.parent_path() / "first";
}

/// What the flows asked for, cell by cell of the grid with half of the cells: the largest of all conditions
/// (flow::refinementWeights).
struct AskedByFlow {
    std::vector<Vec3> place;  ///< of the cells [m]
    std::vector<double> weight;
};
/// As marksByFlow has left it beside the present grid; nothing: its cells do not follow the flow. Throws InputError:
/// files that cannot be read.
std::optional<AskedByFlow> askedByFlow(const Campaign& resolved);

}  // namespace cvane::campaign
