#include "flow/course.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

namespace cvane::flow {
namespace {
constexpr int kMostRescues = 3;
constexpr std::size_t kGoodEvery = 50;  // iterations
}  // namespace

Course::Course(Iterated& flow, const FlowSettings& settings) : flow_(flow), settings_(settings), watch_(settings) {
    flow_.keepState();
}

void Course::serveAnother() {
    steady_.onlyToRest = steady_.endsAtSwing = true;
    // On twelve bodies the drag where these end lies 0.0 to 0.6 % from where the usual ones do (1 % on a flat cylinder
    // of 1 D), after three quarters of the iterations; with windows of 24 a half ball ended 8 % off.
    FlowSettings loose = settings_;
    loose.toleranceCD *= 2.0;
    loose.toleranceCL *= 2.0;
    loose.leastIterations = std::min(loose.leastIterations, 40);
    watch_ = SettleWatch(loose, 30);
}

void Course::resume(const Checkpoint& saved) {
    flow_.resume(saved);
    history_ = saved.history;
    if (saved.averagedFrom > 0) time_.emplace(saved.averagedFrom);
    rescues_ = static_cast<int>(saved.rescues);
    flow_.keepState();
    good_ = {history_.size(), 1e300};
}

void Course::goBack(std::string& notice) {
    ++rescues_;
    notice = fmt::format("The flow blew up at iteration {}; it goes on from iteration {} with relaxation {:.2f}.",
                         history_.size(), good_.iteration, flow_.goBackWithCaution());
    history_.resize(good_.iteration);
    time_.reset();
    flow_.startMean();
    flow_.setTimeStep(0.0);
    verdict_ = Verdict::Running;
}

// The swing of an iteration is not that of time: from here on the wake moves in steps of time, smaller ones where the
// flow has blown up.
void Course::beginSteps(std::string& notice) {
    const std::size_t n = history_.size();
    const double dt = flow_.wakeTimeStep() * std::pow(0.5, rescues_);
    time_.emplace(flow_, n, dt);
    notice = fmt::format(
        "The flow swings; from iteration {} on it moves in steps of time of {:.2g} s, as a rule to the last "
        "iteration of {}.",
        n, dt, settings_.mostIterations);
}

Course::Step Course::iterate() {
    Step step;
    step.residuals = flow_.iterate();
    residual_ = step.residuals.momentum;
    history_.push_back(flow_.coefficients());
    const std::size_t n = history_.size();
    verdict_ = watch_.judge(history_, residual_, averagedFrom());
    // Coefficients that creep slowly look at rest; what the flow carries away then still differs from what the model
    // holds.
    if (verdict_ == Verdict::Settled && watch_.atRest(history_, residual_, averagedFrom()) &&
        !watch_.closes(flow_.outsideDifference(), history_.back()))
        verdict_ = n < static_cast<std::size_t>(settings_.mostIterations) ? Verdict::Running : Verdict::Unsteady;
    if (verdict_ == Verdict::Diverged && rescues_ < kMostRescues) {
        goBack(step.notice);
        step.wentBack = true;
        return step;
    }
    if (time_) {
        time_->take(flow_, history_, watch_);
    } else if (verdict_ == Verdict::Running) {
        const auto next = steady_.look(history_, watch_);
        if (next == SteadyCourse::Next::GivesUp) verdict_ = Verdict::Unsteady;
        if (next == SteadyCourse::Next::MovesInTime) beginSteps(step.notice);
    }
    if (n % kGoodEvery == 0 && residual_ <= 2.0 * good_.residual) {
        flow_.keepState();
        good_ = {n, residual_};
    }
    return step;
}

Checkpoint Course::checkpoint() const {
    auto c = flow_.checkpoint();
    addHistory(c);
    return c;
}

void Course::save(const std::filesystem::path& file, const std::string& key, double seconds) const {
    Checkpoint head;
    addHistory(head);
    head.key = key;
    head.seconds = seconds;
    flow_.save(head, file);
}

void Course::addHistory(Checkpoint& c) const {
    c.history = history_;
    c.averagedFrom = averagedFrom().value_or(0);
    c.rescues = static_cast<std::uint64_t>(rescues_);
}

void Iterated::save(const Checkpoint& head, const std::filesystem::path& file) const {
    auto c = checkpoint();
    c.history = head.history;
    c.averagedFrom = head.averagedFrom;
    c.rescues = head.rescues;
    c.key = head.key;
    c.seconds = head.seconds;
    writeCheckpoint(c, file);
}

std::optional<Checkpoint> Course::finish() {
    std::optional<Checkpoint> kept;
    finish([&] { kept = checkpoint(); });
    return kept;
}

void Course::finish(const std::function<void()>& keep) {
    if (verdict_ == Verdict::Diverged) return;
    // A swing that died out after averaging began: the flow is at rest, and its last state says more than a mean. Where
    // the iterations were used up before there was a mean, the last state is all there is.
    const bool noMean = time_ && !meanFrom();
    const bool atRest = time_ && verdict_ == Verdict::Settled && watch_.atRest(history_, residual_, averagedFrom());
    if (noMean || atRest) time_.reset();
    if (time_) {
        keep();
        flow_.takeMean();
        return;
    }
    flow_.complete();
    keep();
}

}  // namespace cvane::flow
