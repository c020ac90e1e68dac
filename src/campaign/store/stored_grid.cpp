#include "campaign/store/stored_grid.h"

#include "base/files.h"
#include "grid/cgns_file.h"

namespace cvane::campaign {
namespace fs = std::filesystem;

void writeGrid(const grid::Grid& g, const fs::path& file) {
    std::error_code ec;
    fs::remove(file.string() + ".sum", ec);  // that of the file before; without one the file counts as it is
    grid::writeCgns(g, file);
    base::noteSum(file);
}

grid::Grid readGrid(const fs::path& file) {
    base::checkSum(file, "Make the grid again; the damaged one is put aside.");
    return grid::readCgns(file);
}

}  // namespace cvane::campaign
