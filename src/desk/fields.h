#pragma once
#include <QString>
#include <memory>
#include <vector>

#include "campaign/store/point_report.h"
#include "readout/pressure_station.h"

namespace cvane::desk {

/// The stored flow of one point with the grid it was computed on, read away from the window's thread.
struct PointFields {
    std::shared_ptr<const grid::Grid> grid;
    std::shared_ptr<const grid::Geometry> geometry;
    readout::WallField wall;
    std::vector<double> CpAtPoints;  ///< one a grid point
    air::FreeStream wind;
    shape::Surface separated;  ///< of panels: what stands behind a separation, a little off the walls
    QString error;
};

/// Names the stored flow of a point's result; empty: it has none that can be shown. @param report  may be null
std::string keyOfFlow(const campaign::PointReport* report);

/// @param known  grid that may be reused when it is the one of the run
std::shared_ptr<const PointFields> readFields(const std::filesystem::path& runFolder,
                                              const std::filesystem::path& knownFile,
                                              const std::shared_ptr<const grid::Grid>& known,
                                              const std::shared_ptr<const grid::Geometry>& knownGeometry);

}  // namespace cvane::desk
