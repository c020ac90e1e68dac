#pragma once
#include <filesystem>

#include "flow/ranks.h"

namespace cvane::campaign {

/// Runs the point whose order stands in a folder, from where its checkpoint is or from the start: writes monitor.csv,
/// checkpoint.bin, result.json, wall.csv and flow.cgns there, and one JSON line a batch of iterations on its output.
/// Collective. Throws: files that cannot be read or written, and what the flow solver refuses; then all ranks leave
/// together.
void solvePoint(const std::filesystem::path& folder, const flow::Ranks& ranks);

}  // namespace cvane::campaign
