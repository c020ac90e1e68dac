#include "campaign/launch/point_run.h"

#include <fmt/format.h>
#include <signal.h>

#include <cmath>
#include <thread>

#include "base/child_process.h"
#include "base/errors.h"
#include "base/files.h"
#include "campaign/steps/flow_case.h"
#include "campaign/steps/grid_stage.h"
#include "campaign/steps/model_stage.h"
#include "campaign/steps/solver_process.h"
#include "campaign/store/keys.h"
#include "flow/version.h"

namespace cvane::campaign {
namespace fs = std::filesystem;

fs::path nearestSettled(const Campaign& c, const Point& p, const air::Reference& reference) {
    fs::path best;
    double least = 1e300;
    for (const Point& other : pointsOf(c.settings)) {
        const auto& w = other.condition;
        if (other.configuration != p.configuration || other.setUp != p.setUp || w == p.condition) continue;
        const auto report = reportOf(c, other, reference);
        std::error_code ec;
        if (report.state != PointState::Settled || !fs::exists(report.folder / "checkpoint.bin", ec)) continue;
        // A change of speed matters least for coefficients: 10 % counts like one degree.
        const double distance = std::abs(w.alpha_deg - p.condition.alpha_deg) +
                                std::abs(w.beta_deg - p.condition.beta_deg) +
                                10.0 * std::abs(std::log(w.speed / p.condition.speed));
        if (distance < least) {
            least = distance;
            best = report.folder;
        }
    }
    return best;
}

namespace {
// The run that a start takes up again: the last one of these settings, when it has not come to its end or shall go
// beyond it.
std::optional<fs::path> runToContinue(const Campaign& c, const Point& p, const PointReport& report, int further) {
    const auto own = runsOf(c, p);
    if (own.empty()) return std::nullopt;
    const fs::path folder = own.back().folder;
    std::error_code ec;
    // A flow that has blown up is not taken up where it did.
    if (report.result && report.result->verdict == flow::Verdict::Diverged) return std::nullopt;
    if (!report.result || report.state == PointState::Stopped) return folder;
    return further > 0 && fs::exists(folder / "checkpoint.bin", ec) ? std::optional(folder) : std::nullopt;
}
}  // namespace

PointRun PointRun::start(const Campaign& base, const Point& p, const air::Reference& reference, int ranks,
                         const StartOptions& options) {
    const Campaign c = base.of(p);
    if (auto running = attach(c, p)) return *running;
    if (!gridIsCurrent(c))
        throw base::InputError("there is no grid for the present settings.", p.name(), "Make the grid first.");
    if (const auto trouble = troubleWithGaps(c); !trouble.sentence.empty())
        throw base::InputError(trouble.sentence, p.name(), trouble.todo);
    solverProgram();  // refuse before anything is written
    const auto report = reportOf(c, p, reference);
    if (isDone(report.state) && !options.anew && options.further == 0)
        throw base::InputError(fmt::format("is {} already.", nameOf(report.state)), p.name(),
                               "Ask for iterations beyond it, or for a new run beside it.");
    RunOrder order;
    order.grid = gridFile(c);
    std::error_code ec;
    if (c.settings.flow.coarseFirst && fs::exists(coarseGridFile(c), ec)) {
        order.coarseGrid = coarseGridFile(c);
        if (fs::exists(coarsestGridFile(c), ec)) order.coarsestGrid = coarsestGridFile(c);
    }
    order.cellsFollowFlow = c.settings.cellsFollowFlow;
    order.flowCase = flowCaseOf(c.settings, p, placedModel(c), reference);
    order.key = runKey(c, p);
    order.caseKey = caseKey(c, p);
    order.solver = flow::kSolverVersion;
    order.point = p;
    const auto before = options.anew ? std::nullopt : runToContinue(c, p, report, options.further);
    const fs::path folder = before ? *before : newRunFolder(c, p);
    claim(folder);
    try {
        const bool goesOn = before && fs::exists(folder / "checkpoint.bin", ec);
        if (goesOn) {
            try {
                order.neighbour = readOrder(folder).neighbour;
            } catch (const base::InputError&) {
                // A damaged order is written anew; the checkpoint says where the flow stands.
            }
            if (options.further > 0) {
                // From where it ended, also when it had settled.
                order.flowCase.settings.mostIterations =
                    (report.result ? report.result->iterations : report.iterations) + options.further;
                order.flowCase.settings.leastIterations = order.flowCase.settings.mostIterations;
            }
            // The result so far stays beside the one to come.
            if (report.result)
                base::replaceFile(folder / fmt::format("result.{}.json", report.result->iterations),
                                  base::readFile(folder / "result.json"));
        } else {
            // Nothing was computed that could be lost: no checkpoint, no result.
            for (const char* old : {"monitor.csv", "progress.jsonl", "coarse.json", "coarse.bin", "coarsest.bin"})
                fs::remove(folder / old, ec);
            order.neighbour = nearestSettled(c, p, reference);
        }
        fs::remove(folder / "stop", ec);
        fs::remove(folder / "save", ec);
        writeOrder(order, folder);
        beat(folder);
        const int pid = startSolver(folder, ranks);
        handOver(folder, pid);
        return {p, folder, {hostName(), pid, base::processStart(pid)}};
    } catch (...) {
        release(folder);
        throw;
    }
}

std::optional<PointRun> PointRun::attach(const Campaign& base, const Point& p) {
    const auto own = runsOf(base.of(p), p);
    for (auto run = own.rbegin(); run != own.rend(); ++run)
        if (const auto by = claimOn(run->folder)) return PointRun{p, run->folder, *by};
    return std::nullopt;
}

bool PointRun::alive() const {
    if (by_.host == hostName()) return base::isAlive(by_.pid, by_.start);
    return isClaimed(folder_);
}

void PointRun::askToStop() const {
    base::replaceFile(folder_ / "stop", "stop\n");
}

void PointRun::askToSave() const {
    base::replaceFile(folder_ / "save", "save\n");
}

void PointRun::kill() const {
    if (by_.host == hostName() && alive())
        ::kill(-by_.pid, SIGKILL);  // the session that it leads: mpiexec and its ranks
}

}  // namespace cvane::campaign
