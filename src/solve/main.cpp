// The solver process: mpiexec -n N cvane-solve RUNFOLDER. What it does is in campaign/steps.
#include <mpi.h>
#include <unistd.h>

#include <cstdlib>
#include <exception>
#include <iostream>
#include <new>
#include <string>

#include "campaign/steps/solve_point.h"
#include "campaign/steps/solver_words.h"

namespace {
// Made before memory is short: to say that it is must take none.
std::string lastWords;
void* reserve = nullptr;

// Of one rank alone: the others would wait for it, so all end.
void endForWantOfMemory() {
    std::free(reserve);  // for what the abort takes
    reserve = nullptr;
    [[maybe_unused]] const auto n = ::write(STDOUT_FILENO, lastWords.data(), lastWords.size());
    ::usleep(300000);  // until mpiexec has passed it on: the abort ends that too
    MPI_Abort(MPI_COMM_WORLD, 1);
    std::_Exit(1);
}
}  // namespace

int main(int argc, char** argv) {
    using namespace cvane;
    MPI_Init(&argc, &argv);
    const flow::Ranks ranks;
    lastWords =
        nlohmann::json{{"error", "Rank " + std::to_string(ranks.rank()) + " of " + std::to_string(ranks.size()) +
                                     " ran out of memory. Make a grid of fewer cells, or use fewer ranks on "
                                     "this machine or more machines."}}
            .dump() +
        "\n";
    reserve = std::malloc(std::size_t{1} << 20);
    std::set_new_handler(endForWantOfMemory);
    int code = 0;
    if (argc != 2) {
        if (ranks.rank() == 0) std::cerr << "Usage: mpiexec -n RANKS cvane-solve RUNFOLDER\n";
        code = 2;
    } else {
        try {
            campaign::solvePoint(argv[1], ranks);
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
