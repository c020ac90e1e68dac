#pragma once
#include <nlohmann/json.hpp>
#include <string>

#include "section/polar/polar.h"

namespace cvane::section {

/// Points as JSON for programs and files; fields in docs/files.md. Angles in degrees.
nlohmann::json jsonOf(const PointFigures& figures);
/// Throws InputError: not what jsonOf writes.
PointFigures figuresFromJson(const nlohmann::json& j);
nlohmann::json jsonOf(const Distribution& distribution);
nlohmann::json jsonOf(const Figures& figures);

/// Head and rows for a spreadsheet; one row a point.
std::string csvHead();
std::string csvRow(const PointFigures& figures);
std::string csvOf(const Distribution& distribution);

}  // namespace cvane::section
