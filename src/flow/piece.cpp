#include "flow/piece.h"

#include <algorithm>
#include <map>
#include <set>

namespace cvane::flow {

Piece cutPiece(const grid::Grid& g, const grid::Geometry& geo, const Ranks& ranks) {
    Piece p;
    const std::int64_t all = g.cells(), R = ranks.size();
    const auto startOf = [&](std::int64_t r) { return all * r / R; };
    const auto rankOf = [&](std::int64_t c) {
        auto r = std::min(R - 1, c * R / all);
        while (c < startOf(r)) --r;
        while (c >= startOf(r + 1)) ++r;
        return static_cast<int>(r);
    };
    const std::int64_t first = startOf(ranks.rank()), last = startOf(ranks.rank() + 1);
    p.firstCell = first;
    p.allCells = all;
    p.cells = static_cast<LocalCell>(last - first);
    const auto mine = [&](std::int64_t c) { return c >= first && c < last; };

    // Sorted sets give both ranks the same order of ghosts without a message.
    std::map<int, std::set<std::int64_t>> theirs, sent;
    for (std::size_t f = 0; f < g.neighbour.size(); ++f) {
        const std::int64_t a = g.owner[f], b = g.neighbour[f];
        if (mine(a) == mine(b)) continue;
        const auto own = mine(a) ? a : b, other = mine(a) ? b : a;
        theirs[rankOf(other)].insert(other);
        sent[rankOf(other)].insert(own);
    }
    std::map<std::int64_t, LocalCell> ghostOf;
    std::vector<std::int64_t> ghosts;
    for (const auto& [rank, cells] : theirs) {
        Halo::Neighbour n{rank, {}, p.cells + static_cast<LocalCell>(ghosts.size()), static_cast<LocalCell>(cells.size())};
        for (const auto c : sent[rank]) n.send.push_back(static_cast<std::int32_t>(c - first));
        for (const auto c : cells) {
            ghostOf[c] = p.cells + static_cast<LocalCell>(ghosts.size());
            ghosts.push_back(c);
        }
        p.halo.neighbours.push_back(std::move(n));
    }
    p.ghosts = static_cast<LocalCell>(ghosts.size());
    for (std::int64_t c = first; c < last; ++c) {
        p.x.push_back(geo.cellCentre[static_cast<std::size_t>(c)]);
        p.V.push_back(geo.volume[static_cast<std::size_t>(c)]);
        p.wallDistance.push_back(g.wallDistance[static_cast<std::size_t>(c)]);
    }
    for (const auto c : ghosts) {
        p.x.push_back(geo.cellCentre[static_cast<std::size_t>(c)]);
        p.V.push_back(geo.volume[static_cast<std::size_t>(c)]);
    }

    const auto add = [&](std::size_t f, LocalCell P, LocalCell N, bool reversed) {
        const Vec3 S = reversed ? (-geo.faceArea[f]).eval() : geo.faceArea[f];
        p.P.push_back(P);
        p.globalFace.push_back(static_cast<std::int64_t>(f));
        p.S.push_back(S);
        p.xf.push_back(geo.faceCentre[f]);
        p.area.push_back(S.norm());
        const Vec3 d = (N >= 0 ? p.x[static_cast<std::size_t>(N)] : geo.faceCentre[f]) - p.x[static_cast<std::size_t>(P)];
        // Over-relaxed split of S into a part along d and the rest, bounded where a face looks almost sideways.
        p.gap.push_back(p.area.back() * p.area.back() / std::max(S.dot(d), 0.05 * p.area.back() * d.norm() + 1e-300));
        if (N < 0) return;
        p.N.push_back(N);
        p.reversed.push_back(reversed);
        p.d.push_back(d);
        const double toP = std::abs((geo.faceCentre[f] - p.x[static_cast<std::size_t>(P)]).dot(S));
        const double toN = std::abs((p.x[static_cast<std::size_t>(N)] - geo.faceCentre[f]).dot(S));
        // Two ranks that share the face must find the same flux to the last bit, each from its own side. The larger weight
        // is at least a half, so one minus it is exact, and one minus that again.
        const double larger = toP + toN > 0.0 ? std::max(toP, toN) / (toP + toN) : 0.5;
        p.w.push_back(toN >= toP ? larger : 1.0 - larger);
    };
    for (std::size_t f = 0; f < g.neighbour.size(); ++f)
        if (mine(g.owner[f]) && mine(g.neighbour[f]))
            add(f, static_cast<LocalCell>(g.owner[f] - first), static_cast<LocalCell>(g.neighbour[f] - first), false);
    p.inner = p.P.size();
    for (std::size_t f = 0; f < g.neighbour.size(); ++f) {
        const std::int64_t a = g.owner[f], b = g.neighbour[f];
        if (mine(a) && !mine(b)) add(f, static_cast<LocalCell>(a - first), ghostOf[b], false);
        if (!mine(a) && mine(b)) add(f, static_cast<LocalCell>(b - first), ghostOf[a], true);
    }
    p.linked = p.P.size();
    for (std::size_t i = 0; i < g.patches.size(); ++i)
        for (auto f = g.patches[i].first; f < g.patches[i].first + g.patches[i].count; ++f) {
            const auto c = g.owner[static_cast<std::size_t>(f)];
            if (!mine(c)) continue;
            add(static_cast<std::size_t>(f), static_cast<LocalCell>(c - first), -1, false);
            p.patchOf.push_back(static_cast<std::int32_t>(i));
        }
    return p;
}

}  // namespace cvane::flow
