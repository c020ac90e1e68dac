#pragma once
#include <vector>

#include "shape/surface.h"

namespace cvane::shape {

/// Whether a surface is its own mirror image in y = 0: the image of no corner lies further off it than the tolerance
/// [m]. Hidden parts count as they are given.
bool isMirrorImage(const Surface& surface, double tolerance);

/// Per part the one that is its mirror image in y = 0 by the box around it, or itself; -1 where there is none within
/// the tolerance [m].
std::vector<int> mirroredParts(const Surface& surface, double tolerance);

}  // namespace cvane::shape
