#pragma once
#include <string>
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

/// Watches the coefficients. Settled: over a window of a quarter of the iterations done (50 at least) the mean of CD moves
/// by less than its tolerance from one half to the other, and so do CL, CY and Cm, the swing stays within twice that, and
/// the residual is below 1e-3. Unsteady: the iterations are used up with the coefficients still swinging.
class SettleWatch {
  public:
    explicit SettleWatch(const FlowSettings& settings) : settings_(settings) {}
    Verdict judge(const std::vector<air::Coefficients>& history, double residual) const;
    std::size_t window(std::size_t done) const { return std::max<std::size_t>(50, done / 4); }

  private:
    FlowSettings settings_;
};

}  // namespace cvane::flow
