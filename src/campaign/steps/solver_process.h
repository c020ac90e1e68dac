#pragma once
#include <filesystem>

namespace cvane::campaign {

/// Number of cores of this machine.
int cores();

/// The solver program beside this one. Throws InputError: it is not there.
std::filesystem::path solverProgram();

/// Cores that a run may use: of this machine, or as many processes as a batch job was granted.
int coresAtHand();

/// Throws InputError: more ranks than cores, unless that is asked for; more than the cells or the memory bear.
/// @param cells  of the grid; 0: not known
void checkRanks(int ranks, std::size_t cells, bool oversubscribe);

/// Starts the solver on the order in a run's folder, as a session of its own; what it says goes to progress.jsonl
/// there.
/// @return process id. Throws InputError: solver or mpiexec missing.
int startSolver(const std::filesystem::path& folder, int ranks);

}  // namespace cvane::campaign
