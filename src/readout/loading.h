#pragma once
#include <optional>
#include <string>
#include <vector>

#include "air/free_stream.h"
#include "grid/grid.h"
#include "readout/wall_field.h"

namespace cvane::readout {

/// What a slab of the model across an axis carries.
struct Strip {
    double from = 0.0, to = 0.0;                            ///< along the axis [m]
    Vec3 pressure = Vec3::Zero(), friction = Vec3::Zero();  ///< force [N], model frame
    double chord = 0.0;                                     ///< extent of the walls in it along the wind [m]
    Vec3 force() const { return pressure + friction; }
    double middle() const { return 0.5 * (from + to); }
};

/// Forces along an axis, of the walls that were computed: of a half model one half.
struct Loading {
    Vec3 axis = Vec3::UnitY();
    std::vector<Strip> strips;
    Vec3 total() const;
};

/// Shares every wall face's force out over the slabs by the area that it has in them; the sum is that of the faces.
/// @param parts  names of the walls' patches that count; empty: all
/// Throws InputError: no walls, no strips, an axis of no length.
Loading loadingAlong(const grid::Grid& grid, const grid::Geometry& geometry, const WallField& field,
                     const air::FreeStream& wind, const Vec3& axis, int strips,
                     const std::vector<std::string>& parts = {});

/// Shear [N] and bending moment [N m] at the inner end of each strip, from what lies beyond it towards the far end of
/// the axis. @param along  the force's way that counts
struct Carried {
    std::vector<double> shear, bending;
};
Carried carriedBeyond(const Loading& loading, const Vec3& along);

/// Oswald's span efficiency from the lift's distribution over the span alone, CL^2 / (pi e AR) being the drag of its
/// wake: by the sine series of the circulation in Prandtl's lifting line (H. Glauert, The Elements of Aerofoil and
/// Airscrew Theory, 1926). @param half  the loading is that of the half at y > 0
/// Nothing without lift.
std::optional<double> spanEfficiency(const Loading& spanwise, const Vec3& liftAxis, bool half);

/// axis_m, widths, forces a metre along drag, lift and side, sectional coefficients, and sums from the first strip on.
std::string toCsv(const Loading& loading, const air::FreeStream& wind);

}  // namespace cvane::readout
