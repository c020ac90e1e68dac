#pragma once
#include <array>
#include <memory>
#include <optional>

#include "base/progress.h"
#include "campaign/store/campaign.h"
#include "grid/layer_coverage.h"
#include "grid/plan.h"
#include "grid/quality.h"

namespace cvane::campaign {

/// Gaps that the present grid has filled where the air should pass; empty without a grid.
std::vector<grid::ClosedGap> filledGaps(const Campaign& campaign);
/// Why the present grid must not be run as it is: gaps that it has filled, unless the settings leave them so; empty
/// otherwise. And the cell budget that would open them.
struct GapTrouble {
    std::string sentence, todo;  ///< what and where; which settings mend it
    int budget = 0;
    std::string leave;  ///< the setting that leaves these gaps, and no others, filled: "group.field=value"
};
GapTrouble troubleWithGaps(const Campaign& campaign);
/// Of the present grid's wall points, the share that stands off the model by more than a cell; 0 without a grid.
double shareOfWallOff(const Campaign& campaign);

/// What the grid of the present settings will be. @param placed  the campaign's model as it stands in the wind
/// Throws InputError: settings that make no grid; base::Cancelled.
grid::Plan plannedGrid(const Campaign& campaign, const shape::Surface& placed, const base::Progress& progress);

std::filesystem::path gridFile(const Campaign& campaign);  ///< grids/<key>/grid.cgns
/// A grid of the same settings with half of the cells beside it (a quarter where it is the only one). It may not exist:
/// too few cells, or not wanted.
std::filesystem::path coarseGridFile(const Campaign& campaign);
std::filesystem::path coarsestGridFile(const Campaign& campaign);  ///< with a quarter
/// To settings whose schedule has got shorter: the wind that first heights are for stays as it was where there is a
/// grid, of any configuration and set-up, so that the points that are left keep their grid and results. One that was
/// kept is given up when the schedule's fastest reaches it again.
void keepFirstHeights(const Campaign& before, Settings& next);
bool gridIsCurrent(const Campaign& campaign);  ///< what the settings ask for exists

/// Its files, those of the coarse grids among them, are what was written. They are read for it.
bool gridIsWhole(const Campaign& campaign);

/// Builds and stores the grid of the present settings unless it exists. Cancelled or failed: nothing is left.
std::shared_ptr<const grid::Grid> makeGrid(const Campaign& campaign, const base::Progress& progress);

/// Leaks of the model that were found while the current grid was made, widest first among the closed and among the open
/// ones.
std::vector<grid::Leak> gridLeaks(const Campaign& campaign);

/// What was counted of the current grid when it was made; empty when there is none.
struct GridFigures {
    std::array<std::size_t, 10> facesByTenDegrees{};  ///< internal faces by non-orthogonality; the last holds the rest
    std::vector<std::pair<std::string, std::size_t>> wallFacesByPart;
    std::vector<std::pair<int, std::size_t>> cellsByLevel;  ///< level 0: the coarsest cells of the octree
    double seconds = 0.0, peakMemory_GB = 0.0;
    std::optional<grid::LayerCoverage> layers;  ///< nothing of a grid of before they were measured
};
std::optional<GridFigures> gridFigures(const Campaign& campaign);

/// Cells and quality in words, stored beside the grid; empty when there is no current grid.
std::string gridSummary(const Campaign& campaign);

}  // namespace cvane::campaign
