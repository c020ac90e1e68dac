#pragma once
#include <filesystem>
#include <memory>

#include "field/flow_field.h"

namespace cvane::campaign {

/// The flow that a run has stored, with its grid and what its walls feel, for pictures and probes. A mesh that is in
/// use already is not made again. May be called from any thread.
/// @param run         the run's folder
/// @param known       a grid at hand, taken where it is the run's own; may be null
/// Throws InputError: no flow there, damaged, its grid gone.
std::shared_ptr<const field::FlowField> openFlow(const std::filesystem::path& run,
                                                 const std::filesystem::path& knownFile = {},
                                                 const std::shared_ptr<const grid::Grid>& known = {},
                                                 const std::shared_ptr<const grid::Geometry>& knownGeometry = {});

}  // namespace cvane::campaign
