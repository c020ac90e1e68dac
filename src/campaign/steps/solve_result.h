#pragma once
#include <chrono>
#include <functional>
#include <memory>
#include <string>

#include "campaign/store/run_order.h"
#include "flow/course.h"
#include "flow/solver.h"
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

/// Writes what the walls feel alone, from what the ranks have at hand, and notes its checksum and the free pressure in
/// the result. @param file  wall.csv, or that of a coarser grid. Collective.
void writeWalls(const RunOrder& order, const flow::Solver& solver, const std::filesystem::path& file,
                const flow::Ranks& ranks, readout::Result& result);

/// Provisional values of a run on its way, at most a fiftieth of its time: coefficients and walls, and with them the
/// state that was saved. Everything that is written is told to rank 0's clock.
class LiveValues {
  public:
    /// @param onGrid  as Result::onGrid
    LiveValues(const RunOrder& order, const std::filesystem::path& folder, const flow::Ranks& ranks,
               std::string onGrid);
    /// Whether it is time for the next, at rank 0.
    bool due() const;
    /// Collective. @param save  writes the state
    void keep(const flow::Solver& solver, const flow::Course& course, double seconds,
              const std::optional<readout::CoarseResult>& coarse, const std::function<void()>& save);

  private:
    const RunOrder& order_;
    const std::filesystem::path& folder_;
    const flow::Ranks& ranks_;
    std::string onGrid_;
    std::chrono::steady_clock::time_point last_;
    double lastCost_ = 0.0;  ///< [s]
    int kept_ = 0;
};

/// Writes wall.csv and flow.cgns, and reads y+ and findings from them into the result. Collective.
/// Ends the solver: its memory makes room for the whole grid on rank 0.
void writeFields(const RunOrder& order, std::unique_ptr<flow::Solver> solver, const std::filesystem::path& folder,
                 const flow::Ranks& ranks, readout::Result& result);

}  // namespace cvane::campaign
