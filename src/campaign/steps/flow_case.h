#pragma once
#include "campaign/plan/points.h"
#include "flow/case.h"

namespace cvane::campaign {

/// How a wheel's surface moves at a point of the schedule: about the typed axle or the one found from its shape;
/// rolling with the speed of the air over the ground (or over its own rim without a ground). Throws InputError: no such
/// part, an axis of length zero, an axle below the ground.
flow::MovingPart motionOf(const Wheel& wheel, const shape::Surface& placed, const grid::Tunnel& tunnel, double speed);

/// What the solver is told about a point. Throws InputError as above.
flow::Case flowCaseOf(const Settings& settings, const Point& point, const shape::Surface& placed,
                      const air::Reference& reference);

}  // namespace cvane::campaign
