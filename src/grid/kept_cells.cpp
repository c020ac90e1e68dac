#include "grid/kept_cells.h"

#include <algorithm>
#include <array>
#include <atomic>
#include <bit>
#include <numeric>
#include <tuple>

namespace cvane::grid {
namespace {

// A corner of the lattice has eight octants. The gap's surface is a manifold there when the kept octants hang together
// over faces, and the others too. For every pattern of kept octants: the fewest to give up so that it is.
struct OctantTable {
    std::array<std::uint8_t, 256> giveUp{};
    OctantTable() {
        std::array<bool, 256> fine{};
        for (unsigned m = 0; m < 256; ++m) fine[m] = connected(m) && connected(~m & 255u);
        for (unsigned m = 0; m < 256; ++m) {
            unsigned best = m;
            for (unsigned sub = m;; sub = (sub - 1) & m) {
                if (fine[m & ~sub] && std::popcount(sub) < std::popcount(best)) best = sub;
                if (sub == 0) break;
            }
            giveUp[m] = static_cast<std::uint8_t>(best);
        }
    }
    static bool connected(unsigned mask) {
        if (mask == 0) return true;
        unsigned seen = mask & (~mask + 1u);
        for (bool grew = true; grew;) {
            grew = false;
            for (unsigned o = 0; o < 8; ++o)
                if (seen >> o & 1u)
                    for (unsigned axis = 1; axis < 8; axis <<= 1) {
                        const unsigned bit = 1u << (o ^ axis);
                        if ((mask & bit) && !(seen & bit)) {
                            seen |= bit;
                            grew = true;
                        }
                    }
        }
        return seen == mask;
    }
};

template <class Visit>
void forEachLeaf(const Octree& tree, std::int32_t node, Visit&& visit) {
    if (node < 0) return;
    const auto child = tree.node(node).child;
    if (child < 0) {
        visit(node);
        return;
    }
    for (int c = 0; c < 8; ++c) forEachLeaf(tree, child + c, visit);
}

}  // namespace

std::vector<std::int32_t> reachedFromInlet(const Octree& tree, const std::function<bool(std::int32_t)>& open,
                                           std::vector<std::int32_t>* from) {
    std::vector<char> seen(static_cast<std::size_t>(tree.nodes()), 0);
    if (from) from->assign(seen.size(), -1);
    std::vector<std::int32_t> reached;
    for (std::int32_t i = 0; i < tree.nodes(); ++i)
        if (tree.node(i).child < 0 && tree.node(i).at[0] == 0 && open(i)) {
            seen[static_cast<std::size_t>(i)] = 1;
            reached.push_back(i);
        }
    if (from) {
        // In waves, so that the way is short.
        for (std::size_t k = 0; k < reached.size(); ++k) {
            const auto l = reached[k];
            tree.forEachFaceNeighbour(l, [&](std::int32_t m, int) {
                auto& mark = seen[static_cast<std::size_t>(m)];
                if (mark || !open(m)) return;
                mark = 1;
                (*from)[static_cast<std::size_t>(m)] = l;
                reached.push_back(m);
            });
        }
        return reached;
    }
    // Depth first, which stays near in memory; each thread begins at places of its own and goes as far as no other has
    // been.
    const auto starts = static_cast<std::ptrdiff_t>(reached.size());
#pragma omp parallel
    {
        std::vector<std::int32_t> next;
#pragma omp for schedule(dynamic, 16)
        for (std::ptrdiff_t k = 0; k < starts; ++k) {
            next.assign(1, reached[static_cast<std::size_t>(k)]);
            while (!next.empty()) {
                const auto l = next.back();
                next.pop_back();
                tree.forEachFaceNeighbour(l, [&](std::int32_t m, int) {
                    std::atomic_ref mark(seen[static_cast<std::size_t>(m)]);
                    if (mark.load(std::memory_order_relaxed) || !open(m) || mark.exchange(1, std::memory_order_relaxed))
                        return;
                    next.push_back(m);
                });
            }
        }
    }
    reached.clear();
    for (std::int32_t i = 0; i < tree.nodes(); ++i)
        if (seen[static_cast<std::size_t>(i)]) reached.push_back(i);
    return reached;
}

KeptCells keepCells(const Octree& tree, const shape::TriangleTree& surface, double clearance) {
    static const OctantTable table;
    const auto leaves = tree.leavesInOrder();
    const auto leafCount = static_cast<std::ptrdiff_t>(leaves.size());
    const auto N = static_cast<std::size_t>(tree.nodes());
    std::vector<char> kept(N, 0);
    for (const auto l : reachedFromInlet(tree, [&](std::int32_t i) { return !tree.node(i).cut; }))
        kept[static_cast<std::size_t>(l)] = 1;

    if (!surface.empty()) {
        // Only what lies next to a crossed cell can be too near.
        std::vector<char> near(N, 0);
#pragma omp parallel for schedule(dynamic, 512)
        for (std::ptrdiff_t i = 0; i < leafCount; ++i) {
            const auto l = leaves[static_cast<std::size_t>(i)];
            const Octree::Node& n = tree.node(l);
            if (!n.cut) continue;
            for (int dz = -1; dz <= 1; ++dz)
                for (int dy = -1; dy <= 1; ++dy)
                    for (int dx = -1; dx <= 1; ++dx)
                        forEachLeaf(
                            tree, tree.findFrom(l, n.level, {n.at[0] + dx, n.at[1] + dy, n.at[2] + dz}),
                            [&](std::int32_t m) {
                                std::atomic_ref(near[static_cast<std::size_t>(m)]).store(1, std::memory_order_relaxed);
                            });
        }
#pragma omp parallel for schedule(dynamic, 512)
        for (std::ptrdiff_t i = 0; i < leafCount; ++i) {
            const auto l = static_cast<std::size_t>(leaves[static_cast<std::size_t>(i)]);
            if (!kept[l] || !near[l]) continue;
            const Box b = tree.boxOf(tree.node(static_cast<std::int32_t>(l)));
            const Vec3 h = b.high - b.low;
            for (int c = 0; c < 8 && kept[l]; ++c)
                if (surface.closerThan(b.low + h.cwiseProduct(Vec3(c & 1, c >> 1 & 1, c >> 2 & 1)),
                                       clearance * h.minCoeff()))
                    kept[l] = 0;
        }
    }

    // Give up cells until every corner is a manifold and no cell is squeezed between two gaps; each pass only removes,
    // and looks only where the one before has.
    const int fine = tree.deepest();
    std::vector<char> isAtGap(leaves.size(), 0);
#pragma omp parallel for schedule(static)
    for (std::ptrdiff_t i = 0; i < leafCount; ++i) {
        const auto l = leaves[static_cast<std::size_t>(i)];
        if (!kept[static_cast<std::size_t>(l)]) continue;
        bool atGap = false;
        tree.forEachFaceNeighbour(l, [&](std::int32_t m, int) { atGap = atGap || !kept[static_cast<std::size_t>(m)]; });
        isAtGap[static_cast<std::size_t>(i)] = atGap;
    }
    std::vector<std::int32_t> open, next;
    for (std::size_t i = 0; i < leaves.size(); ++i)
        if (isAtGap[i]) open.push_back(leaves[i]);
    std::vector<char> queued(N, 0);
    const auto giveUp = [&](std::int32_t l) {
        kept[static_cast<std::size_t>(l)] = 0;
        const Octree::Node n = tree.node(l);
        for (int dz = -1; dz <= 1; ++dz)
            for (int dy = -1; dy <= 1; ++dy)
                for (int dx = -1; dx <= 1; ++dx)
                    forEachLeaf(tree, tree.findFrom(l, n.level, {n.at[0] + dx, n.at[1] + dy, n.at[2] + dz}),
                                [&](std::int32_t m) {
                                    if (!kept[static_cast<std::size_t>(m)] || queued[static_cast<std::size_t>(m)])
                                        return;
                                    queued[static_cast<std::size_t>(m)] = 1;
                                    next.push_back(m);
                                });
    };
    while (!open.empty()) {
        next.clear();
        for (const auto l : open) {
            queued[static_cast<std::size_t>(l)] = 0;
            if (!kept[static_cast<std::size_t>(l)]) continue;
            const Octree::Node& n = tree.node(l);
            unsigned bits = 0;
            tree.forEachFaceNeighbour(l, [&](std::int32_t m, int d) {
                if (!kept[static_cast<std::size_t>(m)]) bits |= 1u << d;
            });
            // Corners that meet a gap over an edge only are seen from the cells that have a gap side.
            if (bits == 0) continue;
            const bool squeezed = (bits & 3) == 3 || (bits & 12) == 12 || (bits & 48) == 48;
            if (squeezed || std::popcount(bits) > 3) {
                giveUp(l);
                continue;
            }
            const int shift = fine - n.level;
            for (int c = 0; c < 8 && kept[static_cast<std::size_t>(l)]; ++c) {
                const Lattice corner{(n.at[0] + (c & 1)) << shift, (n.at[1] + (c >> 1 & 1)) << shift,
                                     (n.at[2] + (c >> 2 & 1)) << shift};
                unsigned mask = 0;
                std::array<std::int32_t, 8> octant{};
                for (int o = 0; o < 8; ++o) {
                    Lattice at{corner[0] - 1 + (o & 1), corner[1] - 1 + (o >> 1 & 1), corner[2] - 1 + (o >> 2 & 1)};
                    // Beyond the tunnel's sides the grid is thought of as mirrored.
                    for (std::size_t k = 0; k < 3; ++k) at[k] = std::clamp(at[k], 0, (tree.roots()[k] << fine) - 1);
                    octant[static_cast<std::size_t>(o)] = tree.findFrom(l, fine, at);
                    if (kept[static_cast<std::size_t>(octant[static_cast<std::size_t>(o)])]) mask |= 1u << o;
                }
                const unsigned give = table.giveUp[mask];
                for (int o = 0; o < 8; ++o)
                    if ((give >> o & 1u) && kept[static_cast<std::size_t>(octant[static_cast<std::size_t>(o)])])
                        giveUp(octant[static_cast<std::size_t>(o)]);
            }
        }
        std::swap(open, next);
    }
    std::vector<char> reached(N, 0);
    for (const auto l : reachedFromInlet(tree, [&](std::int32_t i) { return kept[static_cast<std::size_t>(i)] != 0; }))
        reached[static_cast<std::size_t>(l)] = 1;

    KeptCells out;
    out.cellOf.assign(N, -1);
    for (const auto l : leaves)
        if (reached[static_cast<std::size_t>(l)]) {
            out.cellOf[static_cast<std::size_t>(l)] = static_cast<std::int32_t>(out.leaves.size());
            out.leaves.push_back(l);
        }
    const auto cells = static_cast<std::ptrdiff_t>(out.leaves.size());
    auto* ofLevel = out.gapFacesOfLevel.data();
    constexpr auto kLevels = std::tuple_size_v<decltype(out.gapFacesOfLevel)>;
#pragma omp parallel for schedule(static) reduction(+ : ofLevel[:kLevels])
    for (std::ptrdiff_t c = 0; c < cells; ++c) {
        const auto l = out.leaves[static_cast<std::size_t>(c)];
        tree.forEachFaceNeighbour(l, [&](std::int32_t m, int) {
            if (out.cellOf[static_cast<std::size_t>(m)] < 0)
                ++ofLevel[std::max(tree.node(l).level, tree.node(m).level)];
        });
    }
    out.gapFaces = std::accumulate(out.gapFacesOfLevel.begin(), out.gapFacesOfLevel.end(), out.gapFaces);
    return out;
}

}  // namespace cvane::grid
