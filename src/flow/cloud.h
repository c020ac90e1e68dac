#pragma once
#include <vector>

#include "flow/flow.h"
#include "flow/ranks.h"

namespace cvane::flow {

/// A flow on another grid as points that can be read anywhere: cell centres with values and slopes. Each rank has those
/// of its own cells.
struct FlowCloud {
    std::vector<Vec3> x;
    State at;  ///< values of the points; no fluxes
    std::vector<Mat3> gradU;
    std::vector<Vec3> gradP;
};

/// What one start became on a grid: the same cells in the same order.
struct FlowChange {
    FlowCloud from, to;
    bool isChange = false;  ///< `from` is there; a rank without cells has no points of it all the same
};

/// Of this rank's cells. Local.
FlowCloud cloudOf(const Flow& flow);

/// Collective: the points of all ranks, in the order of the whole grid, on rank 0; nothing on the others.
FlowCloud gatheredAtRoot(const FlowCloud& part, const Ranks& ranks);

/// Collective: for each place of this rank the point nearest to it of all ranks' clouds, which stand in one order of
/// points. No rank gets more than what it asks for.
/// @return for each of the clouds a cloud of such points, in the order of the places
std::vector<FlowCloud> nearestPoints(const std::vector<const FlowCloud*>& clouds, const std::vector<Vec3>& places,
                                     const Ranks& ranks);

}  // namespace cvane::flow
