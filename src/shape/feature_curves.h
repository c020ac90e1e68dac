#pragma once
#include <vector>

#include "shape/surface.h"
#include "shape/triangle_tree.h"

namespace cvane::shape {

/// A line on the model that the grid should follow: a sharp edge, or the line in which two parts meet.
struct FeatureCurve {
    std::vector<Vec3> points;  ///< polyline [m], at least two
    bool closed = false;       ///< the last point joins the first
    double length() const;
};

/// Sharp edges (the surface turns by more than `angle` [rad]) and the lines in which facets cross, joined to curves
/// that end where more or fewer than two of them meet and at their own corners (a turn of more than 45 degrees). Open
/// rims are left out: a hole smaller than a cell is closed by the grid and should not be traced.
std::vector<FeatureCurve> featureCurves(const Surface& surface, const TriangleTree& tree, double angle);

}  // namespace cvane::shape
