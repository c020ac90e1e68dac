#include "flow/piece.h"

#include <algorithm>
#include <array>
#include <map>
#include <set>

namespace cvane::flow {

Piece cutPiece(const grid::Grid& g, const grid::Geometry& geo, int rank, int ranks) {
    Piece p;
    const std::int64_t all = g.cells(), R = ranks;
    const auto startOf = [&](std::int64_t r) { return all * r / R; };
    const auto rankOf = [&](std::int64_t c) {
        auto r = std::min(R - 1, c * R / all);
        while (c < startOf(r)) --r;
        while (c >= startOf(r + 1)) ++r;
        return static_cast<int>(r);
    };
    const std::int64_t first = startOf(rank), last = startOf(rank + 1);
    p.firstCell = first;
    p.allCells = all;
    p.allFaces = g.faces();
    p.patches = g.patches;
    p.lowest = 1e300;
    for (const Vec3& x : g.points) p.lowest = std::min(p.lowest, x.z());
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
        Halo::Neighbour n{
            rank, {}, p.cells + static_cast<LocalCell>(ghosts.size()), static_cast<LocalCell>(cells.size())};
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

    std::size_t linked = 0, boundary = 0;
    for (std::size_t f = 0; f < g.owner.size(); ++f) {
        if (f >= g.neighbour.size())
            boundary += mine(g.owner[f]);
        else
            linked += mine(g.owner[f]) || mine(g.neighbour[f]);
    }
    const auto reserve = [](std::size_t n, auto&... lists) { (lists.reserve(n), ...); };
    reserve(linked + boundary, p.P, p.globalFace, p.S, p.xf, p.area, p.gap);
    reserve(linked, p.N, p.reversed, p.d, p.w);

    const auto add = [&](std::size_t f, LocalCell P, LocalCell N, bool reversed) {
        const Vec3 S = reversed ? (-geo.faceArea[f]).eval() : geo.faceArea[f];
        p.P.push_back(P);
        p.globalFace.push_back(static_cast<std::int64_t>(f));
        p.S.push_back(S);
        p.xf.push_back(geo.faceCentre[f]);
        p.area.push_back(S.norm());
        const Vec3 d =
            (N >= 0 ? p.x[static_cast<std::size_t>(N)] : geo.faceCentre[f]) - p.x[static_cast<std::size_t>(P)];
        // Over-relaxed split of S into a part along d and the rest, bounded where a face looks almost sideways.
        p.gap.push_back(p.area.back() * p.area.back() / std::max(S.dot(d), 0.05 * p.area.back() * d.norm() + 1e-300));
        if (N < 0) return;
        p.N.push_back(N);
        p.reversed.push_back(reversed);
        p.d.push_back(d);
        const double toP = std::abs((geo.faceCentre[f] - p.x[static_cast<std::size_t>(P)]).dot(S));
        const double toN = std::abs((p.x[static_cast<std::size_t>(N)] - geo.faceCentre[f]).dot(S));
        // Two ranks that share the face must find the same flux to the last bit, each from its own side. The larger
        // weight is at least a half, so one minus it is exact, and one minus that again.
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

namespace {
// The lists of a piece that are plain numbers, one after the other.
template <class Visit>
void eachList(Piece& p, Visit&& visit) {
    const auto all = [&](auto&... lists) { (visit(lists), ...); };
    all(p.P, p.N, p.reversed, p.globalFace, p.patchOf, p.S, p.xf, p.area, p.w, p.gap, p.d, p.x, p.V, p.wallDistance);
}
struct Header {
    LocalCell cells, ghosts;
    std::int64_t firstCell, allCells, allFaces;
    std::size_t inner, linked, patches, neighbours;
    double lowest;
};
struct Sender {
    const Ranks& ranks;
    int to;
    template <class T>
    void one(const T& v) const {
        ranks.send(to, std::as_bytes(std::span(&v, 1)));
    }
    template <class List>
    void operator()(const List& v) const {
        one(v.size());
        ranks.send(to, std::as_bytes(std::span(v)));
    }
};
struct Receiver {
    const Ranks& ranks;
    template <class T>
    void one(T& v) const {
        ranks.receive(0, std::as_writable_bytes(std::span(&v, 1)));
    }
    template <class List>
    void operator()(List& v) const {
        std::size_t n = 0;
        one(n);
        v.resize(n);
        ranks.receive(0, std::as_writable_bytes(std::span(v)));
    }
};

void sendPiece(Piece& p, const Sender& send) {
    send.one(Header{p.cells, p.ghosts, p.firstCell, p.allCells, p.allFaces, p.inner, p.linked, p.patches.size(),
                    p.halo.neighbours.size(), p.lowest});
    for (const grid::Patch& patch : p.patches) {
        send(patch.name);
        const std::array<std::int32_t, 5> numbers{static_cast<std::int32_t>(patch.kind), patch.part, patch.side,
                                                  patch.first, patch.count};
        send.one(numbers);
    }
    for (const auto& n : p.halo.neighbours) {
        send(n.send);
        send.one(std::array<std::int32_t, 3>{n.rank, n.firstGhost, n.ghosts});
    }
    eachList(p, send);
}

Piece receivePiece(const Receiver& receive) {
    Piece p;
    Header h{};
    receive.one(h);
    p.cells = h.cells;
    p.ghosts = h.ghosts;
    p.firstCell = h.firstCell;
    p.allCells = h.allCells;
    p.allFaces = h.allFaces;
    p.inner = h.inner;
    p.linked = h.linked;
    p.lowest = h.lowest;
    p.patches.resize(h.patches);
    for (grid::Patch& patch : p.patches) {
        receive(patch.name);
        std::array<std::int32_t, 5> numbers{};
        receive.one(numbers);
        patch.kind = static_cast<grid::PatchKind>(numbers[0]);
        patch.part = numbers[1];
        patch.side = numbers[2];
        patch.first = numbers[3];
        patch.count = numbers[4];
    }
    p.halo.neighbours.resize(h.neighbours);
    for (auto& n : p.halo.neighbours) {
        receive(n.send);
        std::array<std::int32_t, 3> numbers{};
        receive.one(numbers);
        n.rank = numbers[0];
        n.firstGhost = numbers[1];
        n.ghosts = numbers[2];
    }
    eachList(p, receive);
    return p;
}
}  // namespace

Piece handOut(const grid::Grid* g, const grid::Geometry* geo, const Ranks& ranks) {
    if (ranks.rank() != 0) return receivePiece({ranks});
    for (int r = 1; r < ranks.size(); ++r) {
        Piece p = cutPiece(*g, *geo, r, ranks.size());
        sendPiece(p, {ranks, r});
    }
    return cutPiece(*g, *geo, 0, ranks.size());
}

}  // namespace cvane::flow
