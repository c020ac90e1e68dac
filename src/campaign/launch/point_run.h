#pragma once
#include <memory>

#include "campaign/steps/solver_process.h"
#include "campaign/store/point_report.h"
#include "campaign/store/run_claim.h"

namespace cvane::campaign {

/// What a start is asked for beyond what is not done.
struct StartOptions {
    int further = 0;             ///< iterations beyond the result, settled or not
    bool anew = false;           ///< a new run beside one that is done
    bool oversubscribe = false;  ///< more ranks than cores are meant
};

/// A solver process at work on one point. The process outlives this object and the program: another `PointRun::attach`
/// finds it again.
class PointRun {
  public:
    /// Starts a point whose grid exists, or goes on from its checkpoint; what is computed already stays. One that is
    /// running is attached to. Throws InputError: no grid, done already, in the hands of another program, wind that the
    /// tunnel cannot have, solver or mpiexec missing, folder not writable.
    static PointRun start(const Campaign& campaign, const Point& point, const air::Reference& reference, int ranks,
                          const StartOptions& options = {});
    /// The running process of a point, if there is one.
    static std::optional<PointRun> attach(const Campaign& campaign, const Point& point);

    bool alive() const;
    void askToSave() const;  ///< a checkpoint now
    /// The solver writes a checkpoint and ends; one that has not iterated yet has nothing to keep and is ended at once.
    void askToStop() const;
    void kill() const;
    const std::filesystem::path& folder() const { return folder_; }
    const Point& point() const { return point_; }

  private:
    PointRun(Point point, std::filesystem::path folder, Claim by)
        : point_(std::move(point)), folder_(std::move(folder)), by_(std::move(by)) {}
    Point point_;
    std::filesystem::path folder_;
    Claim by_;
};

/// Runs of settled points whose flow on the present grid can be the start of another: the nearest in speed and angles,
/// and behind it the nearest of those that can carry it on, of this speed and in a line of angles with both. Two, one
/// or none.
std::vector<std::filesystem::path> nearestSettled(const Campaign& campaign, const Point& point,
                                                  const air::Reference& reference);

}  // namespace cvane::campaign
