#include "campaign/steps/rank_files.h"

#include <stdexcept>

#include "campaign/store/run_order.h"
#include "campaign/store/stored_grid.h"

namespace cvane::campaign {
namespace fs = std::filesystem;

// Ranks agree on an error before any leaves: rank 0 reads and writes, and all hear whether it worked.
void together(const flow::Ranks& ranks, const std::function<void()>& onRoot) {
    std::string error;
    if (ranks.rank() == 0) {
        try {
            onRoot();
        } catch (const std::exception& e) {
            error = e.what();
        }
    }
    if (ranks.any(!error.empty())) throw std::runtime_error(error);
}

// Whether rank 0 sees a file: ranks on other hosts may not see it yet, or any more.
bool isThere(const fs::path& file, const flow::Ranks& ranks) {
    std::error_code ec;
    return ranks.any(ranks.rank() == 0 && fs::exists(file, ec));
}

flow::Piece pieceOfGrid(const fs::path& file, const flow::Ranks& ranks) {
    grid::Grid grid;
    grid::Geometry geometry;
    together(ranks, [&] {
        grid = readGrid(file);
        geometry = grid::geometryOf(grid);
    });
    return flow::handOut(&grid, &geometry, ranks);
}

// What rank 0 has read; the fields stay there, the rest goes to all.
std::optional<flow::Checkpoint> readCheckpoint(const fs::path& file, const flow::Ranks& ranks) {
    std::optional<flow::Checkpoint> c;
    together(ranks, [&] { c = flow::readCheckpoint(file); });
    if (!ranks.any(c.has_value())) return {};
    if (!c) c.emplace();
    flow::shareHistory(*c, ranks);
    return c;
}

// The neighbour's wind and flow, as far as rank 0 has them.
void startFromNeighbour(flow::Solver& solver, const fs::path& neighbour, const char* file, const flow::Ranks& ranks) {
    std::optional<flow::Checkpoint> settled;
    double wind[3] = {0.0, 0.0, 0.0};
    together(ranks, [&] {
        settled = flow::readCheckpoint(neighbour / file);
        const auto w = readOrder(neighbour).flowCase.wind;
        wind[0] = w.speed;
        wind[1] = w.alpha;
        wind[2] = w.beta;
    });
    ranks.fromRoot(wind);
    if (!settled) settled.emplace();
    solver.startFromNeighbour(*settled, air::FreeStream{wind[0], wind[1], wind[2], {}});
}

}  // namespace cvane::campaign
