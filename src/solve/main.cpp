// The solver process: mpiexec -n N cvane-solve RUNFOLDER. What it does is in campaign/steps.
#include <fmt/format.h>
#include <mpi.h>
#include <unistd.h>

#include <array>
#include <exception>
#include <iostream>

#include "campaign/methods/runner.h"
#include "campaign/steps/solver_words.h"
#include "solve/memory_watch.h"

int main(int argc, char** argv) {
    using namespace cvane;
    std::array<char, 256> host{};
    ::gethostname(host.data(), host.size() - 1);
    solve::endWhenMemoryIsOut(
        nlohmann::json{{"error", fmt::format("A rank on {} ran out of memory. Make a grid of fewer cells, or use fewer "
                                             "ranks on this machine or more machines.",
                                             host.data())}}
                .dump() +
            "\n",
        argc == 2 ? std::filesystem::path(argv[1]) / "progress.jsonl" : std::filesystem::path());
    MPI_Init(&argc, &argv);
    const flow::Ranks ranks;
    int code = 0;
    if (argc != 2) {
        if (ranks.rank() == 0) std::cerr << "Usage: mpiexec -n RANKS cvane-solve RUNFOLDER\n";
        code = 2;
    } else {
        try {
            campaign::runnerOf(campaign::readHead(argv[1]).point.method).solve(argv[1], ranks);
        } catch (const std::exception& e) {
            if (*e.what() != '\0') campaign::say({{"error", e.what()}});
            code = 1;
        }
    }
    // A rank that failed alone would leave the others waiting for it.
    if (code == 1) MPI_Abort(MPI_COMM_WORLD, 1);
    MPI_Finalize();
    return code;
}
