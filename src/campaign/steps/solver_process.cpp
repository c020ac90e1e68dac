#include "campaign/steps/solver_process.h"

#include <fmt/format.h>

#include <algorithm>
#include <cstdlib>
#include <thread>

#include "base/child_process.h"
#include "base/errors.h"
#include "base/files.h"
#include "grid/memory.h"

namespace cvane::campaign {
namespace fs = std::filesystem;

namespace {
void checkMemoryOf(std::size_t ranks, std::size_t each) {
    const auto room = grid::availableMemory();
    if (ranks * each > room)
        throw base::InputError(
            fmt::format("{} ranks need {:.1f} GB before they have a cell; {:.1f} GB are free.", ranks,
                        1e-9 * static_cast<double>(ranks * each), 1e-9 * static_cast<double>(room)),
            "ranks", fmt::format("Take {} or fewer.", std::max<std::size_t>(1, room / each)));
}
}  // namespace

int cores() {
    return std::max(1, static_cast<int>(std::thread::hardware_concurrency()));
}

int coresAtHand() {
    int granted = 0;
    for (const char* name : {"SLURM_NTASKS", "PBS_NP"})
        if (const char* v = std::getenv(name)) granted = std::max(granted, std::atoi(v));
    if (const char* nodes = std::getenv("PBS_NODEFILE")) {
        try {
            const auto text = base::readFile(nodes);
            granted = std::max(granted, static_cast<int>(std::count(text.begin(), text.end(), '\n')));
        } catch (const base::InputError&) {
            // The scheduler's file is gone: this machine's cores count.
        }
    }
    return std::max(cores(), granted);
}

void checkRanks(int ranks, std::size_t cells, bool oversubscribe) {
    constexpr std::size_t kLeastCells = 100;         // a rank; below, all of them are neighbours of all
    constexpr std::size_t kRankMemory = 60'000'000;  // of an idle one [bytes]: libraries and buffers
    const auto n = static_cast<std::size_t>(ranks);
    const int most = coresAtHand();
    if (ranks > most && !oversubscribe)
        throw base::InputError(
            fmt::format("{} ranks are more than the {} cores that are here, and would hinder each other.", ranks, most),
            "ranks", fmt::format("Take {} or fewer, or say --oversubscribe.", most));
    if (ranks > 1 && cells > 0 && n * kLeastCells > cells)
        throw base::InputError(fmt::format("{} ranks are too many for {} cells.", ranks, cells), "ranks",
                               fmt::format("Take {} or fewer.", std::max<std::size_t>(1, cells / kLeastCells)));
    if (ranks > most) checkMemoryOf(n, kRankMemory);
}

fs::path solverProgram() {
    const fs::path solver = base::programFolder() / "cvane-solve";
    if (!fs::exists(solver))
        throw base::InputError("the solver program is missing.", solver.string(),
                               "Build or install it beside this program.");
    return solver;
}

int startSolver(const fs::path& folder, int ranks) {
    // --bind-to none: two runs at once must not share one core while another idles.
    return base::startDetached(
        {"mpiexec", "--bind-to", "none", "--oversubscribe", "-n", std::to_string(ranks), solverProgram().string(),
         folder.string()},
        folder / "progress.jsonl",
        {"OMPI_ALLOW_RUN_AS_ROOT=1", "OMPI_ALLOW_RUN_AS_ROOT_CONFIRM=1", "OMPI_MCA_rmaps_base_oversubscribe=1"});
}

}  // namespace cvane::campaign
