#pragma once
#include <functional>
#include <nlohmann/json.hpp>

#include "campaign/plan/points.h"
#include "campaign/store/campaign.h"
#include "campaign/store/run_order.h"
#include "campaign/store/run_standing.h"
#include "flow/ranks.h"

namespace cvane::campaign {

/// A method by which points are computed. What all have in common (names, keys, claims, processes, results) is done by
/// those who ask the runner; it knows what its own method depends on, what its order says, and how it is carried out.
/// A campaign is one that a point's configuration and set-up have made (Campaign::of).
class Runner {
  public:
    virtual ~Runner() = default;

    /// Raised whenever the same case comes to other numbers.
    virtual int version() const = 0;
    /// The case: all that decides the result of a condition, but for the version and for how far it is iterated.
    virtual nlohmann::json caseOf(const Campaign& campaign, const Condition& condition) const = 0;

    /// Whether it is computed on the grid of its configuration and set-up.
    virtual bool needsGrid() const { return false; }
    /// Throws InputError: something that a start needs is missing.
    virtual void prepare(const Campaign& campaign, const Point& point) const = 0;
    /// Cells, panels or the like, by which ranks are counted.
    virtual std::size_t size(const Campaign& campaign) const = 0;
    /// Why a run that has ended is no verdict by the present settings, in a sentence; empty: it is.
    virtual std::string whyItGoesOn(const Standing& standing, const Settings& now) const;
    /// Whether a run that has not ended was asked what the present settings ask.
    virtual bool asksThis(const Standing&, const Settings&) const { return true; }

    /// Where a start begins.
    struct Beginning {
        std::optional<std::filesystem::path> same;  ///< a run that has not come to its end, and goes on in its folder
        std::optional<std::filesystem::path> from;  ///< one that has, and whose last state is the start of another
        int iterations = 0;                         ///< that it has done
        std::string notice;                         ///< what else there was and cannot be used
    };
    /// @param own  folders of the runs of this point, oldest first;  @param beyond  of a result to go beyond; empty:
    /// none
    virtual Beginning beginningOf(const std::vector<std::filesystem::path>&, const std::filesystem::path&) const {
        return {};
    }
    /// Writes run.json into a folder that was claimed for it, and puts there what the start rests on.
    /// @param head  keys and point;  @param neighbours  settled runs that it may start from, the nearest first
    virtual void writeOrder(const Campaign& campaign, const OrderHead& head, const Beginning& begin, int further,
                            const std::function<std::vector<std::filesystem::path>()>& neighbours,
                            const std::filesystem::path& folder) const = 0;

    /// Carries out the order in a folder: writes result.json there, and lines on its output. Collective; throws as
    /// solvePoint.
    virtual void solve(const std::filesystem::path& folder, const flow::Ranks& ranks) const = 0;
    /// Throws InputError: a file that belongs to the result of a run that has ended is damaged or missing.
    virtual void checkFiles(const std::filesystem::path& folder, const readout::Result& result) const;
    /// On which the lines of a run on its way are. Throws InputError: its order cannot be read.
    virtual air::Reference referenceOf(const std::filesystem::path&) const { return {0.0, 1.0, 1.0, Vec3::Zero()}; }
};

const Runner& runnerOf(Method method);

}  // namespace cvane::campaign
