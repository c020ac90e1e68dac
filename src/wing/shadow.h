#pragma once
#include <optional>

#include "shape/surface.h"
#include "wing/aircraft.h"

namespace cvane::wing {

/// Flat lifting surfaces of the outline that a model from elsewhere has from above: cut across at stations from tip to
/// root, of each cut the stretch that goes on from the last one. Where a stretch runs into a body, or two run together,
/// edges go on straight to the plane of symmetry. Camber, twist, dihedral and bodies are left out: the lift begins at
/// alpha 0. Hidden parts are given as they count.
/// @param placed  its own mirror image in y = 0, or the starboard half of it
/// @return nothing: it is not wider than long, or deeper than a quarter of its outline: no wing
std::optional<Aircraft> flatWingsOf(const shape::Surface& placed);

}  // namespace cvane::wing
