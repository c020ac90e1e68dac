#include "desk/fields.h"

#include "campaign/store/panel_walls.h"
#include "campaign/store/run_standing.h"
#include "campaign/store/stored_grid.h"
#include "grid/cgns_file.h"

namespace cvane::desk {
namespace {
constexpr double kLift = 1e-3;  // sizes of the model

/// In front of the walls on which it lies.
shape::Surface lifted(shape::Surface s) {
    std::vector<Vec3> normal(s.points.size(), Vec3::Zero());
    for (std::size_t f = 0; f < s.facets.size(); ++f)
        for (const auto p : s.facets[f]) normal[static_cast<std::size_t>(p)] += s.areaVector(f);
    const double by = kLift * s.bounds().size().norm();
    for (std::size_t p = 0; p < s.points.size(); ++p) s.points[p] += by * normal[p].normalized();
    return s;
}
}  // namespace

std::string keyOfFlow(const campaign::PointReport* r) {
    if (!r || !r->result || r->result->verdict == flow::Verdict::Diverged) return {};
    return r->folder.string() + r->result->readings().onGrid + std::to_string(r->result->seconds);
}

std::shared_ptr<const PointFields> readFields(const std::filesystem::path& folder,
                                              const std::filesystem::path& knownFile,
                                              const std::shared_ptr<const grid::Grid>& known,
                                              const std::shared_ptr<const grid::Geometry>& knownGeometry) {
    auto out = std::make_shared<PointFields>();
    try {
        if (std::filesystem::exists(folder / campaign::kPanelsFile)) {
            const auto walls = campaign::readPanelWalls(folder);
            out->grid = walls.grid;
            out->geometry = walls.geometry;
            out->wall = walls.wall;
            out->wind = walls.wind;
            out->separated = lifted(walls.separated);
            out->CpAtPoints = readout::toPoints(*out->grid, *out->geometry, out->wall.face, out->wall.Cp);
            return out;
        }
        const auto order = campaign::readOrder(folder);
        out->wind = order.flowCase.wind;
        const auto values = campaign::valueFilesOf(folder);
        if (known && values.grid == knownFile) {
            out->grid = known;
            out->geometry = knownGeometry;
        } else {
            out->grid = std::make_shared<const grid::Grid>(campaign::readGrid(values.grid));
            out->geometry = std::make_shared<const grid::Geometry>(grid::geometryOf(*out->grid));
        }
        campaign::checkRunFile(folder, "flow.cgns");
        out->wall = readout::readWallField(values.wall);
        out->CpAtPoints = readout::toPoints(*out->grid, *out->geometry, out->wall.face, out->wall.Cp);
    } catch (const std::exception& e) {
        out->error = e.what();
    }
    return out;
}

}  // namespace cvane::desk
