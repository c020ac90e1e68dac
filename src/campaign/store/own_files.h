#pragma once
#include <filesystem>

namespace cvane::campaign {

/// Throws InputError where a file that is to be written is, or would be, one of those that a campaign keeps for itself:
/// its settings, models, sections, grids and runs. Links are followed.
void refuseOwnFile(const std::filesystem::path& file);

}  // namespace cvane::campaign
