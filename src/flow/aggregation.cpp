#include "flow/aggregation.h"

#include <algorithm>
#include <numeric>

namespace cvane::flow {

// Pairs each row with its strongest unpaired neighbour of the same rank; a row whose strong neighbours are all taken
// joins the pair of the strongest, so that no round leaves many single rows behind. @return number of aggregates
std::int32_t pairRows(const Sparse& A, std::vector<std::int32_t>& aggregate) {
    aggregate.assign(static_cast<std::size_t>(A.rows), -1);
    std::int32_t count = 0;
    for (std::int32_t r = 0; r < A.rows; ++r) {
        if (aggregate[static_cast<std::size_t>(r)] >= 0) continue;
        double free = 0.0, strongest = 0.0;
        std::int32_t mate = -1, host = -1;
        for (auto k = A.rowStart[static_cast<std::size_t>(r)]; k < A.rowStart[static_cast<std::size_t>(r) + 1]; ++k) {
            const auto c = A.col[static_cast<std::size_t>(k)];
            const double v = -A.val[static_cast<std::size_t>(k)];
            if (c >= A.rows || c == r) continue;
            if (v > strongest) {
                strongest = v;
                host = c;
            }
            if (aggregate[static_cast<std::size_t>(c)] < 0 && v > free) {
                free = v;
                mate = c;
            }
        }
        if (mate < 0 || free < 0.25 * strongest) mate = -1;
        if (mate < 0 && host >= 0 && aggregate[static_cast<std::size_t>(host)] >= 0) {
            aggregate[static_cast<std::size_t>(r)] = aggregate[static_cast<std::size_t>(host)];
            continue;
        }
        aggregate[static_cast<std::size_t>(r)] = count;
        if (mate >= 0) aggregate[static_cast<std::size_t>(mate)] = count;
        ++count;
    }
    return count;
}

// Pattern of the next level's matrix and the place to which each fine entry is added.
Sparse coarsePattern(const Sparse& A, const std::vector<std::int32_t>& aggregate, std::int32_t rows,
                     std::vector<std::int32_t>& target) {
    Sparse C;
    C.rows = rows;
    std::vector<std::vector<std::int32_t>> columns(static_cast<std::size_t>(rows));
    for (std::size_t i = 0; i < static_cast<std::size_t>(A.rows); ++i)
        for (auto k = A.rowStart[i]; k < A.rowStart[i + 1]; ++k) {
            const auto c = aggregate[static_cast<std::size_t>(A.col[static_cast<std::size_t>(k)])];
            if (c != aggregate[i]) columns[static_cast<std::size_t>(aggregate[i])].push_back(c);
        }
    C.rowStart.assign(1, 0);
    for (auto& row : columns) {
        std::sort(row.begin(), row.end());
        row.erase(std::unique(row.begin(), row.end()), row.end());
        C.col.insert(C.col.end(), row.begin(), row.end());
        C.rowStart.push_back(static_cast<std::int32_t>(C.col.size()));
    }
    C.diag.assign(static_cast<std::size_t>(rows), 0.0);
    C.val.assign(C.col.size(), 0.0);
    C.findAbove();
    target.resize(A.col.size());
    for (std::size_t i = 0; i < static_cast<std::size_t>(A.rows); ++i) {
        const auto I = aggregate[i];
        const auto first = C.col.begin() + C.rowStart[static_cast<std::size_t>(I)],
                   last = C.col.begin() + C.rowStart[static_cast<std::size_t>(I) + 1];
        for (auto k = A.rowStart[i]; k < A.rowStart[i + 1]; ++k) {
            const auto J = aggregate[static_cast<std::size_t>(A.col[static_cast<std::size_t>(k)])];
            target[static_cast<std::size_t>(k)] =
                J == I ? -1 - I : static_cast<std::int32_t>(std::lower_bound(first, last, J) - C.col.begin());
        }
    }
    return C;
}

void galerkin(const Sparse& A, const std::vector<std::int32_t>& aggregate, const std::vector<std::int32_t>& target,
              Sparse& C) {
    C.clear();
    for (std::size_t i = 0; i < static_cast<std::size_t>(A.rows); ++i)
        C.diag[static_cast<std::size_t>(aggregate[i])] += A.diag[i];
    for (std::size_t k = 0; k < target.size(); ++k)
        if (target[k] >= 0)
            C.val[static_cast<std::size_t>(target[k])] += A.val[k];
        else
            C.diag[static_cast<std::size_t>(-1 - target[k])] += A.val[k];
}

// Ghosts of the next level: my ghosts' aggregate numbers on their own ranks, each once, in ascending order. The sender
// makes the same list from what it sends, so no further message is needed.
Halo coarseHalo(const Halo& fine, std::int32_t rows, std::vector<std::int32_t>& aggregate, std::size_t stored) {
    std::vector<double> numbers(stored, 0.0);
    for (std::size_t i = 0; i < aggregate.size(); ++i) numbers[i] = aggregate[i];
    fine.exchange(numbers);
    const auto own = aggregate;
    aggregate.resize(stored);
    Halo out;
    std::int32_t next = rows;
    for (const auto& n : fine.neighbours) {
        Halo::Neighbour c{n.rank, {}, next, 0};
        for (const auto s : n.send) c.send.push_back(own[static_cast<std::size_t>(s)]);
        std::sort(c.send.begin(), c.send.end());
        c.send.erase(std::unique(c.send.begin(), c.send.end()), c.send.end());
        std::vector<std::int32_t> theirs;
        for (auto g = n.firstGhost; g < n.firstGhost + n.ghosts; ++g)
            theirs.push_back(static_cast<std::int32_t>(numbers[static_cast<std::size_t>(g)]));
        auto unique = theirs;
        std::sort(unique.begin(), unique.end());
        unique.erase(std::unique(unique.begin(), unique.end()), unique.end());
        for (std::size_t i = 0; i < theirs.size(); ++i)
            aggregate[static_cast<std::size_t>(n.firstGhost) + i] =
                next +
                static_cast<std::int32_t>(std::lower_bound(unique.begin(), unique.end(), theirs[i]) - unique.begin());
        c.ghosts = static_cast<std::int32_t>(unique.size());
        next += c.ghosts;
        out.neighbours.push_back(std::move(c));
    }
    return out;
}

std::size_t storedIn(const Halo& h, std::int32_t rows) {
    std::int32_t n = rows;
    for (const auto& x : h.neighbours) n = std::max(n, x.firstGhost + x.ghosts);
    return static_cast<std::size_t>(n);
}

}  // namespace cvane::flow
