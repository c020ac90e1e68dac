#pragma once
#include <filesystem>
#include <span>
#include <vector>

#include "base/vec3.h"
#include "grid/grid.h"

namespace cvane::readout {

/// Pressure and friction on the model's wall faces, in the order of the grid's faces.
struct WallField {
    std::vector<grid::FaceIndex> face;
    std::vector<double> Cp;  ///< pressure coefficient, static minus free-stream pressure over q
    std::vector<Vec3> Cf;    ///< wall shear over q, along the flow
    std::vector<double> yPlus;
};

/// wall.csv: face, x_m, y_m, z_m, area_m2, Cp, Cfx, Cfy, Cfz, y_plus; one row a face. Replaces the file in one step.
void writeWallField(const WallField& field, const grid::Geometry& geometry, const std::filesystem::path& file);
/// The same where the grid is not at hand.
/// @param centres, areas  of the field's faces, one an entry [m], [m2]
void writeWallField(const WallField& field, std::span<const Vec3> centres, std::span<const double> areas,
                    const std::filesystem::path& file);
/// Throws InputError (missing, damaged).
WallField readWallField(const std::filesystem::path& file);

}  // namespace cvane::readout
