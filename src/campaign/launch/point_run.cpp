#include "campaign/launch/point_run.h"

#include <fmt/format.h>
#include <signal.h>

#include <algorithm>
#include <cmath>
#include <thread>

#include "base/child_process.h"
#include "base/errors.h"
#include "base/files.h"
#include "campaign/methods/runner.h"
#include "campaign/steps/solver_process.h"
#include "campaign/store/keys.h"

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
        if (Point{w, p.configuration, p.setUp, p.method} != other || w == p.condition) continue;
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
void tellOf(const std::string& notice, const fs::path& folder) {
    if (!notice.empty()) base::replaceFile(folder / "progress.jsonl", nlohmann::json{{"notice", notice}}.dump() + "\n");
}
}  // namespace

PointRun PointRun::start(const Campaign& base, const Point& p, const air::Reference& reference, int ranks,
                         const StartOptions& options) {
    const Campaign c = base.of(p);
    if (auto running = attach(c, p)) return *running;
    const Runner& method = runnerOf(p.method);
    method.prepare(c, p);
    solverProgram();  // refuse before anything is written
    const auto report = reportOf(c, p, reference);
    if (isDone(report.state) && !options.anew && options.further == 0 && damageOf(report.folder).empty())
        throw base::InputError(fmt::format("is {} already.", nameOf(report.state)), p.name(),
                               "Ask for iterations beyond it, or for a new run beside it.");
    checkRanks(ranks, method.size(c), options.oversubscribe);
    std::vector<fs::path> own;
    for (const auto& r : runsOf(c, p)) own.push_back(r.folder);
    const auto shown = shownRun(c, p);
    const auto begin =
        options.anew
            ? Runner::Beginning{}
            : method.beginningOf(own, options.further > 0 && shown && shown->current ? shown->folder : fs::path());
    const fs::path folder = begin.same ? *begin.same : newRunFolder(c, p);
    claim(folder);
    try {
        std::error_code ec;
        // What an earlier start said would pass for words of this one.
        for (const char* old : {"stop", "save", "asked.json", "progress.jsonl"}) fs::remove(folder / old, ec);
        tellOf(begin.notice, folder);
        method.writeOrder(
            c, {runKey(c, p), caseKey(c, p), method.version(), p}, begin, options.further,
            [&] { return nearestSettled(c, p, reference); }, folder);
        beat(folder);
        // A quick method is one process with threads: others would wait for it busily.
        const int pid = startSolver(folder, method.needsGrid() ? ranks : 1);
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
