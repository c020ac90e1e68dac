#include "flow/time_course.h"

namespace cvane::flow {

SteadyCourse::Next SteadyCourse::look(const std::vector<air::Coefficients>& history, const SettleWatch& watch) const {
    constexpr std::size_t kLookEvery = 10;  // iterations
    const std::size_t n = history.size();
    if (n % kLookEvery != 0) return Next::GoesOn;
    if (endsAtSwing) return watch.swings(history) ? Next::GivesUp : Next::GoesOn;
    return !onlyToRest && (watch.swings(history) || n == moveFrom) ? Next::MovesInTime : Next::GoesOn;
}

TimeCourse::TimeCourse(Iterated& flow, std::size_t iterations, double step)
    : averagedFrom_(iterations + SettleWatch::kWashOut) {
    flow.startMean();
    flow.setTimeStep(step);
}

void TimeCourse::take(Iterated& flow, const std::vector<air::Coefficients>& history, const SettleWatch& watch) {
    const std::size_t n = history.size();
    if (n > averagedFrom_) flow.addToMean();
    if (!watch.driftsAway(history, averagedFrom_)) return;
    averagedFrom_ = n;
    flow.startMean();
}

}  // namespace cvane::flow
