#pragma once
#include <memory>

#include "campaign/store/run_order.h"
#include "readout/result.h"

namespace cvane::campaign {

/// Each coefficient of a history: at rest its last value, for a run that settled at rest is still creeping to its limit
/// and the last is nearer than the window's mean; else that mean.
air::Coefficients outcomeOf(const std::vector<air::Coefficients>& history, std::size_t window, bool atRest);

/// The model's load; of the whole, mirrored one where it is halved.
/// Collective.
flow::Load modelLoad(const flow::Solver& solver, bool halfModel);
/// Of drag, by the pressure.
double pressureShareOfDrag(const flow::Load& load, const air::FreeStream& wind);

/// What a run leads to, but for what is read from its fields. Collective.
/// @param averagedFrom  iteration from which coefficients and fields are means; empty: the flow is at rest
readout::Result resultOf(const RunOrder& order, const flow::Solver& solver,
                         const std::vector<air::Coefficients>& history, std::optional<std::size_t> averagedFrom,
                         flow::Verdict verdict, double seconds, const flow::Ranks& ranks);

/// Writes wall.csv alone, from what the ranks have at hand, and notes its checksum and the free pressure in the result.
/// Collective.
void writeWalls(const RunOrder& order, const flow::Solver& solver, const std::filesystem::path& folder,
                const flow::Ranks& ranks, readout::Result& result);

/// Writes wall.csv and flow.cgns, and reads y+ and findings from them into the result. Collective.
/// Ends the solver: its memory makes room for the whole grid on rank 0.
void writeFields(const RunOrder& order, std::unique_ptr<flow::Solver> solver, const std::filesystem::path& folder,
                 const flow::Ranks& ranks, readout::Result& result);

}  // namespace cvane::campaign
