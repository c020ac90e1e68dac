#include "campaign/methods/field_runner.h"

#include <fmt/format.h>

#include <algorithm>

#include "base/errors.h"
#include "base/files.h"
#include "campaign/plan/points.h"
#include "campaign/plan/propellers.h"
#include "campaign/settings/fields.h"
#include "campaign/steps/flow_case.h"
#include "campaign/steps/grid_stage.h"
#include "campaign/steps/model_stage.h"
#include "campaign/steps/solve_point.h"
#include "campaign/store/keys.h"
#include "campaign/store/stored_grid.h"
#include "flow/checkpoint.h"
#include "flow/version.h"
#include "readout/wall_field.h"

namespace cvane::campaign {
namespace fs = std::filesystem;

int FieldRunner::version() const {
    return flow::kSolverVersion;
}

nlohmann::json FieldRunner::caseOf(const Campaign& c, const Condition& condition) const {
    nlohmann::json on = {{"grid", gridKey(c)},
                         {"flow", changedFrom({}, c.settings, {Affects::Flow})},
                         {"condition", {condition.speed, condition.alpha_deg + 0.0, condition.beta_deg + 0.0}}};
    // By itself it is a matter of the wind: points that ran as incompressible when there was nothing else are other
    // ones.
    if (isCompressible(c.settings, windOf(c.settings, condition))) on["compressible"] = true;
    // Where they are the grid's key says.
    for (const auto& d : builtDiscs(c.settings)) on["propellers"].push_back({d.name, d.inner, d.thrust, d.rpm});
    return on;
}

void FieldRunner::prepare(const Campaign& c, const Point& p) const {
    if (!gridIsCurrent(c))
        throw base::InputError("there is no grid for the present settings.", p.name(), "Make the grid first.");
    if (const auto trouble = troubleWithGaps(c); !trouble.sentence.empty())
        throw base::InputError(trouble.sentence, p.name(), trouble.todo);
}

std::size_t FieldRunner::size(const Campaign& c) const {
    std::size_t cells = 0;
    if (const auto figures = gridFigures(c))
        for (const auto& [level, n] : figures->cellsByLevel) cells += n;
    return cells;
}

std::string FieldRunner::whyItGoesOn(const Standing& standing, const Settings& now) const {
    return campaign::whyItGoesOn(standing, now.flow);
}

bool FieldRunner::asksThis(const Standing& standing, const Settings& now) const {
    return campaign::asksThis(standing, now.flow);
}

namespace {
bool hasCheckpoint(const fs::path& folder, Runner::Beginning& out) {
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

}  // namespace

Runner::Beginning FieldRunner::beginningOf(const std::vector<fs::path>& own, const fs::path& beyond) const {
    Beginning out;
    const auto usable = [&](const Standing& s) {
        // A flow that has blown up is not taken up where it did.
        return !s.result || s.result->verdict != flow::Verdict::Diverged;
    };
    // To go beyond a result is to go beyond the one that is shown.
    if (!beyond.empty()) {
        const auto s = standingOf(beyond);
        if (s.ended() && usable(s)) {
            out.iterations = s.result->iterations;
            if (hasCheckpoint(beyond, out)) out.from = beyond;
            return out;
        }
    }
    for (auto r = own.rbegin(); r != own.rend(); ++r) {
        const auto s = standingOf(*r);
        if (!usable(s)) continue;
        std::error_code ec;
        // Values of a coarser grid are a look at what has only begun.
        const bool untouched = !fs::exists(*r / "result.json", ec) ||
                               (s.result && s.result->provisional() && !s.result->readings().onGrid.empty());
        const bool checkpoint = hasCheckpoint(*r, out);
        if (s.ended() || !s.damage.empty()) {
            if (checkpoint) {
                out.from = *r;
                out.iterations = s.result ? s.result->iterations : 0;
            }
            return out;
        }
        if (checkpoint || (untouched && !fs::exists(*r / "checkpoint.bin", ec))) {
            out.same = *r;
            out.iterations = s.result ? s.result->iterations : 0;
            return out;
        }
    }
    return out;
}

namespace {
// Files are replaced in one step and never written into, so that two names may lead to one until one is replaced.
void linkOrCopy(const fs::path& from, const fs::path& to) {
    std::error_code ec;
    if (!fs::exists(from, ec)) return;
    fs::create_hard_link(from, to, ec);
    if (ec) base::replaceFile(to, base::readFile(from));
}

// The order of a point but for where it starts.
RunOrder orderOf(const Campaign& c, const OrderHead& head) {
    RunOrder order(head);
    order.grid = gridFile(c);
    std::error_code ec;
    if (c.settings.flow.coarseFirst && fs::exists(coarseGridFile(c), ec)) {
        order.coarseGrid = coarseGridFile(c);
        if (fs::exists(coarsestGridFile(c), ec)) order.coarsestGrid = coarsestGridFile(c);
    }
    order.cellsFollowFlow = c.settings.cellsFollowFlow;
    const auto placed = placedModel(c);
    const bool half = c.settings.tunnel.halfModel;
    order.flowCase = flowCaseOf(c.settings, head.point, placed, ownReference(measure(placed, half), half));
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

// A flow of other equations carries other quantities, and shocks do not move with the speed by a common factor: from
// Mach 0.95 and 1.05 carried on to 1.3 a dart's flow blew up.
bool isStartFor(const fs::path& run, const flow::Case& c) {
    constexpr double kMostFaster = 1.12;
    try {
        const auto its = readOrder(run).flowCase;
        if (its.compressible != c.compressible) return false;
        const double ratio = its.wind.speed / c.wind.speed;
        return !c.compressible || std::max(ratio, 1.0 / ratio) < kMostFaster;
    } catch (const base::InputError&) {
        return false;
    }
}
}  // namespace

void FieldRunner::writeOrder(const Campaign& c, const OrderHead& head, const Beginning& begin, int further,
                             const std::function<std::vector<fs::path>()>& neighbours, const fs::path& folder) const {
    RunOrder order = orderOf(c, head);
    if (further > 0) {
        // From where it ended, also when it had settled.
        order.flowCase.settings.mostIterations = begin.iterations + further;
        order.flowCase.settings.leastIterations = order.flowCase.settings.mostIterations;
    }
    std::error_code ec;
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
        auto near = neighbours();
        std::erase_if(near, [&](const fs::path& run) { return !isStartFor(run, order.flowCase); });
        if (!near.empty()) order.neighbour = near[0];
        const auto isOfThisSpeed = [&](const fs::path& run) {
            return readOrder(run).flowCase.wind.speed == order.flowCase.wind.speed;
        };
        if (near.size() > 1 && (!order.flowCase.compressible || (isOfThisSpeed(near[0]) && isOfThisSpeed(near[1]))))
            order.secondNeighbour = near[1];
    }
    campaign::writeOrder(order, folder);
}

void FieldRunner::solve(const fs::path& folder, const flow::Ranks& ranks) const {
    solvePoint(folder, ranks);
}

void FieldRunner::checkFiles(const fs::path& folder, const readout::Result& result) const {
    checkStored(readOrder(folder).grid, "Run the point again: its grid is made anew.");
    std::error_code ec;
    for (const char* name : {"flow.cgns", "wall.csv"}) {
        // Campaigns are handed on without their flows: what is not there is no damage in a run of before.
        if (!fs::exists(folder / name, ec) && result.sums.empty()) continue;
        checkRunFile(folder, name);
    }
    if (fs::exists(folder / "wall.csv", ec)) readout::readWallField(folder / "wall.csv");
}

air::Reference FieldRunner::referenceOf(const fs::path& folder) const {
    return readOrder(folder).flowCase.reference;
}

}  // namespace cvane::campaign
