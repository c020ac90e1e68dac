#include "flow/relaxation_control.h"

#include <algorithm>

namespace cvane::flow {
namespace {
// Below one half, V / a_P in the face flux exceeds what the correction of the pressure reckons with, and the two work
// each other up.
constexpr double kTogether = 10.0, kRisen = 1.5, kFallen = 1.0 / 3.0, kLower = 5.0 / 6.0, kLeast = 0.5;
// Below this a rise is noise about the settled flow.
constexpr double kCalm = 1e-5;
}  // namespace

void RelaxationControl::take(double residual) {
    sum_ += residual;
    count_ += 1.0;
    if (count_ < kTogether) return;
    const double mean = sum_ / count_;
    sum_ = count_ = 0.0;
    if (mean > kRisen * least_ && mean > kCalm && now_ > kLeast) {
        now_ = std::max(kLeast, kLower * now_);
        atChange_ = mean;
        least_ = kNone;
    } else if (mean < kFallen * atChange_ && now_ < wanted_) {
        now_ = std::min(wanted_, now_ / kLower);
        atChange_ = mean;
    }
    least_ = std::min(least_, mean);
}

void RelaxationControl::remember(const std::vector<double>& m) {
    if (m.size() != 6) return;
    wanted_ = m[0];
    now_ = m[1];
    least_ = m[2];
    atChange_ = m[3];
    sum_ = m[4];
    count_ = m[5];
}

}  // namespace cvane::flow
