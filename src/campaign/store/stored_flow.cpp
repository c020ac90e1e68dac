#include "campaign/store/stored_flow.h"

#include <mutex>

#include "base/errors.h"
#include "base/files.h"
#include "campaign/store/run_order.h"
#include "campaign/store/run_standing.h"
#include "campaign/store/stored_grid.h"
#include "flow/checkpoint.h"
#include "flow/gas_law.h"
#include "flow/turbulence.h"
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

std::map<std::string, std::vector<double>> flowArrays(std::span<const double> rows, const flow::Case& c,
                                                      double freePressure) {
    const auto variables = flow::namesOfVariables(c.settings.model);
    std::vector<const char*> names{"VelocityX",
                                   "VelocityY",
                                   "VelocityZ",
                                   "PressureKinematic",
                                   variables[0],
                                   variables[1],
                                   "ViscosityEddyKinematic"};
    if (c.compressible) names.insert(names.end(), {"EnthalpyStagnation", "Density"});
    constexpr std::size_t kPressure = 3, kDensity = 8;
    const std::size_t width = names.size();
    std::map<std::string, std::vector<double>> out;
    for (std::size_t k = 0; k < width; ++k) {
        if (*names[k] == '\0') continue;
        auto& v = out[names[k]];
        v.reserve(rows.size() / width);
        for (std::size_t i = k; i < rows.size(); i += width)
            v.push_back(rows[i] - (k == kPressure ? freePressure : 0.0));
    }
    if (!c.compressible) return out;
    const flow::GasLaw gas(c.wind);
    auto &density = out["Density"], &temperature = out["Temperature"];
    for (std::size_t i = 0; i < rows.size(); i += width) {
        temperature.push_back(gas.pressureOf(rows[i + kPressure]) / (gas.R * rows[i + kDensity]));
        density[i / width] *= c.wind.air.density;
    }
    // Less the free stream's, as stored on the way; the file has the whole.
    const double free = gas.totalEnthalpy();
    for (double& h : out["EnthalpyStagnation"]) h += free;
    return out;
}

namespace {
// Of a run on its way.
std::map<std::string, std::vector<double>> arraysOfCheckpoint(const fs::path& run, const fs::path& state,
                                                              const readout::Result& result, const flow::Case& c) {
    const auto saved = flow::readCheckpoint(state);
    if (!saved) throw base::InputError("has no flow yet.", run.string(), "Wait for its first checkpoint.");
    auto rows = saved->cellData;
    if (result.averagedOver > 0 && saved->meanData.size() == rows.size() &&
        saved->history.size() > saved->averagedFrom) {
        const double count = static_cast<double>(saved->history.size() - saved->averagedFrom);
        for (std::size_t i = 0; i < rows.size(); ++i) rows[i] = saved->meanData[i] / count;
    }
    return flowArrays(rows, c, result.readings().freePressure);
}
}  // namespace

std::shared_ptr<const field::FlowField> openFlow(const fs::path& run, const fs::path& knownFile,
                                                 const std::shared_ptr<const grid::Grid>& known,
                                                 const std::shared_ptr<const grid::Geometry>& knownGeometry) {
    const auto order = readOrder(run);
    // The grid first: the flow's file has a link to it, which its library follows whatever stands there.
    const auto values = valueFilesOf(run);
    const auto mesh = meshOf(values.grid, knownFile, known, knownGeometry);
    const auto standing = standingOf(run);
    checkRunFile(run, "flow.cgns");
    auto arrays = standing.result && standing.result->provisional()
                      ? arraysOfCheckpoint(run, values.state, *standing.result, order.flowCase)
                      : grid::readFlowCgns(run / "flow.cgns");
    auto wall = readout::readWallField(values.wall);
    return std::make_shared<const field::FlowField>(
        mesh, std::move(arrays), order.flowCase.wind,
        field::WallValues{std::move(wall.face), std::move(wall.Cp), std::move(wall.Cf), std::move(wall.yPlus)});
}

}  // namespace cvane::campaign
