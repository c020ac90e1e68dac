#pragma once
#include <map>
#include <string>

#include "campaign/store/point_report.h"

namespace cvane::campaign {

enum class Scheduler { Slurm, Pbs, Shell };

struct BatchOptions {
    Scheduler scheduler = Scheduler::Slurm;
    int ranks = 2;                   ///< of a point
    int coresOfNode = 0;             ///< of the cluster; 0: not known, a point's ranks fit on one
    double hours = 0.0;              ///< of a point; 0: twice what those already run took, else kHoursUnknown
    bool chained = false;            ///< points that start from each other are one job, in their order
    std::string partition, account;  ///< empty: the scheduler's own
    std::filesystem::path program;   ///< the headless program
};
inline constexpr double kHoursUnknown = 8.0;

/// Scripts for a cluster, by file name: "submit.sh" starts a job for the grids and, after it, one job for each point
/// that is not done (or chain of them). The grids' job has the cores of a point's ranks, of one node at most: it works
/// on one. They work in the campaign's folder, which submit.sh finds from its own place. Throws InputError: nothing is
/// left to run.
std::map<std::string, std::string> batchScripts(const std::vector<PointReport>& reports, const BatchOptions& options);

}  // namespace cvane::campaign
