#include "flow/piece.h"

#include <algorithm>
#include <cmath>

#include "flow/piece_faces.h"

namespace cvane::flow {

int CellRuns::rankOf(std::int64_t cell) const {
    auto r = std::min(ranks - 1, cell * ranks / all);
    while (cell < startOf(r)) --r;
    while (cell >= startOf(r + 1)) ++r;
    return static_cast<int>(r);
}

std::map<std::int64_t, LocalCell> linkHalo(Piece& p, const std::map<int, std::set<std::int64_t>>& theirs,
                                           std::map<int, std::set<std::int64_t>>& sent) {
    std::map<std::int64_t, LocalCell> ghostOf;
    p.ghosts = 0;
    for (const auto& [rank, cells] : theirs) {
        Halo::Neighbour n{rank, {}, p.cells + p.ghosts, static_cast<LocalCell>(cells.size())};
        for (const auto c : sent[rank]) n.send.push_back(static_cast<std::int32_t>(c - p.firstCell));
        for (const auto c : cells) ghostOf[c] = p.cells + p.ghosts++;
        p.halo.neighbours.push_back(std::move(n));
    }
    return ghostOf;
}

void FaceList::add(std::int64_t face, const Vec3& asThere, const Vec3& centre, LocalCell P, LocalCell N,
                   bool reversed) {
    const Vec3 S = reversed ? (-asThere).eval() : asThere;
    p_.P.push_back(P);
    p_.globalFace.push_back(face);
    p_.S.push_back(S);
    p_.xf.push_back(centre);
    p_.area.push_back(S.norm());
    const Vec3 d = (N >= 0 ? p_.x[static_cast<std::size_t>(N)] : centre) - p_.x[static_cast<std::size_t>(P)];
    // Over-relaxed split of S into a part along d and the rest, bounded where a face looks almost sideways.
    p_.gap.push_back(p_.area.back() * p_.area.back() / std::max(S.dot(d), 0.05 * p_.area.back() * d.norm() + 1e-300));
    if (N < 0) return;
    p_.N.push_back(N);
    p_.reversed.push_back(reversed);
    p_.d.push_back(d);
    const double toP = std::abs((centre - p_.x[static_cast<std::size_t>(P)]).dot(S));
    const double toN = std::abs((p_.x[static_cast<std::size_t>(N)] - centre).dot(S));
    // Two ranks that share the face must find the same flux to the last bit, each from its own side. The larger
    // weight is at least a half, so one minus it is exact, and one minus that again.
    const double larger = toP + toN > 0.0 ? std::max(toP, toN) / (toP + toN) : 0.5;
    p_.w.push_back(toN >= toP ? larger : 1.0 - larger);
}

Piece cutPiece(const grid::Grid& g, const grid::Geometry& geo, int rank, int ranks) {
    const CellRuns runs{g.cells(), ranks};
    const std::int64_t first = runs.startOf(rank), last = runs.startOf(rank + 1);
    Piece p;
    p.firstCell = first;
    p.allCells = g.cells();
    p.allFaces = g.faces();
    p.patches = g.patches;
    p.lowest = 1e300;
    for (const Vec3& x : g.points) p.lowest = std::min(p.lowest, x.z());
    p.cells = static_cast<LocalCell>(last - first);
    const auto mine = [&](std::int64_t c) { return c >= first && c < last; };

    std::map<int, std::set<std::int64_t>> theirs, sent;
    for (std::size_t f = 0; f < g.neighbour.size(); ++f) {
        const std::int64_t a = g.owner[f], b = g.neighbour[f];
        if (mine(a) == mine(b)) continue;
        const auto own = mine(a) ? a : b, other = mine(a) ? b : a;
        theirs[runs.rankOf(other)].insert(other);
        sent[runs.rankOf(other)].insert(own);
    }
    const auto ghostOf = linkHalo(p, theirs, sent);
    p.x.resize(p.stored());
    p.V.resize(p.stored());
    const auto takeCell = [&](std::int64_t c, LocalCell to) {
        p.x[static_cast<std::size_t>(to)] = geo.cellCentre[static_cast<std::size_t>(c)];
        p.V[static_cast<std::size_t>(to)] = geo.volume[static_cast<std::size_t>(c)];
    };
    for (std::int64_t c = first; c < last; ++c) {
        takeCell(c, static_cast<LocalCell>(c - first));
        p.wallDistance.push_back(g.wallDistance[static_cast<std::size_t>(c)]);
    }
    for (const auto& [c, to] : ghostOf) takeCell(c, to);

    FaceList faces(p);
    const auto add = [&](std::size_t f, LocalCell P, LocalCell N, bool reversed) {
        faces.add(static_cast<std::int64_t>(f), geo.faceArea[f], geo.faceCentre[f], P, N, reversed);
    };
    const auto local = [&](std::int64_t c) { return static_cast<LocalCell>(c - first); };
    for (std::size_t f = 0; f < g.neighbour.size(); ++f)
        if (mine(g.owner[f]) && mine(g.neighbour[f])) add(f, local(g.owner[f]), local(g.neighbour[f]), false);
    p.inner = p.P.size();
    for (std::size_t f = 0; f < g.neighbour.size(); ++f) {
        const std::int64_t a = g.owner[f], b = g.neighbour[f];
        if (mine(a) && !mine(b)) add(f, local(a), ghostOf.at(b), false);
        if (!mine(a) && mine(b)) add(f, local(b), ghostOf.at(a), true);
    }
    p.linked = p.P.size();
    for (std::size_t i = 0; i < g.patches.size(); ++i)
        for (auto f = g.patches[i].first; f < g.patches[i].first + g.patches[i].count; ++f) {
            const auto c = g.owner[static_cast<std::size_t>(f)];
            if (!mine(c)) continue;
            add(static_cast<std::size_t>(f), local(c), -1, false);
            p.patchOf.push_back(static_cast<std::int32_t>(i));
        }
    return p;
}

}  // namespace cvane::flow
