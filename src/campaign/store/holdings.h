#pragma once
#include <cstdint>

#include "campaign/store/runs.h"

namespace cvane::campaign {

/// Something that a campaign's folder holds and that takes space: a run or a grid.
struct Holding {
    enum class Kind { Run, Grid };
    enum class Use {
        Present,  ///< what the present settings ask for
        Earlier,  ///< an earlier run of a point that has a later one with the same settings
        Other     ///< of other settings, or of an earlier solver: comes back when they go back
    };
    Kind kind = Kind::Run;
    Use use = Use::Other;
    std::filesystem::path folder;
    std::string name;  ///< of its folder
    Point point;       ///< of a run
    int solver = 0;    ///< of a run: its version
    std::uintmax_t bytes = 0;
    bool atWork = false;  ///< a process works there
    std::string words() const;
};

/// All runs and grids, the largest first. Throws InputError: settings that make no points.
std::vector<Holding> holdingsOf(const Campaign& campaign);

/// Deletes a run or grid for good. Throws InputError: it is not of this campaign, a process works there, it cannot be
/// deleted.
void remove(const Campaign& campaign, const Holding& holding);

}  // namespace cvane::campaign
