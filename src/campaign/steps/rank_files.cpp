#include "campaign/steps/rank_files.h"

#include "base/errors.h"
#include "campaign/steps/solver_words.h"
#include "campaign/store/stored_grid.h"

namespace cvane::campaign {
namespace fs = std::filesystem;

// Ranks agree on an error before any leaves: rank 0 reads and writes, and all hear whether it worked.
void together(const flow::Ranks& ranks, const std::function<void()>& onRoot) {
    std::string error;
    if (ranks.rank() == 0) {
        try {
            onRoot();
        } catch (const std::exception& e) {
            error = e.what();
        }
    }
    if (ranks.any(!error.empty())) throw AgreedError(error);
}

// Whether rank 0 sees a file: ranks on other hosts may not see it yet, or any more.
void agreed(const flow::Ranks& ranks, const std::function<void()>& onAll) {
    try {
        onAll();
    } catch (const base::InputError& e) {
        throw AgreedError(ranks.rank() == 0 ? e.what() : "");
    }
}

bool isThere(const fs::path& file, const flow::Ranks& ranks) {
    std::error_code ec;
    return ranks.any(ranks.rank() == 0 && fs::exists(file, ec));
}

flow::Piece pieceOfGrid(const fs::path& file, const flow::Ranks& ranks) {
    // Whether it is whole is looked at once, before all ranks read their parts.
    together(ranks, [&] { checkGrid(file); });
    return flow::readPiece(file, ranks);
}

// What rank 0 has read; the fields stay there, the rest goes to all.
std::optional<flow::Checkpoint> readCheckpoint(const fs::path& file, const flow::Ranks& ranks) {
    std::optional<flow::Checkpoint> c;
    together(ranks, [&] { c = flow::readCheckpoint(file); });
    if (!ranks.any(c.has_value())) return {};
    if (!c) c.emplace();
    flow::shareHistory(*c, ranks);
    return c;
}

namespace {
/// Another run's flow and wind; rank 0 alone has the flow.
struct Neighbour {
    flow::Checkpoint flow;
    air::FreeStream wind;
};
Neighbour readNeighbour(const fs::path& run, const std::string& file, const flow::Ranks& ranks) {
    Neighbour out;
    double wind[3] = {0.0, 0.0, 0.0};
    together(ranks, [&] {
        if (auto settled = flow::readCheckpoint(run / file)) out.flow = std::move(*settled);
        const auto w = readOrder(run).flowCase.wind;
        wind[0] = w.speed;
        wind[1] = w.alpha;
        wind[2] = w.beta;
    });
    ranks.fromRoot(wind);
    out.wind = {wind[0], wind[1], wind[2], {}};
    return out;
}
}  // namespace

bool startsFromNeighbours(flow::Solver& solver, const RunOrder& order, const std::string& file,
                          const flow::Ranks& ranks) {
    const auto has = [&](const fs::path& run) { return !run.empty() && isThere(run / file, ranks); };
    if (!has(order.neighbour)) return false;
    const auto doWithout = [&] {
        if (ranks.rank() == 0)
            say({{"notice", "The flow of a neighbouring point cannot be read; this one starts without it."}});
        return false;
    };
    // Both are thrown on all ranks or on none, and before the solver has taken anything. What one rank throws alone
    // must not be caught: the others would wait for it.
    try {
        const auto nearer = readNeighbour(order.neighbour, file, ranks);
        if (has(order.secondNeighbour)) {
            const auto second = readNeighbour(order.secondNeighbour, file, ranks);
            solver.start().fromNeighbours(nearer.flow, nearer.wind, second.flow, second.wind);
        } else
            solver.start().fromNeighbour(nearer.flow, nearer.wind);
        return true;
    } catch (const AgreedError&) {
        return doWithout();
    } catch (const base::InputError&) {
        return doWithout();
    }
}

}  // namespace cvane::campaign
