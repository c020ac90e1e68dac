#pragma once
#include "shape/surface.h"

namespace cvane::shape {

/// Whether a surface is its own mirror image in y = 0: the image of no corner lies further off it than the tolerance
/// [m]. Hidden parts count as they are given.
bool isMirrorImage(const Surface& surface, double tolerance);

}  // namespace cvane::shape
