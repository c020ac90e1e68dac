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
    std::filesystem::path folder;  ///< of the run whose values are shown; empty: none
    std::filesystem::path latest;  ///< of the run that goes on, or would: another one where it has no values yet
    air::Reference reference;      ///< the present one
    /// On the present reference values and names; also one that is out of date. Of a point that runs or was stopped a
    /// provisional one, or that of the run which it goes on from.
    std::optional<readout::Result> result;
    int iterations = 0, mostIterations = 1;  ///< of a running point
    bool coarse = false;                     ///< of a running point: still on the coarse grid
    double CL = 0, CD = 0;                   ///< of a running point, so far
    double secondsLeft = 0;                  ///< of a running point, as its coefficients calm down
    bool inTime = false;                     ///< of a running point: its iterations are steps of time by now
    std::string message;                     ///< why it stopped, or why it is out of date
    /// There are values, but the point has not come to the end that is asked for now.
    bool provisional() const { return result && (state == PointState::Running || state == PointState::Stopped); }
    std::string stateWords() const;  ///< "settled", "stopped, provisional"
};
inline constexpr const char* kProvisional = "~";  ///< the sign before such values
/// How far a solver has come by its output alone.
PointReport progressIn(const std::filesystem::path& runFolder);

/// The run whose values are shown for a point: PointReport::folder. Nothing: it has not been run.
std::optional<std::filesystem::path> runWithValues(const Campaign& campaign, const Point& point);

/// @param reference  of the point's configuration in its set-up
PointReport reportOf(const Campaign& campaign, const Point& point, const air::Reference& reference);

}  // namespace cvane::campaign
