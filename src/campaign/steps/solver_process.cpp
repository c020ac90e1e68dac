#include "campaign/steps/solver_process.h"

#include <algorithm>
#include <thread>

#include "base/child_process.h"
#include "base/errors.h"

namespace cvane::campaign {
namespace fs = std::filesystem;

int cores() {
    return std::max(1, static_cast<int>(std::thread::hardware_concurrency()));
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
