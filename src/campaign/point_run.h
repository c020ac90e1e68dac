#pragma once
#include <memory>

#include "campaign/run_files.h"

namespace cvane::campaign {

/// Number of cores of this machine.
int cores();

/// A solver process at work on one point. The process outlives this object and the program: another `PointRun::attach` finds
/// it again.
class PointRun {
  public:
    /// Starts (or resumes from its checkpoint) a point whose grid exists. `further`: that many iterations beyond its result, settled
    /// or not. Throws InputError: no grid, wind that the tunnel
    /// cannot have, solver or mpiexec missing, folder not writable.
    static PointRun start(const Campaign& campaign, const Point& point, const air::Reference& reference, int ranks, int further = 0);
    /// The running process of a point, if there is one.
    static std::optional<PointRun> attach(const Campaign& campaign, const Point& point);

    bool alive() const;
    void askToSave() const;  ///< a checkpoint now
    void askToStop() const;  ///< the solver writes a checkpoint and ends
    void kill() const;
    const std::filesystem::path& folder() const { return folder_; }
    const Point& point() const { return point_; }

  private:
    PointRun(Point point, std::filesystem::path folder, int pid, unsigned long long start) : point_(point), folder_(std::move(folder)), pid_(pid), start_(start) {}
    Point point_;
    std::filesystem::path folder_;
    int pid_;
    unsigned long long start_;
};

/// The settled point nearest in speed and angles whose flow on the present grid can be the start of another; empty if none.
std::filesystem::path nearestSettled(const Campaign& campaign, const Point& point, const air::Reference& reference);

}  // namespace cvane::campaign
