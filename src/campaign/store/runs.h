#pragma once
#include "campaign/store/campaign.h"
#include "campaign/store/run_order.h"

namespace cvane::campaign {

/// A run in the campaign's folder, as its order says.
struct RunHead : OrderHead {
    std::filesystem::path folder;
    int attempt = 1;  ///< of runs with the same key: which
};

/// All runs that can be read, in the order of their folders' names. Folders are looked into once.
std::vector<RunHead> runsOf(const Campaign& campaign);

/// The runs of a point as the settings now are, oldest first. None is ever overwritten: to run a point again makes
/// another.
std::vector<RunHead> runsOf(const Campaign& campaign, const Point& point);

/// The run that is shown for a point. Of those as the settings now are: one at work; else the last that is a verdict by
/// the present tolerances, or was to become one and has been stopped; else the last with a result, else the last. Else
/// the last that an earlier solver made of the same, else the last under the same names; empty when there is none.
struct ShownRun : RunHead {
    bool current = false;   ///< as the settings now are, by this solver
    bool sameCase = false;  ///< as the settings now are, by whichever
};
std::optional<ShownRun> shownRun(const Campaign& campaign, const Point& point);

/// That run's folder; where there is none, the one that a first run of the point will have.
std::filesystem::path runFolder(const Campaign& campaign, const Point& point);

/// Makes the folder of another run of a point: runs/<key>, runs/<key>-2, ... Two programs never get the same.
/// Throws InputError: it cannot be made.
std::filesystem::path newRunFolder(const Campaign& campaign, const Point& point);

}  // namespace cvane::campaign
