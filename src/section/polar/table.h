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
/// Of a point that has not converged only what was asked for and the residual, unless `unsettledToo`.
std::string csvRow(const PointFigures& figures, bool unsettledToo = false);
/// For readers: as jsonOf, with null for what a point that has not converged does not have.
nlohmann::json shownJson(const PointFigures& figures);
std::string csvOf(const Distribution& distribution);

}  // namespace cvane::section
