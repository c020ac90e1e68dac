#include "campaign/launch/batch.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <vector>

#include "base/errors.h"

namespace cvane::campaign {
namespace {
constexpr double kMargin = 2.0, kLeastHours = 0.25;

std::string quoted(const std::string& word) {
    std::string out = "'";
    for (const char c : word) out += c == '\'' ? std::string("'\\''") : std::string(1, c);
    return out + "'";
}

struct BatchJob {
    std::string arguments;  ///< of the headless program: the points that it runs
    std::size_t points = 1;
};

std::vector<BatchJob> jobsOf(const std::vector<PointReport>& reports, bool chained) {
    std::vector<BatchJob> jobs;
    std::string before;
    for (const auto& r : reports) {
        if (isDone(r.state)) continue;
        const auto& p = r.point;
        const auto chain = fmt::format("{}|{}|{}|{}|{}", p.configuration, p.setUp, nameOf(p.method).id,
                                       p.condition.speed, p.condition.beta_deg);
        const auto argument = "--point " + quoted(p.name());
        if (chained && chain == before) {
            jobs.back().arguments += " " + argument;
            ++jobs.back().points;
        } else {
            jobs.push_back({argument});
        }
        before = chain;
    }
    return jobs;
}

double hoursOf(const std::vector<PointReport>& reports, const BatchOptions& o, std::size_t most) {
    if (o.hours > 0.0) return o.hours * static_cast<double>(most);
    double longest = 0.0;
    for (const auto& r : reports)
        if (isDone(r.state) && r.result) longest = std::max(longest, r.result->seconds / 3600.0);
    const double each = longest > 0.0 ? kMargin * longest : kHoursUnknown;
    return std::max(kLeastHours, each) * static_cast<double>(most);
}

std::string clock(double hours) {
    const int minutes = static_cast<int>(std::ceil(60.0 * hours));
    return fmt::format("{:02}:{:02}:00", minutes / 60, minutes % 60);
}

/// What a job asks for: processes, or cores that one process shares.
struct Share {
    int ranks = 1, cores = 1;
};

// Nodes of as many cores as there are in one, and one for what is left over.
std::string selected(const BatchOptions& o, const Share& job) {
    if (job.ranks == 1) return fmt::format("select=1:ncpus={}:mpiprocs=1", job.cores);
    const auto chunk = [](int nodes, int ranks) { return fmt::format("{0}:ncpus={1}:mpiprocs={1}", nodes, ranks); };
    const int full = o.coresOfNode > 0 ? job.ranks / o.coresOfNode : 0,
              rest = o.coresOfNode > 0 ? job.ranks % o.coresOfNode : job.ranks;
    std::string out = "select=";
    if (full > 0) out += chunk(full, o.coresOfNode);
    if (rest > 0) out += fmt::format("{}{}", full > 0 ? "+" : "", chunk(1, rest));
    return out;
}

// What the scheduler reads at the head of a script.
std::string head(const BatchOptions& o, const char* name, const Share& job, double hours) {
    std::string out = "#!/bin/sh\n";
    const auto line = [&](const std::string& text) { out += text + "\n"; };
    switch (o.scheduler) {
        case Scheduler::Slurm:
            line(fmt::format("#SBATCH --job-name=cvane-{}", name));
            line(fmt::format("#SBATCH --ntasks={}", job.ranks));
            if (job.cores > 1) line(fmt::format("#SBATCH --cpus-per-task={}", job.cores));
            line("#SBATCH --time=" + clock(hours));
            line(fmt::format("#SBATCH --output={}-%A_%a.out", name));
            if (!o.partition.empty()) line("#SBATCH --partition=" + o.partition);
            if (!o.account.empty()) line("#SBATCH --account=" + o.account);
            line("cd \"$SLURM_SUBMIT_DIR/../..\" || exit 2");
            line("task=$SLURM_ARRAY_TASK_ID");
            break;
        case Scheduler::Pbs:
            line(fmt::format("#PBS -N cvane-{}", name));
            line("#PBS -l " + selected(o, job));
            line("#PBS -l walltime=" + clock(hours));
            line("#PBS -j oe");
            if (!o.partition.empty()) line("#PBS -q " + o.partition);
            if (!o.account.empty()) line("#PBS -A " + o.account);
            line("cd \"$PBS_O_WORKDIR/../..\" || exit 2");
            line("task=$PBS_ARRAY_INDEX");
            break;
        case Scheduler::Shell:
            line("cd \"$(dirname \"$0\")/../..\" || exit 2");
            line("task=$1");
            break;
    }
    if (job.cores > 1) line(fmt::format("export OMP_NUM_THREADS={}", job.cores));
    return out;
}

std::string submission(const BatchOptions& o, std::size_t jobs) {
    const std::string begin =
        "#!/bin/sh\n# Submits the grids, then every job of points.txt once they are made.\nset -e\n"
        "cd \"$(dirname \"$0\")\"\n";
    switch (o.scheduler) {
        case Scheduler::Slurm:
            return begin + fmt::format(
                               "grids=$(sbatch --parsable grids.sh)\n"
                               "sbatch --dependency=afterok:\"${{grids%%;*}}\" --array=1-{} points.sh\n",
                               jobs);
        case Scheduler::Pbs:
            // An array of one is refused.
            return begin + "grids=$(qsub grids.sh)\n" +
                   (jobs > 1 ? fmt::format("qsub -W depend=afterok:\"$grids\" -J 1-{} points.sh\n", jobs)
                             : std::string("qsub -W depend=afterok:\"$grids\" -v PBS_ARRAY_INDEX=1 points.sh\n"));
        case Scheduler::Shell:
            break;
    }
    return begin + fmt::format(
                       "sh ./grids.sh\n"
                       "task=1\nwhile [ $task -le {} ]; do\n    sh ./points.sh $task\n    task=$((task + 1))\n"
                       "done\n",
                       jobs);
}
}  // namespace

std::map<std::string, std::string> batchScripts(const std::vector<PointReport>& reports, const BatchOptions& o) {
    const auto jobs = jobsOf(reports, o.chained);
    if (jobs.empty())
        throw base::InputError("all points are done.", "batch", "Add points to the schedule, or run some anew.");
    std::size_t most = 1;
    std::string list;
    for (const auto& job : jobs) {
        most = std::max(most, job.points);
        list += job.arguments + "\n";
    }
    const auto program = quoted(o.program.string());
    std::map<std::string, std::string> out;
    out["points.txt"] = list;
    const Share grids{1, o.coresOfNode > 0 ? std::min(o.ranks, o.coresOfNode) : o.ranks};
    out["grids.sh"] = head(o, "grids", grids, std::max(1.0, o.hours)) + program + " grid .\n";
    // A point that ends unsteady (3) has its result.
    out["points.sh"] = head(o, "points", {o.ranks, 1}, hoursOf(reports, o, most)) +
                       fmt::format(
                           "points=$(sed -n \"${{task}}p\" batch/{}/points.txt)\n"
                           "eval \"{} run . --ranks {} $points\" || [ $? -eq 3 ]\n",
                           o.scheduler == Scheduler::Slurm ? "slurm"
                           : o.scheduler == Scheduler::Pbs ? "pbs"
                                                           : "shell",
                           program, o.ranks);
    out["submit.sh"] = submission(o, jobs.size());
    return out;
}

}  // namespace cvane::campaign
