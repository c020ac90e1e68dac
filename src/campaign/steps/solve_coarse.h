#pragma once
#include "campaign/steps/solver_words.h"
#include "campaign/store/run_order.h"
#include "flow/cloud.h"
#include "readout/result.h"

namespace cvane::campaign {

/// The same point on the coarser grid: where the flow on the fine one starts, and what shows how far the cells matter.
struct Coarse {
    flow::FlowChange flow;  ///< from the neighbour's flow on this grid, where it started there; else from nothing
    readout::CoarseResult result;
    bool stopped = false;
};

/// What an earlier start of this very run found on the coarse grid: on rank 0, which alone reads it; the others learn
/// whether there is something. Collective.
std::optional<readout::CoarseResult> coarseBefore(const std::filesystem::path& folder, const std::string& key,
                                                  const flow::Ranks& ranks);

/// Solves the point on its coarsest grid, if it has one, and from there on its coarse one; keeps coarse.json,
/// coarse.bin and coarsest.bin. Empty: the flow on the coarse one blew up. Collective.
std::optional<Coarse> solveCoarse(const RunOrder& order, const std::filesystem::path& folder, const flow::Ranks& ranks);

/// A start from one neighbour's flow goes the way that it took on the coarser grid, if it began there as well. One from
/// two is better off without: what the coarse flows leave open is more than what it lacks. Collective.
void followCoarser(flow::Solver& solver, const RunOrder& order, const std::optional<Coarse>& coarser);

}  // namespace cvane::campaign
