#include "campaign/steps/solve_coarse.h"

#include <chrono>

#include "base/files.h"
#include "campaign/steps/rank_files.h"
#include "campaign/steps/solve_result.h"
#include "flow/course.h"

namespace cvane::campaign {
namespace fs = std::filesystem;
using Clock = std::chrono::steady_clock;

namespace {
constexpr int kMostCoarse = 400;    ///< iterations on the coarse grid
constexpr int kMostCoarsest = 200;  ///< by kept histories of twelve bodies rest shows within 170 on 16,000 cells
}  // namespace

std::optional<readout::CoarseResult> coarseBefore(const fs::path& folder, const std::string& key,
                                                  const flow::Ranks& ranks) {
    std::optional<readout::CoarseResult> out;
    together(ranks, [&] {
        if (!fs::exists(folder / "coarse.json")) return;
        const auto j = base::readCheckedJson(folder / "coarse.json", 2);
        if (j.value("key", "") == key) out = readout::coarseFromJson(j, (folder / "coarse.json").string());
    });
    if (ranks.any(out.has_value()) && !out) out.emplace();
    return out;
}

void followCoarser(flow::Solver& solver, const RunOrder& order, const std::optional<Coarse>& coarser) {
    if (order.secondNeighbour.empty() && coarser && coarser->flow.isChange) solver.start().followCoarser(coarser->flow);
}

namespace {
/// @param name   of the state's file, without its ending
/// @param most   iterations
/// @param coarser  on a grid with fewer cells, or nothing
std::optional<Coarse> solveOn(const fs::path& grid, const std::string& name, int most, const RunOrder& order,
                              const fs::path& folder, const flow::Ranks& ranks, const std::optional<Coarse>& coarser) {
    auto c = order.flowCase;
    // The coarse flow is a means: it may stay less well known than the fine one, but must not take its time.
    c.settings.mostIterations = std::min(c.settings.mostIterations, most);
    flow::Solver solver(pieceOfGrid(grid, ranks), c, ranks);
    Coarse out;
    if (startsFromNeighbours(solver, order, name + ".bin", ranks)) {
        out.flow.from = solver.cloud();
        out.flow.isChange = true;
        followCoarser(solver, order, coarser);
    } else if (coarser)
        solver.start().fromCoarser(coarser->flow.to);
    else
        solver.start().fromPotentialFlow();
    flow::Course course(solver, c.settings);
    course.serveAnother();
    const auto& history = course.history();
    auto lastWord = Clock::now() - std::chrono::seconds(10);
    LiveValues live(order, folder, ranks, name);
    const auto began = Clock::now();
    const auto save = [&] {
        flow::Checkpoint head;
        head.key = order.key;
        agreed(ranks, [&] { solver.save(head, folder / (name + ".bin")); });
    };
    while (course.verdict() == flow::Verdict::Running) {
        const auto step = course.iterate();
        bool asked = false;
        const bool due = ranks.rank() == 0 && !order.weightsOnly && live.due();
        if (ranks.rank() == 0 &&
            (!step.notice.empty() || std::chrono::duration<double>(Clock::now() - lastWord).count() > 0.2)) {
            if (!step.notice.empty()) say({{"notice", "Coarse grid: " + step.notice}});
            if (!history.empty())
                say({{"coarse", true},
                     {"iteration", history.size()},
                     {"most", c.settings.mostIterations},
                     {"CL", history.back().CL},
                     {"CD", history.back().CD},
                     {"residual", step.residuals.worst()}});
            lastWord = Clock::now();
            asked = fs::exists(folder / "stop");
        }
        if (ranks.any(asked)) return Coarse{{}, {}, true};
        if (ranks.any(due) && course.verdict() == flow::Verdict::Running)
            live.keep(solver, course, std::chrono::duration<double>(Clock::now() - began).count(), {}, save);
    }
    const auto verdict = course.verdict();
    if (verdict == flow::Verdict::Diverged) return {};
    out.result.cells = static_cast<int>(solver.piece().allCells);
    out.result.iterations = static_cast<int>(history.size());
    out.result.verdict = verdict;
    out.result.coefficients =
        outcomeOf(history, course.watch().window(history.size()), verdict == flow::Verdict::Settled);
    out.result.pressureShareOfDrag = pressureShareOfDrag(modelLoad(solver, c.tunnel.halfModel), c.wind);
    out.flow.to = solver.cloud();
    save();
    return out;
}
}  // namespace

std::optional<Coarse> solveCoarse(const RunOrder& order, const fs::path& folder, const flow::Ranks& ranks) {
    std::optional<Coarse> coarsest;
    if (!order.coarsestGrid.empty()) {
        coarsest = solveOn(order.coarsestGrid, "coarsest", kMostCoarsest, order, folder, ranks, {});
        if (coarsest && coarsest->stopped) return coarsest;
    }
    auto out = solveOn(order.coarseGrid, "coarse", kMostCoarse, order, folder, ranks, coarsest);
    if (!out) {
        if (ranks.rank() == 0)
            say({{"notice",
                  "The flow on the coarse grid blew up in spite of caution; the fine one starts without it, and its "
                  "band lacks the cells' part."}});
        return {};
    }
    if (out->stopped) return out;
    if (coarsest) out->result.coarser.push_back(coarsest->result);
    together(ranks, [&] {
        auto j = readout::toJson(out->result);
        j["key"] = order.key;
        j["schema"] = 2;
        base::replaceJson(folder / "coarse.json", j);
    });
    return out;
}

}  // namespace cvane::campaign
