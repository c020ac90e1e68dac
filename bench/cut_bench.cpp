// How a grid's cells would be dealt out to many ranks, and what that would cost.
//   cut_bench GRID.cgns [ranks,ranks,...]   cuts it for so many ranks (16,64,256,1024) in one process, makes the
//     multigrid levels that each rank would make, and prints the largest share of cells over the mean, ghost cells,
//     neighbours, messages and bytes of an iteration, memory of a rank, and the efficiency that a stated network
//     (2 us a message, 10 GB/s) would give.
//   mpiexec -n RANKS cut_bench start GRID.cgns   reads the grid and makes a solver: how long, and the largest memory of
//     a rank at the start beside that of the settled solver.
#include <fmt/format.h>
#include <malloc.h>
#include <mpi.h>

#include <algorithm>
#include <chrono>
#include <cmath>
#include <map>

#include "base/number_list.h"
#include "flow/aggregation.h"
#include "flow/piece_faces.h"
#include "flow/solver.h"
#include "grid/cgns_file.h"
#include "grid/memory.h"

using namespace cvane;

namespace {
// The stated network, and what one core does: an iteration of a cell, as same_digits.py measures it on two ranks, and a
// visit of the cycle to a row of a small level, which is in cache (two sweeps, residual, transfer).
constexpr double kLatency = 2e-6, kBytesASecond = 10e9, kSecondsACell = 1.7e-6, kSecondsARow = 4e-8;
// Exchanges of an iteration on the cells: U twice in the momentum sweeps, gradients of U and p, limiters, pressure
// force, D and Dcorrect, turbulence. In numbers a ghost cell.
constexpr double kFieldExchanges = 24.0, kNumbersOfFields = 78.0;
// A pressure solution is taken to have 5 cycles (`start` prints those of the third iteration); a level is visited
// 2^level times a cycle, with four exchanges each time.
constexpr double kCycles = 5.0, kExchangesAVisit = 4.0;

/// What one simulated rank has on a level.
struct Part {
    flow::Sparse A;
    /// Ghosts by rank: the rows there that they are, in the order of the ghosts here.
    std::map<int, std::vector<std::int32_t>> ghosts;
    std::vector<std::int32_t> aggregate;
};

std::vector<Part> cut(const grid::Grid& g, const grid::Geometry& geo, int ranks) {
    const flow::CellRuns runs{g.cells(), ranks};
    std::vector<int> rankOf(static_cast<std::size_t>(g.cells()));
    for (std::size_t c = 0; c < rankOf.size(); ++c) rankOf[c] = runs.rankOf(static_cast<std::int64_t>(c));
    struct Entry {
        std::int32_t row;
        std::int64_t cell;
        double gap;
    };
    std::vector<std::vector<Entry>> entries(static_cast<std::size_t>(ranks));
    for (std::size_t f = 0; f < g.neighbour.size(); ++f) {
        const auto P = g.owner[f], N = g.neighbour[f];
        const Vec3 d = geo.cellCentre[static_cast<std::size_t>(N)] - geo.cellCentre[static_cast<std::size_t>(P)];
        const double gap = geo.faceArea[f].squaredNorm() / std::max(std::abs(geo.faceArea[f].dot(d)), 1e-300);
        for (const auto& [own, other] : {std::pair{P, N}, std::pair{N, P}}) {
            const int r = rankOf[static_cast<std::size_t>(own)];
            entries[static_cast<std::size_t>(r)].push_back(
                {static_cast<std::int32_t>(own - runs.startOf(r)), other, gap});
        }
    }
    std::vector<Part> parts(static_cast<std::size_t>(ranks));
    for (int r = 0; r < ranks; ++r) {
        auto& list = entries[static_cast<std::size_t>(r)];
        Part& p = parts[static_cast<std::size_t>(r)];
        const auto first = runs.startOf(r), last = runs.startOf(r + 1);
        std::map<std::int64_t, std::int32_t> ghostOf;
        for (const Entry& e : list)
            if (e.cell < first || e.cell >= last) ghostOf.emplace(e.cell, 0);
        auto next = static_cast<std::int32_t>(last - first);
        for (auto& [cell, at] : ghostOf) {
            at = next++;
            const int from = rankOf[static_cast<std::size_t>(cell)];
            p.ghosts[from].push_back(static_cast<std::int32_t>(cell - runs.startOf(from)));
        }
        flow::Sparse& A = p.A;
        A.rows = static_cast<std::int32_t>(last - first);
        const auto column = [&](const Entry& e) {
            return e.cell >= first && e.cell < last ? static_cast<std::int32_t>(e.cell - first) : ghostOf.at(e.cell);
        };
        std::sort(list.begin(), list.end(), [&](const Entry& a, const Entry& b) {
            return a.row != b.row ? a.row < b.row : column(a) < column(b);
        });
        A.rowStart.assign(static_cast<std::size_t>(A.rows) + 1, 0);
        A.diag.assign(static_cast<std::size_t>(A.rows), 0.0);
        for (const Entry& e : list) {
            ++A.rowStart[static_cast<std::size_t>(e.row) + 1];
            A.col.push_back(column(e));
            A.val.push_back(-e.gap);
            A.diag[static_cast<std::size_t>(e.row)] += e.gap;
        }
        for (std::size_t i = 0; i < A.diag.size(); ++i) A.rowStart[i + 1] += A.rowStart[i];
        A.findAbove();
        list = {};
    }
    return parts;
}

/// The next level of all ranks, as Multigrid makes it.
std::vector<Part> coarser(std::vector<Part>& parts) {
    std::vector<std::int32_t> rows(parts.size());
    for (std::size_t r = 0; r < parts.size(); ++r) {
        Part& p = parts[r];
        std::vector<std::int32_t> once, twice, target;
        const auto half = flow::pairRows(p.A, once);
        std::size_t stored = static_cast<std::size_t>(p.A.rows);
        for (const auto& [from, list] : p.ghosts) stored += list.size();
        auto extended = once;
        for (std::size_t g = once.size(); g < stored; ++g)
            extended.push_back(half + static_cast<std::int32_t>(g - once.size()));
        flow::Sparse middle = flow::coarsePattern(p.A, extended, half, target);
        flow::galerkin(p.A, once, target, middle);
        rows[r] = flow::pairRows(middle, twice);
        p.aggregate.resize(once.size());
        for (std::size_t i = 0; i < once.size(); ++i) p.aggregate[i] = twice[static_cast<std::size_t>(once[i])];
    }
    std::vector<Part> out(parts.size());
    for (std::size_t r = 0; r < parts.size(); ++r) {
        Part& p = parts[r];
        auto all = p.aggregate;
        auto next = rows[r];
        for (const auto& [from, list] : p.ghosts) {
            std::map<std::int32_t, std::int32_t> of;
            for (const auto row : list) {
                const auto there = parts[static_cast<std::size_t>(from)].aggregate[static_cast<std::size_t>(row)];
                const auto [it, isNew] = of.try_emplace(there, next);
                if (isNew) {
                    ++next;
                    out[r].ghosts[from].push_back(there);
                }
                all.push_back(it->second);
            }
        }
        std::vector<std::int32_t> target;
        out[r].A = flow::coarsePattern(p.A, all, rows[r], target);
        flow::galerkin(p.A, all, target, out[r].A);
    }
    return out;
}

struct Level {
    double largest = 0.0, mean = 0.0, ghosts = 0.0, neighbours = 0.0;  ///< the last two of the busiest rank
};

Level levelOf(const std::vector<Part>& parts) {
    Level out;
    for (const Part& p : parts) {
        double ghosts = 0.0;
        for (const auto& [from, list] : p.ghosts) ghosts += static_cast<double>(list.size());
        out.largest = std::max(out.largest, static_cast<double>(p.A.rows));
        out.mean += static_cast<double>(p.A.rows) / static_cast<double>(parts.size());
        out.ghosts = std::max(out.ghosts, ghosts);
        out.neighbours = std::max(out.neighbours, static_cast<double>(p.ghosts.size()));
    }
    return out;
}

void cutFor(const grid::Grid& g, const grid::Geometry& geo, int ranks) {
    auto parts = cut(g, geo, ranks);
    fmt::print("{} ranks, {:.0f} cells each\n", ranks, static_cast<double>(g.cells()) / ranks);
    double compute = 0.0, wait = 0.0, send = 0.0, messages = 0.0, bytes = 0.0;
    const double cells = static_cast<double>(g.cells());
    for (int level = 0;; ++level) {
        const Level l = levelOf(parts);
        const double all = l.mean * ranks;
        const bool last = all <= 1000.0 || level > 20;
        const double visits = kCycles * (level == 0 ? 1.0 : std::pow(2.0, level));
        const double exchanges = level == 0 ? kFieldExchanges + kExchangesAVisit * visits : kExchangesAVisit * visits;
        const double numbers = level == 0 ? kNumbersOfFields + kExchangesAVisit * visits : kExchangesAVisit * visits;
        // The smallest level is gathered on all ranks: a message in each of log2(ranks) steps.
        const double m = last ? visits * std::log2(static_cast<double>(ranks)) : exchanges * l.neighbours,
                     b = last ? visits * 8.0 * all : numbers * 8.0 * l.ghosts;
        fmt::print(
            "  level {}: {:.0f} rows, largest over mean {:.3f}, ghosts {:.0f}, neighbours {:.0f}, messages {:.0f}, "
            "{:.1f} kB an iteration\n",
            level, all, l.largest / l.mean, l.ghosts, l.neighbours, m, 1e-3 * b);
        // An iteration of a cell has its share of the cycles in it; what every rank repeats comes on top.
        compute += level == 0 ? kSecondsACell * l.largest : last ? kSecondsARow * visits * all : 0.0;
        messages += m;
        bytes += b;
        wait += kLatency * m;
        send += b / kBytesASecond;
        if (last) break;
        const double before = all;
        auto next = coarser(parts);
        parts = std::move(next);
        if (levelOf(parts).mean * ranks > 0.8 * before) break;
    }
    // Sums over all ranks: three an iteration, two a cycle.
    wait += kLatency * (3.0 + 2.0 * kCycles) * std::log2(static_cast<double>(ranks));
    const double ideal = kSecondsACell * cells / ranks;
    fmt::print(
        "  an iteration: {:.0f} messages, {:.2f} MB; {:.2f} ms of work, {:.2f} ms of messages, {:.2f} ms of bytes; "
        "efficiency {:.0f} %\n",
        messages, 1e-6 * bytes, 1e3 * compute, 1e3 * wait, 1e3 * send, 100.0 * ideal / (compute + wait + send));
}

double now() {
    return std::chrono::duration<double>(std::chrono::steady_clock::now().time_since_epoch()).count();
}

void start(const char* file) {
    const flow::Ranks ranks;
    MPI_Barrier(MPI_COMM_WORLD);
    const double began = now();
    flow::Case c;
    c.tunnel.floor = grid::Floor::Moving;
    c.wind.speed = 11.0;
    auto solver = std::make_unique<flow::Solver>(flow::readPiece(file, ranks), c, ranks);
    const double took = ranks.max(now() - began), atStart = ranks.max(grid::peakMemory());
    solver->start().fromPotentialFlow();
    for (int i = 0; i < 3; ++i) solver->iterate();
    malloc_trim(0);
    const double settled = ranks.max(grid::presentMemory()), peak = ranks.max(grid::peakMemory());
    if (ranks.rank() == 0)
        fmt::print(
            "{} ranks: {:.2f} s to read and make the solver; a rank's memory: {:.3f} GB at most by then, {:.3f} GB "
            "with three iterations, {:.3f} GB as it goes on: {:.2f} times; {} cycles\n",
            ranks.size(), took, 1e-9 * atStart, 1e-9 * peak, 1e-9 * settled, atStart / settled,
            solver->pressureIterations());
}
}  // namespace

int main(int argc, char** argv) {
    MPI_Init(&argc, &argv);
    if (argc == 3 && std::string(argv[1]) == "start") {
        start(argv[2]);
    } else if (argc > 1) {
        const auto g = grid::readCgns(argv[1]);
        const auto geo = grid::geometryOf(g);
        for (const double ranks : base::numbersIn(argc > 2 ? argv[2] : "16,64,256,1024", "ranks"))
            cutFor(g, geo, static_cast<int>(ranks));
    } else {
        fmt::print("cut_bench GRID.cgns [ranks,...], or mpiexec -n RANKS cut_bench start GRID.cgns\n");
    }
    MPI_Finalize();
}
