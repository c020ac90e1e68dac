#include "flow/course.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace cvane::flow {
namespace {
constexpr int kMostRescues = 3;
constexpr std::size_t kGoodEvery = 50, kLookEvery = 10;  // iterations
}  // namespace

Course::Course(Solver& solver, const FlowSettings& settings)
    : solver_(solver), settings_(settings), watch_(settings), good_{solver.state(), 0, 1e300} {}

void Course::serveAnother() {
    onlyToRest_ = endsAtSwing_ = true;
    // On twelve bodies the drag where these end lies 0.0 to 0.6 % from where the usual ones do (1 % on a flat cylinder
    // of 1 D), after three quarters of the iterations; with windows of 24 a half ball ended 8 % off.
    FlowSettings loose = settings_;
    loose.toleranceCD *= 2.0;
    loose.toleranceCL *= 2.0;
    loose.leastIterations = std::min(loose.leastIterations, 40);
    watch_ = SettleWatch(loose, 30);
}

void Course::resume(const Checkpoint& saved) {
    solver_.resume(saved);
    history_ = saved.history;
    if (saved.averagedFrom > 0) averagedFrom_ = saved.averagedFrom;
    rescues_ = static_cast<int>(saved.rescues);
    good_ = {solver_.state(), history_.size(), 1e300};
}

void Course::goBack(std::string& notice) {
    ++rescues_;
    solver_.restore(good_.state);
    solver_.relaxation().lowerTo(0.7 * solver_.relaxation().now());
    notice = fmt::format("The flow blew up at iteration {}; it goes on from iteration {} with relaxation {:.2f}.",
                         history_.size(), good_.iteration, solver_.relaxation().now());
    history_.resize(good_.iteration);
    averagedFrom_.reset();
    solver_.startMean();
    solver_.setTimeStep(0.0);
    verdict_ = Verdict::Running;
}

Course::Step Course::iterate() {
    Step step;
    step.residuals = solver_.iterate();
    residual_ = step.residuals.momentum;
    history_.push_back(solver_.coefficients());
    const std::size_t n = history_.size();
    verdict_ = watch_.judge(history_, residual_, averagedFrom_);
    // Coefficients that creep slowly look at rest; what the flow carries away then still differs from what the model
    // holds.
    if (verdict_ == Verdict::Settled && watch_.atRest(history_, residual_, averagedFrom_) &&
        !watch_.closes(solver_.outsideDifference(), history_.back()))
        verdict_ = n < static_cast<std::size_t>(settings_.mostIterations) ? Verdict::Running : Verdict::Unsteady;
    if (verdict_ == Verdict::Diverged && rescues_ < kMostRescues) {
        goBack(step.notice);
        step.wentBack = true;
        return step;
    }
    if (averagedFrom_) {
        if (n > *averagedFrom_) solver_.addToMean();
        if (watch_.driftsAway(history_, *averagedFrom_)) {
            averagedFrom_ = n;
            solver_.startMean();
        }
    } else if (endsAtSwing_ && verdict_ == Verdict::Running && n % kLookEvery == 0 && watch_.swings(history_)) {
        verdict_ = Verdict::Unsteady;
    } else if (!onlyToRest_ && verdict_ == Verdict::Running && n % kLookEvery == 0 &&
               (watch_.swings(history_) || n == stepFrom_)) {
        averagedFrom_ = n + SettleWatch::kWashOut;
        solver_.startMean();
        // The swing of an iteration is not that of time: from here on the wake moves in steps of time, smaller ones
        // where the flow has blown up.
        const double dt = solver_.wakeTimeStep() * std::pow(0.5, rescues_);
        solver_.setTimeStep(dt);
        step.notice = fmt::format(
            "The flow swings; from iteration {} on it moves in steps of time of {:.2g} s, as a rule to the last "
            "iteration of {}.",
            n, dt, settings_.mostIterations);
    }
    if (n % kGoodEvery == 0 && residual_ <= 2.0 * good_.residual) good_ = {solver_.state(), n, residual_};
    return step;
}

Checkpoint Course::checkpoint() const {
    auto c = solver_.checkpoint();
    c.history = history_;
    c.averagedFrom = averagedFrom_.value_or(0);
    c.rescues = static_cast<std::uint64_t>(rescues_);
    return c;
}

std::optional<Checkpoint> Course::finish() {
    if (verdict_ == Verdict::Diverged) return {};
    // A swing that died out after averaging began: the flow is at rest, and its last state says more than a mean. Where
    // the iterations were used up before there was a mean, the last state is all there is.
    const bool noMean = averagedFrom_ && !meanFrom();
    const bool atRest =
        averagedFrom_ && verdict_ == Verdict::Settled && watch_.atRest(history_, residual_, averagedFrom_);
    if (noMean || atRest) averagedFrom_.reset();
    if (averagedFrom_) {
        auto swinging = checkpoint();
        solver_.takeMean();
        return swinging;
    }
    solver_.closeContinuity();
    return checkpoint();
}

}  // namespace cvane::flow
