#pragma once
#include <optional>

#include "campaign/points.h"
#include "flow/solver.h"
#include "readout/result.h"

namespace cvane::campaign {

/// What the solver process is told: run.json in the point's folder.
struct RunOrder {
    std::string key;                      ///< of everything that the flow depends on (runKey)
    std::filesystem::path grid;           ///< absolute
    std::filesystem::path coarseGrid;     ///< absolute; empty: none
    flow::Case flowCase;
    std::filesystem::path neighbour;      ///< folder of a settled point to start from; empty: potential flow
};
void writeOrder(const RunOrder& order, const std::filesystem::path& runFolder);
RunOrder readOrder(const std::filesystem::path& runFolder);

std::filesystem::path runFolder(const Campaign& campaign, const Point& point);
/// Of what decides the flow: grid, wind, model, devices. How far it is iterated is not in it, so that a run can be extended.
std::string runKey(const Campaign& campaign, const Point& point, const air::Reference& reference);

enum class PointState { Waiting, Running, Stopped, Settled, Unsteady, Diverged, OutOfDate };
std::string nameOf(PointState state);

/// What the folder says about a point.
struct PointReport {
    Point point;
    PointState state = PointState::Waiting;
    std::optional<readout::Result> result;  ///< also of a result that is out of date
    int iterations = 0, mostIterations = 1; ///< of a running point
    bool coarse = false;                    ///< of a running point: still on the coarse grid
    double CL = 0, CD = 0;                  ///< of a running point, so far
    double secondsLeft = 0;                 ///< of a running point, as its coefficients calm down
    std::string message;                    ///< why it stopped, when the solver said so
};
PointReport reportOf(const Campaign& campaign, const Point& point, const air::Reference& reference);

/// The convergence history of a point as columns of monitor.csv; empty when there is none.
struct Monitor {
    std::vector<std::string> names;
    std::vector<std::vector<double>> columns;
    const std::vector<double>* column(const std::string& name) const;
};
Monitor readMonitor(const std::filesystem::path& runFolder);

}  // namespace cvane::campaign
