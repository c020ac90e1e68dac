#pragma once
#include <vector>

#include "section/outline/contour.h"

namespace cvane::section {

/// How panels are laid on an outline.
struct Panelling {
    int panels = 160;
    double noseCluster = 1.0;  ///< how far panels follow the curvature; 0: evenly
    double tailSize = 0.3;     ///< last panel over the mean one
    bool operator==(const Panelling&) const = default;
};

/// Nodes in the order of the contour, and the outline between them.
struct Panels {
    std::vector<Vec2> nodes;
    std::vector<std::vector<Vec2>>
        between;  ///< per panel: places that cut it into equal parts; none where it is straight
};

/// The number of nodes is panels + 1. The density of nodes follows the square root of the curvature
/// (bounded, and smoothed over a few panels so that neighbours differ little in length) and rises towards the trailing
/// edge. A trailing edge thinner than kSharpGap is closed. Corners of more than 30 degrees (a flap's hinge) get a node.
/// Throws InputError: panels outside 40 .. 600, cluster or size outside 0 .. 5 or 0.05 .. 2.
Panels panelsOf(const Contour& unitChord, const Panelling& panelling);

}  // namespace cvane::section
