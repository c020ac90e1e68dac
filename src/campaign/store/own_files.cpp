#include "campaign/store/own_files.h"

#include <fmt/format.h>

#include <algorithm>
#include <iterator>

#include "base/errors.h"

namespace cvane::campaign {
namespace fs = std::filesystem;

namespace {
constexpr const char* kFolders[] = {"models", "sections", "grids", "runs", "outside", "batch"};

// By its place within the folder of a campaign.
bool isOwn(const fs::path& within) {
    const auto first = within.begin()->string();
    if (std::distance(within.begin(), within.end()) == 1)
        return first == "report.json" || first.starts_with('.') ||
               (first.starts_with("campaign") && first.ends_with(".json"));
    return std::find(std::begin(kFolders), std::end(kFolders), first) != std::end(kFolders);
}
}  // namespace

void refuseOwnFile(const fs::path& file) {
    std::error_code ec;
    const fs::path real = fs::weakly_canonical(fs::absolute(file, ec), ec);
    if (ec || real.empty()) return;  // whoever writes says what is wrong with it
    for (fs::path folder = real.parent_path(); folder != folder.parent_path(); folder = folder.parent_path()) {
        if (!fs::is_regular_file(folder / "campaign.json", ec)) continue;
        if (isOwn(real.lexically_relative(folder)))
            throw base::InputError(
                fmt::format("belongs to the campaign {} and is not written over.", folder.filename().string()),
                file.string(), "Choose a place outside the campaign's folder.");
    }
}

}  // namespace cvane::campaign
