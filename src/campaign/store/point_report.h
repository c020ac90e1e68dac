#pragma once
#include <optional>

#include "campaign/store/run_order.h"
#include "campaign/store/runs.h"
#include "readout/result.h"

namespace cvane::campaign {

enum class PointState { Waiting, Running, Stopped, Settled, Unsteady, Diverged, OutOfDate };
std::string nameOf(PointState state);
/// Run to an end that counts: there is nothing to do but by asking for more, or anew.
inline bool isDone(PointState s) {
    return s == PointState::Settled || s == PointState::Unsteady;
}

/// What the campaign's folder says about a point.
struct PointReport {
    Point point;
    PointState state = PointState::Waiting;
    std::filesystem::path folder;  ///< of the run that is shown; empty: none
    std::optional<readout::Result>
        result;  ///< on the present reference values and names; also of a result that is out of date
    int iterations = 0, mostIterations = 1;  ///< of a running point
    bool coarse = false;                     ///< of a running point: still on the coarse grid
    double CL = 0, CD = 0;                   ///< of a running point, so far
    double secondsLeft = 0;                  ///< of a running point, as its coefficients calm down
    std::string message;                     ///< why it stopped, or why it is out of date
};
/// How far a solver has come by its output alone.
PointReport progressIn(const std::filesystem::path& runFolder);

/// @param reference  of the point's configuration in its set-up
PointReport reportOf(const Campaign& campaign, const Point& point, const air::Reference& reference);

}  // namespace cvane::campaign
