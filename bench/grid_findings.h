#pragma once
#include <fmt/format.h>

#include <chrono>
#include <filesystem>

#include "campaign/plan/preflight.h"
#include "campaign/steps/grid_stage.h"
#include "campaign/steps/model_stage.h"
#include "campaign/store/model_source.h"
#include "grid/quality.h"
#include "shape/health.h"

namespace cvane::bench {

/// What stands against a campaign's surface, preflight and grid of so many cells; empty: nothing.
inline std::string gridFindings(campaign::Campaign& c, int budget, std::size_t& cells) {
    c.settings.grid.cellBudget = budget;
    c.save();
    const auto placed = campaign::placedModel(campaign::sourceOf(c)->surface(), c.settings.model);
    std::string out;
    if (const auto health = shape::checkHealth(placed); !health.closed()) out += " surface: " + health.sentence();
    const auto g = campaign::makeGrid(c, {});
    cells = static_cast<std::size_t>(g->cells());
    // Gaps that the grid fills and walls that it misses are among these, once there is a grid.
    for (const auto& r : campaign::preflight(c, campaign::measure(c, placed))) out += " preflight: " + r.text;
    for (const auto& leak : campaign::gridLeaks(c)) out += fmt::format(" leak of {:.3g} m", leak.width);
    const auto q = grid::qualityOf(*g, grid::geometryOf(*g));
    if (q.negativeCells + q.foldedCells > 0) out += fmt::format(" {} cells folded", q.negativeCells + q.foldedCells);
    if (q.worstNonOrthogonality_deg > 75.0) out += fmt::format(" angle {:.0f} deg", q.worstNonOrthogonality_deg);
    if (q.worstSkewness > 4.0) out += fmt::format(" skewness {:.1f}", q.worstSkewness);
    return out;
}

/// Prints the findings of a number of random models at their usual settings.
/// @param made  a campaign in a folder, by seed;  @return how many have any
template <class Made>
int gridMany(int count, int budget, int first, const Made& made) {
    int found = 0;
    for (int seed = first; seed < first + count; ++seed) {
        const auto began = std::chrono::steady_clock::now();
        const auto folder = std::filesystem::temp_directory_path() / fmt::format("grids-of-{}.cvane", count);
        std::filesystem::remove_all(folder);
        std::string says;
        std::size_t cells = 0;
        try {
            auto c = made(folder, static_cast<unsigned>(seed));
            says = gridFindings(c, budget, cells);
        } catch (const std::exception& e) {
            says = fmt::format(" refused: {}", e.what());
        }
        std::filesystem::remove_all(folder);
        found += !says.empty();
        fmt::print("{:3}  {} cells, {:.1f} s:{}\n", seed, cells,
                   std::chrono::duration<double>(std::chrono::steady_clock::now() - began).count(),
                   says.empty() ? " nothing" : says);
        std::fflush(stdout);
    }
    fmt::print("{} of {} with findings\n", found, count);
    return found;
}

}  // namespace cvane::bench
