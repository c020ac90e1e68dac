#pragma once
#include <vector>

#include "field/flow_field.h"

namespace cvane::field {

/// The flow above one place of a wall, cell by cell.
struct WallProfile {
    Vec3 place = Vec3::Zero();      ///< on the wall [m], the middle of its face
    Vec3 normal = Vec3::Zero();     ///< of unit length, into the air
    Vec3 along = Vec3::Zero();      ///< of unit length, of the shear; of the outermost velocity where there is none
    double frictionVelocity = 0.0;  ///< root of shear over density [m/s]
    struct Sample {
        double height = 0.0;              ///< of the cell's middle above the wall [m]
        double along = 0.0;               ///< velocity along the shear [m/s]
        double across = 0.0;              ///< along the wall, across the shear [m/s]
        double yPlus = 0.0, uPlus = 0.0;  ///< in wall units; 0 without friction
    };
    std::vector<Sample> samples;  ///< from the wall on
};

/// Velocities in the cells that the normal of the wall passes, which are what was computed: nothing is put between
/// them. @param near  the nearest face of the model counts [m];  @param reach  how far from the wall [m]
/// Throws InputError: there is no wall, or nothing is known of it.
WallProfile wallProfile(const FlowField& flow, const Vec3& near, double reach);

}  // namespace cvane::field
