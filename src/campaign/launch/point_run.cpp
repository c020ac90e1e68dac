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
#include "campaign/store/run_standing.h"
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
/// Where a start begins.
struct Beginning {
    std::optional<fs::path> same;  ///< a run that has not come to its end, and goes on in its own folder
    std::optional<fs::path> from;  ///< a run that has, and whose last state is the start of another one
    int iterations = 0;            ///< that it has done
    std::string notice;            ///< what else there was and cannot be used
};

bool hasCheckpoint(const fs::path& folder, Beginning& out) {
    std::error_code ec;
    const fs::path file = folder / "checkpoint.bin";
    if (!fs::exists(file, ec)) return false;
    try {
        flow::checkCheckpoint(file);
        return true;
    } catch (const base::InputError& e) {
        out.notice =
            fmt::format("runs/{}/checkpoint.bin: {} A new run starts from the beginning; the old one stays as it is.",
                        folder.filename().string(), e.problem());
        return false;
    }
}

Beginning beginningOf(const Campaign& c, const Point& p, bool further) {
    Beginning out;
    const auto own = runsOf(c, p);
    const auto usable = [&](const Standing& s) {
        // A flow that has blown up is not taken up where it did.
        return !s.result || s.result->verdict != flow::Verdict::Diverged;
    };
    // To go beyond a result is to go beyond the one that is shown.
    if (const auto shown = shownRun(c, p); further && shown && shown->current) {
        const auto s = standingOf(shown->folder);
        if (s.ended() && usable(s)) {
            out.iterations = s.result->iterations;
            if (hasCheckpoint(shown->folder, out)) out.from = shown->folder;
            return out;
        }
    }
    for (auto r = own.rbegin(); r != own.rend(); ++r) {
        const auto s = standingOf(r->folder);
        if (!usable(s)) continue;
        std::error_code ec;
        // Values of a coarser grid are a look at what has only begun.
        const bool untouched = !fs::exists(r->folder / "result.json", ec) ||
                               (s.result && s.result->provisional() && !s.result->onGrid.empty());
        const bool checkpoint = hasCheckpoint(r->folder, out);
        if (s.ended() || !s.damage.empty()) {
            if (checkpoint) {
                out.from = r->folder;
                out.iterations = s.result ? s.result->iterations : 0;
            }
            return out;
        }
        if (checkpoint || (untouched && !fs::exists(r->folder / "checkpoint.bin", ec))) {
            out.same = r->folder;
            out.iterations = s.result ? s.result->iterations : 0;
            return out;
        }
    }
    return out;
}

// Files are replaced in one step and never written into, so that two names may lead to one until one is replaced.
void linkOrCopy(const fs::path& from, const fs::path& to) {
    std::error_code ec;
    if (!fs::exists(from, ec)) return;
    fs::create_hard_link(from, to, ec);
    if (ec) base::replaceFile(to, base::readFile(from));
}

// The order of a point but for where it starts.
RunOrder orderOf(const Campaign& c, const Point& p) {
    RunOrder order;
    order.grid = gridFile(c);
    std::error_code ec;
    if (c.settings.flow.coarseFirst && fs::exists(coarseGridFile(c), ec)) {
        order.coarseGrid = coarseGridFile(c);
        if (fs::exists(coarsestGridFile(c), ec)) order.coarsestGrid = coarsestGridFile(c);
    }
    order.cellsFollowFlow = c.settings.cellsFollowFlow;
    const auto placed = placedModel(c);
    const bool half = c.settings.tunnel.halfModel;
    order.flowCase = flowCaseOf(c.settings, p, placed, ownReference(measure(placed, half), half));
    order.key = runKey(c, p);
    order.caseKey = caseKey(c, p);
    order.solver = flow::kSolverVersion;
    order.point = p;
    return order;
}

// A run goes on from the neighbours, and on the reference, that it began with: its history has coefficients on it.
void keepFrom(const fs::path& folder, RunOrder& order) {
    try {
        const auto old = readOrder(folder);
        order.neighbour = old.neighbour;
        order.secondNeighbour = old.secondNeighbour;
        order.flowCase.reference = old.flowCase.reference;
    } catch (const base::InputError&) {
        // A damaged order is written anew; the checkpoint says where the flow stands.
    }
}

void tellOf(const std::string& notice, const fs::path& folder) {
    if (!notice.empty()) base::replaceFile(folder / "progress.jsonl", nlohmann::json{{"notice", notice}}.dump() + "\n");
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
    if (isDone(report.state) && !options.anew && options.further == 0 && damageOf(report.folder).empty())
        throw base::InputError(fmt::format("is {} already.", nameOf(report.state)), p.name(),
                               "Ask for iterations beyond it, or for a new run beside it.");
    std::size_t cells = 0;
    if (const auto figures = gridFigures(c))
        for (const auto& [level, n] : figures->cellsByLevel) cells += n;
    checkRanks(ranks, cells, options.oversubscribe);
    RunOrder order = orderOf(c, p);
    const auto begin = options.anew ? Beginning{} : beginningOf(c, p, options.further > 0);
    if (options.further > 0) {
        // From where it ended, also when it had settled.
        order.flowCase.settings.mostIterations = begin.iterations + options.further;
        order.flowCase.settings.leastIterations = order.flowCase.settings.mostIterations;
    }
    const fs::path folder = begin.same ? *begin.same : newRunFolder(c, p);
    claim(folder);
    std::error_code ec;
    try {
        if (begin.from) {
            for (const char* name : {"coarse.json", "coarse.bin", "coarsest.bin", "checkpoint.bin"})
                linkOrCopy(*begin.from / name, folder / name);
            if (fs::exists(*begin.from / "monitor.csv", ec))
                base::replaceFile(folder / "monitor.csv", base::readFile(*begin.from / "monitor.csv"));
            keepFrom(*begin.from, order);
        } else if (begin.same && fs::exists(folder / "checkpoint.bin", ec)) {
            keepFrom(folder, order);
        } else {
            // Nothing was computed that could be lost: no checkpoint, no result but of a coarser grid on its way.
            for (const char* old : {"monitor.csv", "coarse.json", "coarse.bin", "coarsest.bin", "coarse-wall.csv",
                                    "coarsest-wall.csv", "result.json"})
                fs::remove(folder / old, ec);
            const auto near = nearestSettled(c, p, reference);
            if (!near.empty()) order.neighbour = near[0];
            if (near.size() > 1) order.secondNeighbour = near[1];
        }
        // What an earlier start said would pass for words of this one.
        for (const char* old : {"stop", "save", "asked.json", "progress.jsonl"}) fs::remove(folder / old, ec);
        tellOf(begin.notice, folder);
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
    if (by_.host == hostName() && progressIn(folder_).iterations == 0)
        kill();
    else
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
