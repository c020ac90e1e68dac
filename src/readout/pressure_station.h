#pragma once
#include <string>
#include <vector>

#include "readout/wall_field.h"

namespace cvane::readout {

/// Cp along the line in which a plane cuts the model.
struct PressureStation {
    struct Sample {
        Vec3 place;       ///< [m]
        double fraction;  ///< x/c: 0 at the cut's first point along the air, 1 at its last (along z for a cut across x)
        double Cp;
        double Cf;   ///< size of the skin friction coefficient
        bool upper;  ///< the surface faces up (+z); for a cut across z: to starboard
        std::string part;
    };
    std::vector<Sample> samples;                ///< sorted: lower side first, then upper, each by fraction
    std::vector<std::vector<Sample>> outlines;  ///< the same along the surface, one piece after the other; a closed
                                                ///< piece ends where it begins
    double chord = 0;                           ///< extent that the fractions refer to [m]
};

/// @param axis  plane normal: 0, 1 or 2;  @param position  [m].  Empty when the plane misses the model.
/// Cp is averaged from the faces to their points and taken linearly along the cut edges.
PressureStation cutStation(const grid::Grid& grid, const grid::Geometry& geometry, const WallField& field, int axis,
                           double position);

/// Text table for a spreadsheet: x_m, y_m, z_m, x_c, Cp, Cf, side, part.
std::string toCsv(const PressureStation& station);
/// Several at once, the plane of each before its rows: axis, plane_m. @param planes  axis and place of each
std::string toCsv(const std::vector<std::pair<int, double>>& planes, const std::vector<PressureStation>& stations);

/// Averages face values to the points of the wall faces, weighted by area. @return one value a grid point (0 off the
/// wall)
std::vector<double> toPoints(const grid::Grid& grid, const grid::Geometry& geometry,
                             const std::vector<grid::FaceIndex>& faces, const std::vector<double>& values);

}  // namespace cvane::readout
