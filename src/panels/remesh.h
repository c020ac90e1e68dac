#pragma once
#include "base/progress.h"
#include "shape/surface.h"

namespace cvane::panels {

/// How a surface is cut into panels.
struct Panelling {
    std::size_t count = 4000;  ///< of triangles, reached within some per cent
    double stretch = 6.0;      ///< of panels at most, along where the surface bends little
    double feature = 0.61;     ///< [rad]: an edge at which the surface turns by more stays an edge
};

/// A closed surface of about as many triangles as wanted, smaller where it bends, whose points lie on the given one.
/// Its edges and the lines between parts stay lines; what is narrower than a quarter of a panel, as a blunt trailing
/// edge is, becomes a line. Deterministic.
/// @param surface  closed but for rims in a mirror plane, facets facing the air, points shared (weld), no hidden parts
/// Throws Cancelled.
/// Source: M. Botsch and L. Kobbelt, SGP 2004 (split, collapse, flip, smooth, project), in a metric as F. Alauzet,
/// Finite Elem. Anal. Des. 46, 2010.
shape::Surface remeshed(const shape::Surface& surface, const Panelling& panelling, const base::Progress& progress = {});

}  // namespace cvane::panels
