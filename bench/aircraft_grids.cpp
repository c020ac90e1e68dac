// Grids of random aircraft at their usual settings: what stands against each of them.
//
//   aircraft_grids [how many] [cells] [first seed]
#include <fmt/format.h>

#include <chrono>
#include <filesystem>

#include "base/errors.h"
#include "bench/random_aircraft.h"
#include "campaign/plan/preflight.h"
#include "campaign/steps/grid_stage.h"
#include "campaign/steps/model_stage.h"
#include "grid/quality.h"
#include "shape/health.h"

using namespace cvane;

namespace {
/// Findings of an aircraft's surface, preflight and grid; empty: none.
std::string findingsOf(const wing::Aircraft& a, int budget, std::size_t& cells) {
    const auto folder = std::filesystem::temp_directory_path() / "aircraft-grids.cvane";
    std::filesystem::remove_all(folder);
    auto c = campaign::Campaign::create(folder, a);
    c.settings.grid.cellBudget = budget;
    c.save();
    const auto placed = campaign::placedModel(wing::skinOf(a), c.settings.model);
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
    std::filesystem::remove_all(folder);
    return out;
}
}  // namespace

int main(int argc, char** argv) {
    const int count = argc > 1 ? std::stoi(argv[1]) : 20, budget = argc > 2 ? std::stoi(argv[2]) : 200000;
    const int first = argc > 3 ? std::stoi(argv[3]) : 1;
    int found = 0;
    for (int seed = first; seed < first + count; ++seed) {
        const auto a = bench::randomAircraft(static_cast<unsigned>(seed));
        const auto began = std::chrono::steady_clock::now();
        std::string says;
        std::size_t cells = 0;
        try {
            says = findingsOf(a, budget, cells);
        } catch (const std::exception& e) {
            says = fmt::format(" refused: {}", e.what());
        }
        found += !says.empty();
        fmt::print("{:3}  {} surfaces, {} bodies, {} cells, {:.1f} s:{}\n", seed, a.surfaces.size(), a.bodies.size(),
                   cells, std::chrono::duration<double>(std::chrono::steady_clock::now() - began).count(),
                   says.empty() ? " nothing" : says);
        std::fflush(stdout);
    }
    fmt::print("{} of {} with findings\n", found, count);
    return found > 0;
}
