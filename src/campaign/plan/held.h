#pragma once
#include <optional>
#include <string>
#include <vector>

#include "campaign/settings/schedule.h"

namespace cvane::campaign {

/// What a run at some alpha [deg] or speed [m/s] has led to: CL, or the lift [N].
struct Tried {
    double at = 0.0, value = 0.0;
};

/// What is to be done to reach a held lift.
struct NextTry {
    enum class Kind { Run, Reached, Cannot } kind = Kind::Run;
    double at = 0.0;  ///< alpha [deg] or speed [m/s] to run, or that reached it
    std::string why;  ///< of Cannot: a sentence
};

inline constexpr double kHeldWithin = 1e-3;  ///< of CL; of the force, as a share
inline constexpr int kMostTries = 8;

/// The next alpha or speed: by the parabola through the three tries that lie nearest to the value, or the secant
/// through two. With one try alpha goes as an elliptic wing of this aspect ratio lifts,
/// dCL/dalpha = 2 pi A / (A + 2) (L. Prandtl, Tragfluegeltheorie, Goettinger Nachrichten, 1918), and speed
/// by the force's growth with its square.
/// @param perUnit  of a force that alpha follows: newtons for CL 1; otherwise 1
NextTry nextTry(const HeldLift& held, const std::vector<Tried>& tried, double aspectRatio, double perUnit);

}  // namespace cvane::campaign
