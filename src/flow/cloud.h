#pragma once
#include <vector>

#include "flow/flow.h"
#include "flow/ranks.h"

namespace cvane::flow {

/// A flow on another grid as points that can be read anywhere: cell centres with values and slopes.
struct FlowCloud {
    std::vector<Vec3> x;
    State at;  ///< values of the points; no fluxes
    std::vector<Mat3> gradU;
    std::vector<Vec3> gradP;
};

/// What one start became on a grid: the same cells in the same order.
struct FlowChange {
    FlowCloud from, to;
};

/// Collective: the whole flow on every rank.
FlowCloud cloudOf(const Flow& flow, const Ranks& ranks);

}  // namespace cvane::flow
