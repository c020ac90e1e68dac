#pragma once
#include <nlohmann/json.hpp>

#include "campaign/plan/points.h"
#include "flow/case.h"
#include "readout/result.h"

namespace cvane::campaign {

/// What an order of any method begins with.
struct OrderHead {
    std::string key;      ///< of everything that the result depends on (runKey)
    std::string caseKey;  ///< the same whatever the method's version
    int solver = 0;       ///< the method's version; 0: it was not noted
    Point point;          ///< what it was run as
};
nlohmann::json toJson(const OrderHead& head);
/// Throws InputError: run.json is not there, or damaged.
OrderHead readHead(const std::filesystem::path& runFolder);

/// What the solver process is told of a point in the field: run.json in the run's folder. In the file paths are
/// relative to it, so that a campaign can be moved.
struct RunOrder : OrderHead {
    RunOrder() = default;
    explicit RunOrder(OrderHead head) : OrderHead(std::move(head)) {}
    std::filesystem::path grid;          ///< absolute
    std::filesystem::path coarseGrid;    ///< absolute; empty: none
    std::filesystem::path coarsestGrid;  ///< the same, with still fewer cells
    bool cellsFollowFlow = false;        ///< on the finest alone: the grids are of two families
    flow::Case flowCase;
    /// The flow on the coarse grid alone is wanted, and how much each of its cells would gain by being halved
    /// (kWeightsFile: a double for each).
    bool weightsOnly = false;
    std::filesystem::path neighbour;  ///< folder of a settled run to start from; empty: potential flow
    /// Another, of the same speed, on one line of angles with that one and the point; empty: none.
    std::filesystem::path secondNeighbour;
};
inline constexpr const char* kWeightsFile = "weights.bin";
void writeOrder(const RunOrder& order, const std::filesystem::path& runFolder);
/// Throws InputError: it is not there, damaged.
RunOrder readOrder(const std::filesystem::path& runFolder);

/// Tells a run on its way that it is to be judged by other tolerances and iterations. Throws InputError: it cannot be
/// written.
void askAnew(const std::filesystem::path& runFolder, const readout::Asked& asked);
/// What was asked so, once; nothing where nothing was, or where it cannot be read.
std::optional<readout::Asked> newlyAsked(const std::filesystem::path& runFolder);

}  // namespace cvane::campaign
