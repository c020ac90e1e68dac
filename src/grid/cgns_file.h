#pragma once
#include <filesystem>
#include <map>
#include <string>
#include <vector>

#include "grid/grid.h"

namespace cvane::grid {

/// Writes a grid as a CGNS file: one unstructured zone, faces as NGON_n with parents, cells as NFACE_n, one boundary
/// condition for each patch. Replaces the file in one step. Throws InputError (cannot be written).
void writeCgns(const Grid& grid, const std::filesystem::path& file);

/// Reads back what writeCgns wrote, identically. Throws InputError: missing, damaged, or not written by this program.
Grid readCgns(const std::filesystem::path& file);

/// Writes cell-centred fields (one value a cell) with a link to the grid's file beside it.
void writeFlowCgns(const std::filesystem::path& file, const std::string& linkToGrid, CellIndex cells,
                   std::size_t points, const std::map<std::string, std::vector<double>>& fields);

/// The cell-centred fields of such a file by their names; the grid is not read. Throws InputError: missing, damaged.
std::map<std::string, std::vector<double>> readFlowCgns(const std::filesystem::path& file);

}  // namespace cvane::grid
