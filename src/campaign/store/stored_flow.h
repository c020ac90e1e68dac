#pragma once
#include <filesystem>
#include <map>
#include <memory>
#include <span>

#include "field/flow_field.h"
#include "flow/case.h"

namespace cvane::campaign {

/// A flow's cells as arrays by the names of its file.
/// @param rows  numbers of the cells, as flow::Checkpoint::cellData;  @param freePressure  taken from the pressure
std::map<std::string, std::vector<double>> flowArrays(std::span<const double> rows, const flow::Case& c,
                                                      double freePressure);

/// The flow that a run has stored, with its grid and what its walls feel, for pictures and probes: of one
/// that has not come to its end that of its last checkpoint, or the mean so far of one that swings. A mesh that is in
/// use already is not made again. May be called from any thread.
/// @param run         the run's folder
/// @param known       a grid at hand, taken where it is the run's own; may be null
/// Throws InputError: no flow there, damaged, its grid gone.
std::shared_ptr<const field::FlowField> openFlow(const std::filesystem::path& run,
                                                 const std::filesystem::path& knownFile = {},
                                                 const std::shared_ptr<const grid::Grid>& known = {},
                                                 const std::shared_ptr<const grid::Geometry>& knownGeometry = {});

}  // namespace cvane::campaign
