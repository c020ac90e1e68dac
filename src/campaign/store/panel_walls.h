#pragma once
#include <filesystem>
#include <memory>
#include <nlohmann/json.hpp>

#include "air/free_stream.h"
#include "grid/grid.h"
#include "readout/wall_field.h"
#include "shape/surface.h"

namespace cvane::campaign {

/// What panels have found on the model's surface, in the form in which the walls of a field are read: a grid of faces
/// without cells.
struct PanelWalls {
    std::shared_ptr<const grid::Grid> grid;
    std::shared_ptr<const grid::Geometry> geometry;
    readout::WallField wall;
    air::FreeStream wind;
    /// Where the boundary layer has separated, here or upstream: facets of what is not to be believed. Empty: nowhere,
    /// or friction was not asked for.
    shape::Surface separated;
};
inline constexpr const char* kPanelsFile = "panels.cbor";  ///< points, facets, parts and wakes (docs/files.md)

/// Numbers of points one after the other.
std::vector<double> flat(const std::vector<Vec3>& points);
std::vector<Vec3> pointsFrom(const std::vector<double>& numbers);
/// Replaces the file in one step. Throws InputError: it cannot be written.
void writeCbor(const nlohmann::json& j, const std::filesystem::path& file);
/// Of a file that is damaged a value that holds nothing. Throws InputError: it cannot be read.
nlohmann::json readCbor(const std::filesystem::path& file);
/// A surface as files of panels have it.
nlohmann::json surfaceJson(const shape::Surface& surface);
/// Throws InputError: a field is missing, or names a point or part that is not there. @param where  for the message
shape::Surface surfaceFrom(const nlohmann::json& j, const std::string& where);

/// The faces of a surface, patch by patch. @param order  out: number of each face's facet
grid::Grid facesOf(const shape::Surface& surface, std::vector<std::size_t>& order);

/// @param run  folder of a run by panels. Throws InputError: missing, damaged.
PanelWalls readPanelWalls(const std::filesystem::path& run);

}  // namespace cvane::campaign
