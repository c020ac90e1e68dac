#pragma once
#include <filesystem>
#include <string>

namespace cvane::solve {

/// From now on this process ends with exit status 1 and `lastWords` behind what stands in `file`, when it can get no
/// more memory; where there is no such file they go to standard output, which mpiexec may drop as it ends the other
/// ranks: in our own allocations, in a library's that answer with a signal or by leaving, and in those that wait for
/// memory for ever (a thread asks the system for a little memory five times a second). Of one rank alone, its end is
/// what ends the others: mpiexec sees it. Call it once, before MPI_Init, which leaves handlers that are set as they
/// are.
void endWhenMemoryIsOut(std::string lastWords, const std::filesystem::path& file);

}  // namespace cvane::solve
