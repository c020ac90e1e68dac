#pragma once
#include <filesystem>
#include <string>

#include "shape/surface.h"

namespace cvane::shape {

/// Reads a surface file (STL text or binary decided by content, OBJ, PLY). Lengths are multiplied by `unit` [m].
/// Parts come from the file's solids or objects; a file with one only is split by connectedness.
/// Throws InputError: missing, empty, not a surface, a corner that is not a number, no facet with an area.
Surface readSurface(const std::filesystem::path& file, double unit);

/// A remark on a size that looks like a wrong unit (longest side below 5 mm or above 150 m), with the unit that would
/// bring it between 0.1 and 20 m; empty when the size is plausible.
std::string sizeRemark(const Box& bounds, double unit);

}  // namespace cvane::shape
