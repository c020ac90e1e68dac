#include "campaign/store/stored_flow.h"

#include <map>
#include <mutex>

#include "base/errors.h"
#include "base/files.h"
#include "campaign/store/run_order.h"
#include "campaign/store/stored_grid.h"
#include "grid/cgns_file.h"
#include "readout/wall_field.h"

namespace cvane::campaign {
namespace fs = std::filesystem;

namespace {
// Points of a polar share their grid, and panes of a window their points.
std::shared_ptr<const field::Mesh> meshOf(const fs::path& file, const fs::path& knownFile,
                                          const std::shared_ptr<const grid::Grid>& known,
                                          const std::shared_ptr<const grid::Geometry>& knownGeometry) {
    static std::mutex mutex;
    static std::map<fs::path, std::pair<fs::file_time_type, std::weak_ptr<const field::Mesh>>> inUse;
    const std::lock_guard lock(mutex);
    std::error_code ec;
    const auto written = fs::last_write_time(file, ec);
    auto& entry = inUse[file];
    if (auto mesh = entry.second.lock(); mesh && entry.first == written) return mesh;
    const bool isKnown = known && knownGeometry && file == knownFile;
    const auto grid = isKnown ? known : std::make_shared<const grid::Grid>(readGrid(file));
    auto mesh = std::make_shared<const field::Mesh>(
        grid, isKnown ? knownGeometry : std::make_shared<const grid::Geometry>(grid::geometryOf(*grid)));
    entry = {written, mesh};
    return mesh;
}
}  // namespace

std::shared_ptr<const field::FlowField> openFlow(const fs::path& run, const fs::path& knownFile,
                                                 const std::shared_ptr<const grid::Grid>& known,
                                                 const std::shared_ptr<const grid::Geometry>& knownGeometry) {
    const auto order = readOrder(run);
    base::checkSum(run / "flow.cgns", "Run the point again.");
    auto arrays = grid::readFlowCgns(run / "flow.cgns");
    const auto mesh = meshOf(order.grid, knownFile, known, knownGeometry);
    auto wall = readout::readWallField(run / "wall.csv");
    return std::make_shared<const field::FlowField>(
        mesh, std::move(arrays), order.flowCase.wind,
        field::WallValues{std::move(wall.face), std::move(wall.Cp), std::move(wall.Cf), std::move(wall.yPlus)});
}

}  // namespace cvane::campaign
