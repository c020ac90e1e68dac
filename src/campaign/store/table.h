#pragma once
#include "campaign/store/point_report.h"

namespace cvane::campaign {

/// Into the order in which polars are read: by configuration, set-up, speed, beta, then alpha.
void sortByAngle(std::vector<PointReport>& reports);

/// All points with what is known of them, as text columns for people.
std::string textTable(const std::vector<PointReport>& reports);
/// The same for a spreadsheet: one row a point, names with units, bands, forces and shares; empty cells where unknown.
std::string csvTable(const std::vector<PointReport>& reports);
/// The same as JSON: an array of {"point": .., "state": .., "result": ..}.
nlohmann::json jsonTable(const std::vector<PointReport>& reports);

}  // namespace cvane::campaign
