#pragma once
#include <filesystem>

#include "shape/surface.h"

namespace cvane::shape {

/// Writes text STL, one solid for each part, lengths divided by `unit` [m]. Replaces the file in one step.
void writeStl(const Surface& surface, const std::filesystem::path& file, double unit);

/// Binary STL of all facets in one piece.
void writeBinaryStl(const Surface& surface, const std::filesystem::path& file, double unit);

}  // namespace cvane::shape
