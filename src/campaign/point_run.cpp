#include "campaign/point_run.h"

#include <signal.h>

#include <cmath>
#include <thread>

#include "base/child_process.h"
#include "base/errors.h"
#include "base/files.h"
#include "campaign/flow_case.h"
#include "campaign/grid_stage.h"
#include "campaign/model_stage.h"

namespace cvane::campaign {
namespace fs = std::filesystem;

int cores() { return std::max(1, static_cast<int>(std::thread::hardware_concurrency())); }

fs::path nearestSettled(const Campaign& c, const Point& p, const air::Reference& reference) {
    fs::path best;
    double least = 1e300;
    const std::string grid = gridFile(c).string();
    for (const Point& q : pointsOf(c.settings.schedule)) {
        if (q == p) continue;
        const fs::path folder = runFolder(c, q);
        std::error_code ec;
        if (!fs::exists(folder / "result.json", ec) || !fs::exists(folder / "checkpoint.bin", ec)) continue;
        if (reportOf(c, q, reference).state != PointState::Settled) continue;
        // A change of speed matters least for coefficients: 10 % counts like one degree.
        const double distance = std::abs(q.alpha_deg - p.alpha_deg) + std::abs(q.beta_deg - p.beta_deg) + 10.0 * std::abs(std::log(q.speed / p.speed));
        if (distance < least) {
            least = distance;
            best = folder;
        }
    }
    return best;
}

PointRun PointRun::start(const Campaign& c, const Point& p, const air::Reference& reference, int ranks, int further) {
    if (!gridIsCurrent(c)) throw base::InputError("there is no grid for the present settings.", p.name(), "Make the grid first.");
    if (const auto trouble = troubleWithGaps(c); !trouble.sentence.empty()) throw base::InputError(trouble.sentence, p.name(), trouble.todo);
    const fs::path solver = base::programFolder() / "cvane-solve";
    if (!fs::exists(solver)) throw base::InputError("the solver program is missing.", solver.string(), "Build or install it beside this program.");
    if (auto running = attach(c, p)) return *running;
    RunOrder order;
    order.grid = gridFile(c);
    std::error_code ec;
    if (c.settings.flow.coarseFirst && fs::exists(coarseGridFile(c), ec)) order.coarseGrid = coarseGridFile(c);
    order.flowCase = flowCaseOf(c.settings, p, placedModel(c), reference);
    order.key = runKey(c, p, reference);
    const fs::path folder = runFolder(c, p);
    fs::create_directories(folder, ec);
    if (ec) throw base::InputError("cannot be made (" + ec.message() + ").", folder.string(), "Choose a folder that you may write to.");
    const auto before = fs::exists(folder / "run.json", ec) ? base::readJson(folder / "run.json").value("key", "") : std::string();
    const auto report = reportOf(c, p, reference);
    // What has been computed stays until the solver replaces it.
    // A flow that has blown up is not taken up where it did.
    const bool blownUp = report.result && report.result->verdict == flow::Verdict::Diverged;
    const bool goesOn = !blownUp && before == order.key && fs::exists(folder / "checkpoint.bin", ec) && (further > 0 || !report.result || report.state == PointState::Stopped);
    if (goesOn && further > 0) {
        // From where it ended, also when it had settled.
        order.flowCase.settings.mostIterations = (report.result ? report.result->iterations : 0) + further;
        order.flowCase.settings.leastIterations = order.flowCase.settings.mostIterations;
    }
    if (goesOn) {
        order.neighbour = readOrder(folder).neighbour;
    } else {
        for (const char* old : {"result.json", "checkpoint.bin", "monitor.csv", "progress.jsonl", "wall.csv", "flow.cgns", "coarse.json", "coarse.bin"}) fs::remove(folder / old, ec);
        order.neighbour = nearestSettled(c, p, reference);
    }
    fs::remove(folder / "stop", ec);
    fs::remove(folder / "save", ec);
    writeOrder(order, folder);
    // --bind-to none: two runs at once must not share one core while another idles.
    const std::vector<std::string> command{"mpiexec", "--bind-to", "none", "--oversubscribe", "-n", std::to_string(ranks), solver.string(), folder.string()};
    const int pid = base::startDetached(command, folder / "progress.jsonl", {"OMPI_ALLOW_RUN_AS_ROOT=1", "OMPI_ALLOW_RUN_AS_ROOT_CONFIRM=1", "OMPI_MCA_rmaps_base_oversubscribe=1"});
    const auto startTime = base::processStart(pid);
    base::replaceFile(folder / "running.json", nlohmann::json{{"pid", pid}, {"start", startTime}}.dump());
    return {p, folder, pid, startTime};
}

std::optional<PointRun> PointRun::attach(const Campaign& c, const Point& p) {
    const fs::path folder = runFolder(c, p);
    std::error_code ec;
    if (!fs::exists(folder / "running.json", ec)) return std::nullopt;
    try {
        const auto j = base::readJson(folder / "running.json");
        const PointRun run{p, folder, j.value("pid", 0), j.value("start", 0ull)};
        if (run.alive()) return run;
    } catch (const base::InputError&) {
    }
    return std::nullopt;
}

bool PointRun::alive() const { return base::isAlive(pid_, start_); }

void PointRun::askToStop() const { base::replaceFile(folder_ / "stop", "stop\n"); }

void PointRun::askToSave() const { base::replaceFile(folder_ / "save", "save\n"); }

void PointRun::kill() const {
    if (alive()) ::kill(-pid_, SIGKILL);  // the session that it leads: mpiexec and its ranks
}

}  // namespace cvane::campaign
