#pragma once
#include "flow/boundaries.h"
#include "flow/devices.h"
#include "flow/flow.h"

namespace cvane::flow {

/// Force on the model [N / (kg/m3)] from what goes through everything that bounds the air but the model: momentum and
/// pressure through the tunnel's sides, friction and pressure on the ground, and what discs and porous blocks do to the
/// air, F = - sum_f [ (U_f - V) F_f + p_f S_f - nu_f (U_f - U_P) gap_f ] + devices,   f: faces off the model,  V: the
///   wind.
/// With the faces' values as the momentum equations take them it is the force on the model's own faces to as much as
/// these are settled, and differs where the means of a swinging flow lack what the swing itself carries. V takes out
/// what is left of continuity. Collective.
Vec3 forceFromOutside(const Flow& flow, const Boundaries& boundaries, const Devices& devices, const Ranks& ranks);

}  // namespace cvane::flow
