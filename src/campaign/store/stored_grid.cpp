#include "campaign/store/stored_grid.h"

#include "base/errors.h"
#include "base/files.h"
#include "grid/cgns_file.h"

namespace cvane::campaign {
namespace fs = std::filesystem;

void writeGrid(const grid::Grid& g, const fs::path& file) {
    std::error_code ec;
    fs::remove(file.string() + ".sum", ec);  // that of the file before, which would speak against the new one
    grid::writeCgns(g, file);
    base::noteSum(file);
}

void checkStored(const fs::path& file, const std::string& whatToDo) {
    std::error_code ec;
    const fs::path campaign = file.parent_path().parent_path().parent_path();
    if (fs::exists(file, ec) && !fs::exists(file.string() + ".sum", ec) &&
        !fs::exists(campaign / "campaign.schema1.json", ec))
        throw base::InputError("has lost its checksum, so that nothing tells whether it is whole.", file.string(),
                               whatToDo);
    base::checkSum(file, whatToDo);
}

void checkGrid(const fs::path& file) {
    checkStored(file, "Make the grid again; this one is put aside.");
}

grid::Grid readGrid(const fs::path& file) {
    checkGrid(file);
    return grid::readCgns(file);
}

}  // namespace cvane::campaign
