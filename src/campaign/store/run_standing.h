#pragma once
#include <filesystem>
#include <optional>
#include <string>

#include "flow/settings.h"
#include "readout/result.h"

namespace cvane::campaign {

/// What a run's folder holds of its result. A run has one end: what goes beyond it is another run, which begins where
/// that one ended, so that no result is ever written over but a provisional one.
struct Standing {
    std::optional<readout::Result> result;  ///< on the reference values of its own
    readout::Asked asked;                   ///< by what it was judged, or will be
    /// By what it was judged is known. Runs of before noted that in their order, which was written anew when they were
    /// to go on: one that was stopped then has an older verdict beside a newer order.
    bool askedIsKnown = false;
    std::string damage;  ///< in words: why there is no result although its file is there
    bool ended() const { return result && !result->provisional(); }
};
/// Read again only when a file has changed.
Standing standingOf(const std::filesystem::path& runFolder);

/// Whether a run that has ended needs nothing more for these settings: a verdict holds for what it was asked by and for
/// less. One that did not settle by tighter tolerances is no verdict on looser ones.
bool answers(const Standing& standing, const flow::FlowSettings& now);
/// Why it does not, in a sentence.
std::string whyItGoesOn(const Standing& standing, const flow::FlowSettings& now);

/// Whether a run that has not ended was asked by the tolerances of these settings.
bool asksThis(const Standing& standing, const flow::FlowSettings& now);

/// Throws InputError: a file of a run is not what its result says that it is.
/// @param name  "flow.cgns" or "wall.csv"
void checkRunFile(const std::filesystem::path& runFolder, const std::string& name);
/// What is damaged or missing of what a run that has ended needs to be read, in a sentence; empty: nothing.
std::string damageOf(const std::filesystem::path& runFolder);

/// Where the values of a run are: the grid that they are of, what its walls feel, and the flow's state on its way. Of
/// a run that has only begun those of a coarser grid. Throws InputError: no order there, or damaged.
struct ValueFiles {
    std::filesystem::path grid, wall, state;
};
/// What its walls feel, by the grid that the values are of (Result::onGrid): "wall.csv", "coarse-wall.csv".
std::string wallFileName(const std::string& onGrid);
ValueFiles valueFilesOf(const std::filesystem::path& runFolder);

}  // namespace cvane::campaign
