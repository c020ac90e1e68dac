#pragma once
#include "campaign/plan/held.h"
#include "campaign/steps/reports.h"

namespace cvane::campaign {

/// A held lift on the way: the point to be run next, or the one that has it.
struct HeldStep {
    NextTry::Kind kind = NextTry::Kind::Cannot;
    Point point;                  ///< of Run and Reached
    std::optional<double> value;  ///< of Reached: what it has, CL or newtons
    int tries = 0;                ///< runs at its speed (or alpha) and sideslip so far
    std::string why;              ///< of Cannot
};

/// By all runs that are done at the speed (where speed follows: at the alpha) and sideslip of the held lift.
/// Throws InputError: a configuration or set-up that is not there, a model that cannot be read.
HeldStep holdingOf(const Campaign& base, const HeldLift& held, MeasureBook& book);

/// Notes a try as a single point of the schedule, unless it is a point of it already.
void noteTry(Settings& settings, const Point& point);

/// "CL 0.5 at 20 m/s", "lift 120 N at alpha 4 deg"; with the names of its configuration and set-up.
std::string wordsOf(const HeldLift& held);

}  // namespace cvane::campaign
