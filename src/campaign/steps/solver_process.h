#pragma once
#include <filesystem>

namespace cvane::campaign {

/// Number of cores of this machine.
int cores();

/// The solver program beside this one. Throws InputError: it is not there.
std::filesystem::path solverProgram();

/// Starts the solver on the order in a run's folder, as a session of its own; what it says goes to progress.jsonl
/// there.
/// @return process id. Throws InputError: solver or mpiexec missing.
int startSolver(const std::filesystem::path& folder, int ranks);

}  // namespace cvane::campaign
