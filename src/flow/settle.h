#pragma once
#include <optional>
#include <string>
#include <utility>
#include <vector>

#include "air/free_stream.h"
#include "flow/settings.h"

namespace cvane::flow {

enum class Verdict { Running, Settled, Unsteady, Diverged };
std::string nameOf(Verdict v);

/// Mean of a coefficient over the last part of a run and how far it still moves there.
struct Spread {
    double mean = 0, low = 0, high = 0, drift = 0;  ///< drift: change of the mean between the halves of the window
    double halfRange() const { return 0.5 * (high - low); }
};

/// Over the last `window` entries (all of them when there are fewer).
Spread spreadOf(const std::vector<double>& history, std::size_t window);

/// Half the width of the 95 % interval of the mean of the entries from `first` on, by means over batches and Student's
/// t: the largest that 4, 6, 8 or 12 batches show, so that swings slower than a batch are not taken for rest. Infinite
/// below 100 entries. Source: batch means, e.g. A. M. Law, Simulation Modeling and Analysis, ch. 9.
double errorOfMean(const std::vector<double>& history, std::size_t first);

/// How far a coefficient that creeps to its limit still has to go: geometric extrapolation over the last three of six
/// equal parts of the window. 0 for one that swings about its mean; the last step itself for one that does not slow
/// down.
double stillToGo(const std::vector<double>& history, std::size_t window);

/// Watches the coefficients. Settled means that their means are known to the tolerance (of CD relative, of CL, CY and
/// Cm absolute), in one of two ways: at rest: over a window of a quarter of the iterations done (50 at least, as a
/// rule) the halves' means differ by less than the tolerance, the swing stays within twice that, what is still to go is
/// less, and the residual is below 1e-3; swinging: averaged since some iteration, the error of the mean is below the
/// tolerance. Iterations are steps of time then, and rest is judged over 20 diameters of the wake, kSteps, all of them
/// behind the first of these steps. Unsteady: the iterations are used up with neither.
class SettleWatch {
  public:
    static constexpr std::size_t kSteps = 200;
    static constexpr std::size_t kWashOut =
        100;  ///< steps until what went before has left the wake: averaging begins then
    /// @param leastWindow  iterations over which rest is judged at least
    explicit SettleWatch(const FlowSettings& settings, std::size_t leastWindow = 50)
        : settings_(settings), leastWindow_(leastWindow) {}
    /// @param averagedFrom  entry of the history from which means are or will be taken, kWashOut behind the first step
    /// of time; none: at rest only
    Verdict judge(const std::vector<air::Coefficients>& history, double residual,
                  std::optional<std::size_t> averagedFrom = {}) const;
    /// The first of the two ways to be settled.
    bool atRest(const std::vector<air::Coefficients>& history, double residual,
                std::optional<std::size_t> averagedFrom = {}) const;
    /// The force found from outside differs from the balance's by no more than what is allowed to coefficients at rest.
    /// @param difference  of drag, lift and side force (Solver::outsideDifference);  @param now  the coefficients
    bool closes(const air::Coefficients& difference, const air::Coefficients& now) const;
    /// The coefficients swing about means that no longer move much, by more than the usual tolerances and to the last:
    /// time to start averaging.
    bool swings(const std::vector<air::Coefficients>& history) const;
    /// Of means taken since `averagedFrom`, looked at every kWashOut steps from kSteps on: they still drift by more
    /// than half the swing, as where a wake that looked settled begins to shed. Averaging should start anew.
    bool driftsAway(const std::vector<air::Coefficients>& history, std::size_t averagedFrom) const;
    /// Iterations until rest if the coefficients go on to calm down as they do; at most those allowed.
    std::size_t iterationsLeft(const std::vector<air::Coefficients>& history) const;
    std::size_t window(std::size_t done) const { return std::max(leastWindow_, done / 4); }

  private:
    /// Largest of range and drift over what is allowed, over so many entries before `end`.
    double unrest(const std::vector<air::Coefficients>& history, std::size_t end, std::size_t window) const;
    /// Some coefficient swings over the last `window` entries by more than twice what is allowed; and, of these, one
    /// drifts by more than half of it.
    std::pair<bool, bool> swingAndDrift(const std::vector<air::Coefficients>& history, std::size_t window) const;
    /// The swing over the younger half of the window is less than half of that over the older one.
    bool diesAway(const std::vector<air::Coefficients>& history, std::size_t window) const;
    FlowSettings settings_;
    std::size_t leastWindow_;
};

/// One coefficient of a history.
std::vector<double> columnOf(const std::vector<air::Coefficients>& history, double air::Coefficients::*which);

}  // namespace cvane::flow
