#pragma once
#include "panels/remesh.h"

namespace cvane::panels {

/// A surface that is its own mirror image in y = 0: what of the given one lies at y > 0, and its image. Parts of the
/// image are those of the half, but for parts whose image is another one of the surface.
/// @param surface  closed, or the half of one, open in the plane
shape::Surface wholeOf(const shape::Surface& surface);

/// As remeshed. Where the surface is its own mirror image in y = 0 within 1e-4 of its size, so are its panels to the
/// last bit, and a flow without sideslip has no side force but what rounding leaves.
shape::Surface remeshedAlike(const shape::Surface& surface, const Panelling& panelling,
                             const base::Progress& progress = {});

}  // namespace cvane::panels
