#include "campaign/launch/point_run.h"

#include <fmt/format.h>
#include <signal.h>

#include <algorithm>
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

namespace {
/// The second of two settled conditions may carry the first on to this one: the same speed, in a line with both, and
/// no farther behind the first than this lies before it.
bool liesBehind(const Condition& second, const Condition& first, const Condition& at) {
    if (second.speed != at.speed || first.speed != at.speed) return false;
    const double way[2] = {first.alpha_deg - second.alpha_deg, first.beta_deg - second.beta_deg};
    const double on[2] = {at.alpha_deg - first.alpha_deg, at.beta_deg - first.beta_deg};
    const double length = std::hypot(way[0], way[1]);
    if (!(length > 1e-6)) return false;
    const double share = (on[0] * way[0] + on[1] * way[1]) / (length * length);
    return std::abs(on[0] * way[1] - on[1] * way[0]) <= 1e-6 * length && share > -1.0 && share < 1.001;
}
}  // namespace

std::vector<fs::path> nearestSettled(const Campaign& c, const Point& p, const air::Reference& reference) {
    struct Known {
        double distance;
        Condition condition;
        fs::path folder;
    };
    std::vector<Known> known;
    for (const Point& other : pointsOf(c.settings)) {
        const auto& w = other.condition;
        if (other.configuration != p.configuration || other.setUp != p.setUp || w == p.condition) continue;
        const auto report = reportOf(c, other, reference);
        std::error_code ec;
        if (report.state != PointState::Settled || !fs::exists(report.folder / "checkpoint.bin", ec)) continue;
        // A change of speed matters least for coefficients: 10 % counts like one degree.
        known.push_back({std::abs(w.alpha_deg - p.condition.alpha_deg) + std::abs(w.beta_deg - p.condition.beta_deg) +
                             10.0 * std::abs(std::log(w.speed / p.condition.speed)),
                         w, report.folder});
    }
    std::stable_sort(known.begin(), known.end(),
                     [](const Known& a, const Known& b) { return a.distance < b.distance; });
    std::vector<fs::path> out;
    for (const Known& k : known)
        if (out.empty() || (out.size() == 1 && liesBehind(k.condition, known.front().condition, p.condition)))
            out.push_back(k.folder);
    return out;
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
                const auto old = readOrder(folder);
                order.neighbour = old.neighbour;
                order.secondNeighbour = old.secondNeighbour;
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
            const auto near = nearestSettled(c, p, reference);
            if (!near.empty()) order.neighbour = near[0];
            if (near.size() > 1) order.secondNeighbour = near[1];
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
