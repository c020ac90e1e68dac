#pragma once
#include <filesystem>

#include "grid/grid.h"

namespace cvane::campaign {

/// A grid as CGNS with its checksum beside it, in <name>.sum. Throws InputError: it cannot be written.
void writeGrid(const grid::Grid& grid, const std::filesystem::path& file);
/// Throws InputError: the grid is damaged, or nothing tells whether it is whole.
void checkGrid(const std::filesystem::path& file);
/// Throws InputError: not there, damaged (by its checksum before a library looks into it).
grid::Grid readGrid(const std::filesystem::path& file);

/// Throws InputError: a grid or flow of a campaign whose checksum is missing (those of campaigns that began with schema
/// 1 may), or does not fit.
void checkStored(const std::filesystem::path& file, const std::string& whatToDo);

}  // namespace cvane::campaign
