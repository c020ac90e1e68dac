#include "campaign/steps/first_flow.h"

#include <fmt/format.h>
#include <signal.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <cstring>
#include <thread>

#include "base/child_process.h"
#include "base/errors.h"
#include "base/files.h"
#include "campaign/steps/flow_case.h"
#include "campaign/steps/grid_stage.h"
#include "campaign/steps/model_stage.h"
#include "campaign/steps/solver_process.h"
#include "campaign/store/point_report.h"
#include "campaign/store/run_claim.h"
#include "campaign/store/stored_grid.h"
#include "flow/marks.h"
#include "flow/version.h"

namespace cvane::campaign {
namespace fs = std::filesystem;

namespace {
constexpr double kGridShare = 0.1;  // of the progress; the rest are the flows

constexpr const char* kFirstGrid = "first.cgns";

// Solves one condition on the first grid in a process of its own; its folder then holds weights.bin.
void solveFirst(const Campaign& c, const flow::Case& flowCase, const Condition& condition, const fs::path& grid,
                const fs::path& folder, const fs::path& neighbour, const base::Progress& progress) {
    std::error_code ec;
    if (fs::exists(folder / kWeightsFile, ec)) return;
    fs::create_directories(folder, ec);
    RunOrder order;
    order.grid = order.coarseGrid = grid;
    if (fs::exists(coarseGridFile(c), ec)) order.coarsestGrid = coarseGridFile(c);
    order.flowCase = flowCase;
    order.key = order.caseKey = base::settingsKey(folder.string());
    order.solver = flow::kSolverVersion;
    order.point = {condition};
    order.neighbour = neighbour;
    order.weightsOnly = true;
    fs::remove(folder / "progress.jsonl", ec);
    writeOrder(order, folder);
    claim(folder);
    int pid = 0;
    try {
        pid = startSolver(folder, cores());
        handOver(folder, pid);
    } catch (...) {
        release(folder);
        throw;
    }
    const auto start = base::processStart(pid);
    while (base::isAlive(pid, start)) {
        std::this_thread::sleep_for(std::chrono::milliseconds(200));
        const auto said = progressIn(folder);
        try {
            base::report(
                progress, std::min(1.0, static_cast<double>(said.iterations) / said.mostIterations),
                fmt::format("first flow at alpha {:.4g} deg, iteration {}", condition.alpha_deg, said.iterations));
        } catch (...) {
            ::kill(-pid, SIGKILL);
            while (base::isAlive(pid, start)) std::this_thread::sleep_for(std::chrono::milliseconds(20));
            throw;
        }
    }
    if (!fs::exists(folder / kWeightsFile, ec))
        throw base::InputError(fmt::format("the first flow at {} came to no end.", condition.name()), folder.string(),
                               "progress.jsonl there says why. Set grid.cells_follow_flow=false to do without it.");
}

// To what the flow of this folder asks of each cell, where that is more.
void raise(std::vector<double>& weights, const fs::path& folder) {
    const auto bytes = base::readFile(folder / kWeightsFile);
    if (bytes.size() != weights.size() * sizeof(double))
        throw base::InputError("does not fit its grid.", (folder / kWeightsFile).string(), "Delete it and try again.");
    std::vector<double> asked(weights.size());
    std::memcpy(asked.data(), bytes.data(), bytes.size());
    for (std::size_t k = 0; k < weights.size(); ++k) weights[k] = std::max(weights[k], asked[k]);
}
}  // namespace

grid::Marks marksByFlow(const Campaign& c, const grid::GridSettings& settings, const fs::path& folder,
                        const base::Progress& progress) {
    std::error_code ec;
    fs::create_directories(folder, ec);
    auto half = settings;
    half.cellBudget /= 2;
    const fs::path file = folder / kFirstGrid;
    if (!fs::exists(file, ec)) {
        const auto model = modelForGrid(c);
        writeGrid(grid::build(model, tunnelFor(c.settings, model), half,
                              [&](double f, std::string_view doing) {
                                  return !progress || progress(kGridShare * f, fmt::format("first grid: {}", doing));
                              }),
                  file);
    }
    const auto g = readGrid(file);
    const auto conditions = conditionsOfFirstFlow(c.settings.schedule);
    const auto placed = placedModel(c);
    const auto reference = ownReference(measure(placed, c.settings.tunnel.halfModel), c.settings.tunnel.halfModel);
    std::vector<double> weights(g.cells(), 0.0);
    fs::path neighbour;
    for (std::size_t i = 0; i < conditions.size(); ++i) {
        const fs::path own = folder / conditions[i].name();
        const double from =
            kGridShare + (1.0 - kGridShare) * static_cast<double>(i) / static_cast<double>(conditions.size());
        solveFirst(c, flowCaseOf(c.settings, {conditions[i]}, placed, reference), conditions[i], file, own, neighbour,
                   [&](double f, std::string_view doing) {
                       return !progress ||
                              progress(from + (1.0 - kGridShare) * f / static_cast<double>(conditions.size()), doing);
                   });
        if (i == 0) neighbour = own;
        raise(weights, own);
    }
    return flow::marksOf(weights, grid::geometryOf(g), half.cellBudget);
}

std::optional<AskedByFlow> askedByFlow(const Campaign& c) {
    std::error_code ec;
    const fs::path folder = firstFlowFolder(gridFile(c));
    if (!c.settings.cellsFollowFlow || !fs::exists(folder / kFirstGrid, ec)) return {};
    const auto geometry = grid::geometryOf(readGrid(folder / kFirstGrid));
    AskedByFlow out{geometry.cellCentre, std::vector<double>(geometry.cellCentre.size(), 0.0)};
    for (const auto& condition : conditionsOfFirstFlow(c.settings.schedule))
        raise(out.weight, folder / condition.name());
    return out;
}

}  // namespace cvane::campaign
