#pragma once
#include "shape/surface.h"

namespace cvane::shape {

/// How the imported surface is turned and shifted into the wind: rotations in degrees about x, then y, then z through
/// the origin, then the shift [m]. A positive rotation follows the right-hand rule.
struct Placement {
    Vec3 rotation_deg = Vec3::Zero();
    Vec3 shift = Vec3::Zero();
    bool operator==(const Placement&) const = default;
};

Mat3 rotationMatrix(const Vec3& rotation_deg);
Surface placed(const Surface& surface, const Placement& placement);

/// The placement followed by a further turn of `degrees` about axis 0, 1 or 2 through the placed model's middle.
Placement turned(const Placement& placement, const Box& unplacedBounds, int axis, double degrees);

}  // namespace cvane::shape
