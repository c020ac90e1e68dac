#pragma once
#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "flow/settle.h"
#include "flow/time_course.h"

namespace cvane::flow {

/// The way of one flow, whatever its physics, from its start to its verdict: the steady course until it rests, the
/// course in time where it swings, and back to the last good state, with more caution, when it blows up. All ranks take
/// the same one; every function that changes it is collective.
class Course {
  public:
    /// The flow has its start; it and the settings are kept by reference.
    Course(Iterated& flow, const FlowSettings& settings);
    /// Goes on where a saved run stood, as if it had not stopped. Throws InputError when it belongs to another grid.
    void resume(const Checkpoint& saved);

    struct Step {
        Residuals residuals;
        std::string notice;     ///< one sentence when the course has changed; empty otherwise
        bool wentBack = false;  ///< the history has become shorter
    };
    /// One iteration. The verdict is Running until the last one.
    Step iterate();
    /// Steps of time begin behind this iteration, whether the flow swings or not.
    void stepInTimeFrom(std::size_t iteration) { steady_.moveFrom = iteration; }
    /// No steps of time and no averages.
    void onlyToRest() { steady_.onlyToRest = true; }
    /// For a flow that is no end in itself, a start and a measure of the cells: only to rest, which is known to twice
    /// the tolerances and may show after 40 iterations; unsteady as soon as it swings.
    void serveAnother();

    /// The settings' tolerances and iterations have changed: it is judged by these from the next iteration on.
    void judgeAnew() { watch_ = SettleWatch(settings_); }

    Verdict verdict() const { return verdict_; }
    const std::vector<air::Coefficients>& history() const { return history_; }
    const SettleWatch& watch() const { return watch_; }
    /// Entry of the history from which means are taken; it may lie ahead. None: no swing was seen, or after finish()
    /// the flow rests.
    std::optional<std::size_t> averagedFrom() const {
        return time_ ? std::optional(time_->averagedFrom()) : std::nullopt;
    }

    /// The same where there is a mean by now.
    std::optional<std::size_t> meanFrom() const {
        return time_ && time_->hasMean(history_.size()) ? averagedFrom() : std::nullopt;
    }
    /// Of a course that is given up: the flow gets the mean so far, to be read out.
    void showMean() {
        if (meanFrom()) flow_.takeMean();
    }

    /// State, history and what else resume() needs; rank 0 has the fields. Key and computing time are the caller's.
    Checkpoint checkpoint() const;
    /// Writes the same, each rank its part.
    void save(const std::filesystem::path& file, const std::string& key, double seconds) const;
    /// Behind the last iteration: the flow gets the mean of a flow that swings, or its continuity is closed to
    /// rounding.
    /// @return what is worth keeping: the flow as it swings, or at rest; nothing of one that diverged
    std::optional<Checkpoint> finish();
    /// The same; `keep` is called while the flow is what is worth keeping, or not at all. Collective.
    void finish(const std::function<void()>& keep);

  private:
    void addHistory(Checkpoint& c) const;
    void goBack(std::string& notice);
    void beginSteps(std::string& notice);
    Iterated& flow_;
    const FlowSettings& settings_;
    SettleWatch watch_;
    std::vector<air::Coefficients> history_;
    SteadyCourse steady_;
    std::optional<TimeCourse> time_;
    Verdict verdict_ = Verdict::Running;
    double residual_ = 0.0;
    int rescues_ = 0;
    /// Where to go back to: a state whose residual was not rising.
    struct Good {
        std::size_t iteration = 0;
        double residual = 1e300;
    } good_;
};

}  // namespace cvane::flow
