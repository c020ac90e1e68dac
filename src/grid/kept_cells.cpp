#include "grid/kept_cells.h"

#include <algorithm>
#include <array>
#include <bit>

namespace cvane::grid {
namespace {

// A corner of the lattice has eight octants. The gap's surface is a manifold there when the kept octants hang together over
// faces, and the others too. For every pattern of kept octants: the fewest to give up so that it is.
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

constexpr std::array<Lattice, 6> kSides{{{-1, 0, 0}, {1, 0, 0}, {0, -1, 0}, {0, 1, 0}, {0, 0, -1}, {0, 0, 1}}};

template <class Visit>
void forEachFaceNeighbour(const Octree& tree, std::int32_t leaf, Visit&& visit) {
    const Octree::Node& n = tree.node(leaf);
    for (int d = 0; d < 6; ++d) {
        const Lattice at{n.at[0] + kSides[static_cast<std::size_t>(d)][0], n.at[1] + kSides[static_cast<std::size_t>(d)][1],
                         n.at[2] + kSides[static_cast<std::size_t>(d)][2]};
        const auto m = tree.find(n.level, at);
        if (m < 0) continue;
        if (tree.node(m).child < 0) {
            visit(m, d);
            continue;
        }
        // The four children on the side that faces us; 2:1 balance makes them leaves.
        const int axis = d / 2, high = d % 2 == 0 ? 1 : 0;
        for (int c = 0; c < 8; ++c)
            if ((c >> axis & 1) == high) visit(tree.node(m).child + c, d);
    }
}

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

KeptCells keepCells(const Octree& tree, const shape::TriangleTree& surface, double clearance) {
    static const OctantTable table;
    const auto leaves = tree.leavesInOrder();
    const auto N = static_cast<std::size_t>(tree.nodes());
    std::vector<char> kept(N, 0);

    const auto floodFromInlet = [&](auto&& open) {
        std::vector<char> reached(N, 0);
        std::vector<std::int32_t> stack;
        for (const auto l : leaves)
            if (tree.node(l).at[0] == 0 && open(l)) {
                reached[static_cast<std::size_t>(l)] = 1;
                stack.push_back(l);
            }
        while (!stack.empty()) {
            const auto l = stack.back();
            stack.pop_back();
            forEachFaceNeighbour(tree, l, [&](std::int32_t m, int) {
                if (!reached[static_cast<std::size_t>(m)] && open(m)) {
                    reached[static_cast<std::size_t>(m)] = 1;
                    stack.push_back(m);
                }
            });
        }
        return reached;
    };
    kept = floodFromInlet([&](std::int32_t l) { return !tree.node(l).cut; });

    if (!surface.empty()) {
        // Only what lies next to a crossed cell can be too near.
        std::vector<char> near(N, 0);
        for (const auto l : leaves) {
            const Octree::Node& n = tree.node(l);
            if (!n.cut) continue;
            for (int dz = -1; dz <= 1; ++dz)
                for (int dy = -1; dy <= 1; ++dy)
                    for (int dx = -1; dx <= 1; ++dx)
                        forEachLeaf(tree, tree.find(n.level, {n.at[0] + dx, n.at[1] + dy, n.at[2] + dz}), [&](std::int32_t m) { near[static_cast<std::size_t>(m)] = 1; });
        }
        const auto count = static_cast<std::ptrdiff_t>(leaves.size());
#pragma omp parallel for schedule(dynamic, 512)
        for (std::ptrdiff_t i = 0; i < count; ++i) {
            const auto l = static_cast<std::size_t>(leaves[static_cast<std::size_t>(i)]);
            if (!kept[l] || !near[l]) continue;
            const Box b = tree.boxOf(tree.node(static_cast<std::int32_t>(l)));
            const Vec3 h = b.high - b.low;
            for (int c = 0; c < 8 && kept[l]; ++c)
                if (surface.nearest(b.low + h.cwiseProduct(Vec3(c & 1, c >> 1 & 1, c >> 2 & 1)), clearance * h.minCoeff()).facet >= 0) kept[l] = 0;
        }
    }

    // Give up cells until every corner is a manifold and no cell is squeezed between two gaps; each pass only removes, and
    // looks only where the one before has.
    const int fine = tree.deepest();
    std::vector<std::int32_t> open, next;
    for (const auto l : leaves)
        if (kept[static_cast<std::size_t>(l)]) {
            bool atGap = false;
            forEachFaceNeighbour(tree, l, [&](std::int32_t m, int) { atGap = atGap || !kept[static_cast<std::size_t>(m)]; });
            if (atGap) open.push_back(l);
        }
    std::vector<char> queued(N, 0);
    const auto giveUp = [&](std::int32_t l) {
        kept[static_cast<std::size_t>(l)] = 0;
        const Octree::Node n = tree.node(l);
        for (int dz = -1; dz <= 1; ++dz)
            for (int dy = -1; dy <= 1; ++dy)
                for (int dx = -1; dx <= 1; ++dx)
                    forEachLeaf(tree, tree.find(n.level, {n.at[0] + dx, n.at[1] + dy, n.at[2] + dz}), [&](std::int32_t m) {
                        if (!kept[static_cast<std::size_t>(m)] || queued[static_cast<std::size_t>(m)]) return;
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
            forEachFaceNeighbour(tree, l, [&](std::int32_t m, int d) {
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
                const Lattice corner{(n.at[0] + (c & 1)) << shift, (n.at[1] + (c >> 1 & 1)) << shift, (n.at[2] + (c >> 2 & 1)) << shift};
                unsigned mask = 0;
                std::array<std::int32_t, 8> octant{};
                for (int o = 0; o < 8; ++o) {
                    Lattice at{corner[0] - 1 + (o & 1), corner[1] - 1 + (o >> 1 & 1), corner[2] - 1 + (o >> 2 & 1)};
                    // Beyond the tunnel's sides the grid is thought of as mirrored.
                    for (std::size_t k = 0; k < 3; ++k) at[k] = std::clamp(at[k], 0, (tree.roots()[k] << fine) - 1);
                    octant[static_cast<std::size_t>(o)] = tree.find(fine, at);
                    if (kept[static_cast<std::size_t>(octant[static_cast<std::size_t>(o)])]) mask |= 1u << o;
                }
                const unsigned give = table.giveUp[mask];
                for (int o = 0; o < 8; ++o)
                    if ((give >> o & 1u) && kept[static_cast<std::size_t>(octant[static_cast<std::size_t>(o)])]) giveUp(octant[static_cast<std::size_t>(o)]);
            }
        }
        std::swap(open, next);
    }
    const auto reached = floodFromInlet([&](std::int32_t l) { return kept[static_cast<std::size_t>(l)] != 0; });

    KeptCells out;
    out.cellOf.assign(N, -1);
    for (const auto l : leaves)
        if (reached[static_cast<std::size_t>(l)]) {
            out.cellOf[static_cast<std::size_t>(l)] = static_cast<std::int32_t>(out.leaves.size());
            out.leaves.push_back(l);
        }
    for (const auto l : out.leaves)
        forEachFaceNeighbour(tree, l, [&](std::int32_t m, int) {
            if (out.cellOf[static_cast<std::size_t>(m)] >= 0) return;
            ++out.gapFaces;
            ++out.gapFacesOfLevel[std::max(tree.node(l).level, tree.node(m).level)];
        });
    return out;
}

}  // namespace cvane::grid
