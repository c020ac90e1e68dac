#pragma once
#include <filesystem>
#include <functional>
#include <optional>
#include <stdexcept>

#include "campaign/store/run_order.h"
#include "flow/checkpoint.h"
#include "flow/solver.h"

namespace cvane::campaign {

/// Files that rank 0 reads and writes for all ranks. Each call is collective, and ranks agree on an error before any
/// leaves.

/// What all ranks throw together; anything else that is thrown is one rank's alone, and ends the whole run.
struct AgreedError : std::runtime_error {
    using std::runtime_error::runtime_error;
};

/// Runs `onRoot` on rank 0; all hear whether it worked. Throws AgreedError with its words on all ranks: on the others
/// without them.
void together(const flow::Ranks& ranks, const std::function<void()>& onRoot);

/// Runs what all ranks do together, of which each throws or none: its words are rank 0's alone. Throws AgreedError.
void agreed(const flow::Ranks& ranks, const std::function<void()>& onAll);

/// Whether rank 0 sees a file: ranks on other hosts may not see it yet, or any more.
bool isThere(const std::filesystem::path& file, const flow::Ranks& ranks);

/// This rank's piece of a stored grid.
flow::Piece pieceOfGrid(const std::filesystem::path& file, const flow::Ranks& ranks);

/// What rank 0 has read; the fields stay there, the rest goes to all. Empty: there is none.
std::optional<flow::Checkpoint> readCheckpoint(const std::filesystem::path& file, const flow::Ranks& ranks);

/// The solver starts from the order's neighbour, or from both where each has that file, on their winds. False: there is
/// none, or it cannot be read, which is told; the solver is as it was then.
/// @param file  of a run's folder: "checkpoint.bin", or "coarse.bin"
bool startsFromNeighbours(flow::Solver& solver, const RunOrder& order, const std::string& file,
                          const flow::Ranks& ranks);

}  // namespace cvane::campaign
