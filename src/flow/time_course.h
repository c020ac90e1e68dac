#pragma once
#include <cstddef>
#include <vector>

#include "flow/iterated.h"
#include "flow/settle.h"

namespace cvane::flow {

/// The steady course: iterations until the coefficients rest, and the eye on whether they ever will.
struct SteadyCourse {
    bool onlyToRest = false;   ///< no steps of time, no averages
    bool endsAtSwing = false;  ///< it is given up as soon as the flow swings
    std::size_t moveFrom = 0;  ///< steps of time begin behind this iteration, whether the flow swings or not

    enum class Next { GoesOn, GivesUp, MovesInTime };
    /// Behind an iteration that has decided nothing.
    Next look(const std::vector<air::Coefficients>& history, const SettleWatch& watch) const;
};

/// The course in time: steps that all cells share, and averages over them once what went before has left the wake.
class TimeCourse {
  public:
    /// The steps begin now, behind so many iterations. Collective.
    TimeCourse(Iterated& flow, std::size_t iterations, double step);
    /// One that was on its way; the flow knows its step and sums.
    explicit TimeCourse(std::size_t averagedFrom) : averagedFrom_(averagedFrom) {}
    /// Behind each step. Where means still drift, averaging begins anew. Collective.
    void take(Iterated& flow, const std::vector<air::Coefficients>& history, const SettleWatch& watch);
    /// Entry of the history from which means are taken; it may lie ahead.
    std::size_t averagedFrom() const { return averagedFrom_; }
    bool hasMean(std::size_t iterations) const { return iterations > averagedFrom_ + 1; }

  private:
    std::size_t averagedFrom_;
};

}  // namespace cvane::flow
