#pragma once
#include <algorithm>
#include <vector>

namespace cvane::flow {

/// Chooses the relaxation of momentum by the course of the residuals of momentum and mass, in means over ten
/// iterations: lowered by a sixth when the mean has risen to half again its least since the last change (large
/// separated wakes work themselves up otherwise), raised again when it has fallen to a third. Never above what the user
/// asked for, nor below one half (relaxation_control.cpp says why).
class RelaxationControl {
  public:
    explicit RelaxationControl(double wanted) : wanted_(std::min(wanted, kMost)), now_(wanted_) {}
    double now() const { return now_; }
    double most() const { return wanted_; }
    /// After a rescue: from here on at most this.
    void lowerTo(double relaxation) {
        wanted_ = now_ = std::max(0.5, relaxation);
        least_ = kNone;
        sum_ = count_ = 0.0;
    }
    void take(double residual);

    /// Everything that it remembers, for checkpoints.
    std::vector<double> memory() const { return {wanted_, now_, least_, atChange_, sum_, count_}; }
    void remember(const std::vector<double>& memory);

  private:
    /// With none at all the correction of the pressure, which counts with what the relaxation leaves over of a_P, would
    /// have nothing to count with.
    static constexpr double kMost = 0.98;
    static constexpr double kNone = 1e300;
    double wanted_, now_;
    double least_ = kNone;     ///< mean since the last change
    double atChange_ = kNone;  ///< mean at which it was lowered
    double sum_ = 0.0, count_ = 0.0;
};

}  // namespace cvane::flow
