#include "grid/staircase.h"

#include <omp.h>

#include <algorithm>
#include <array>
#include <iterator>

namespace cvane::grid {
namespace {

/// Lattice positions to point numbers; open addressing, because this table is most of the time spent here.
class PointTable {
  public:
    explicit PointTable(std::size_t expected) {
        std::size_t n = 1024;
        while (n < 2 * expected) n *= 2;
        keys_.assign(n, kEmpty);
        values_.resize(n);
    }
    PointIndex find(std::uint64_t key) const {
        for (std::size_t i = slot(key);; i = (i + 1) & (keys_.size() - 1)) {
            if (keys_[i] == key) return values_[i];
            if (keys_[i] == kEmpty) return -1;
        }
    }
    /// Number of the key; a new one gets `next`. @return {number, was new}
    std::pair<PointIndex, bool> insert(std::uint64_t key, PointIndex next) {
        if (2 * (used_ + 1) > keys_.size()) grow();
        std::size_t i = slot(key);
        while (keys_[i] != kEmpty && keys_[i] != key) i = (i + 1) & (keys_.size() - 1);
        if (keys_[i] == key) return {values_[i], false};
        keys_[i] = key;
        values_[i] = next;
        ++used_;
        return {next, true};
    }

  private:
    static constexpr std::uint64_t kEmpty = ~0ull;
    std::size_t slot(std::uint64_t k) const { return (k * 0x9E3779B97F4A7C15ull >> 20) & (keys_.size() - 1); }
    void grow() {
        PointTable bigger(keys_.size());
        for (std::size_t i = 0; i < keys_.size(); ++i)
            if (keys_[i] != kEmpty) bigger.insert(keys_[i], values_[i]);
        *this = std::move(bigger);
    }
    std::vector<std::uint64_t> keys_;
    std::vector<PointIndex> values_;
    std::size_t used_ = 0;
};

// Corners of the six sides of the unit cube, right-handed about the outward normal.
constexpr int kCorner[6][4][3] = {
    {{0, 0, 0}, {0, 0, 1}, {0, 1, 1}, {0, 1, 0}}, {{1, 0, 0}, {1, 1, 0}, {1, 1, 1}, {1, 0, 1}},
    {{0, 0, 0}, {1, 0, 0}, {1, 0, 1}, {0, 0, 1}}, {{0, 1, 0}, {0, 1, 1}, {1, 1, 1}, {1, 1, 0}},
    {{0, 0, 0}, {0, 1, 0}, {1, 1, 0}, {1, 0, 0}}, {{0, 0, 1}, {1, 0, 1}, {1, 1, 1}, {0, 1, 1}}};

}  // namespace

std::vector<const FaceDraft*> Staircase::gapFaces() const {
    std::vector<const FaceDraft*> gap;
    for (const FaceDraft& f : faces)
        if (f.patch == kGap) gap.push_back(&f);
    return gap;
}

Staircase makeStaircase(const Octree& tree, const KeptCells& kept) {
    Staircase s;
    const int fine = tree.deepest();
    const Vec3 step = tree.cellSize(fine);
    PointTable table(2 * kept.leaves.size());
    const auto pointAt = [&](const Lattice& at) {
        const auto [i, fresh] = table.insert(pack(at), static_cast<PointIndex>(s.points.size()));
        if (fresh) {
            s.points.push_back(tree.origin() + step.cwiseProduct(Vec3(at[0], at[1], at[2])));
            std::uint8_t sides = 0;
            for (std::size_t k = 0; k < 3; ++k) {
                if (at[k] == 0) sides |= static_cast<std::uint8_t>(1u << (2 * k));
                if (at[k] == tree.roots()[k] << fine) sides |= static_cast<std::uint8_t>(1u << (2 * k + 1));
            }
            s.sidesOf.push_back(sides);
        }
        return i;
    };
    const auto sideOf = [&](std::int32_t l, int d) {
        const Octree::Node& n = tree.node(l);
        Lattice at = n.at;
        at[static_cast<std::size_t>(d / 2)] += d % 2 == 0 ? -1 : 1;
        return tree.findFrom(l, n.level, at);
    };
    const auto cornerAt = [&](const Octree::Node& n, int d, int k) {
        const int shift = fine - n.level;
        return Lattice{(n.at[0] + kCorner[d][k][0]) << shift, (n.at[1] + kCorner[d][k][1]) << shift,
                       (n.at[2] + kCorner[d][k][2]) << shift};
    };

    // All points first: a face takes in every point that lies in the middle of one of its edges.
    for (const auto l : kept.leaves) {
        const auto& n = tree.node(l);
        for (int d = 0; d < 2; ++d)
            for (int k = 0; k < 4; ++k) pointAt(cornerAt(n, d, k));
        for (int d = 0; d < 6; ++d) {
            const auto m = sideOf(l, d);
            if (m < 0 || tree.node(m).child < 0) continue;
            for (int c = 0; c < 8; ++c)
                if ((c >> (d / 2) & 1) == (d % 2 == 0 ? 1 : 0))
                    for (int k = 0; k < 4; ++k) pointAt(cornerAt(tree.node(tree.node(m).child + c), d ^ 1, k));
        }
    }

    // From here on the points stand, and parts of the cells are worked on at the same time, each into lists of its own.
    struct Part {
        std::vector<FaceDraft> faces;
        std::vector<std::array<PointIndex, 4>> gapCorners;
        std::vector<Staircase::Hanging> hanging;
    };
    const std::size_t count = kept.leaves.size(),
                      parts =
                          std::min<std::size_t>(4 * static_cast<std::size_t>(omp_get_max_threads()), count / 4096 + 1);
    std::vector<Part> made(parts);
    s.cellSize.resize(count);
    s.corners.resize(count);
    const auto halfWay = [&](const Lattice& a, const Lattice& b) {
        return table.find(pack({(a[0] + b[0]) / 2, (a[1] + b[1]) / 2, (a[2] + b[2]) / 2}));
    };
    const auto addFace = [&](Part& part, const Octree::Node& n, int d, bool reverse, CellIndex owner,
                             CellIndex neighbour, int patch) {
        FaceDraft f;
        f.owner = owner;
        f.neighbour = neighbour;
        f.patch = patch;
        std::array<PointIndex, 4> corners{};
        for (int k = 0; k < 4; ++k) {
            const Lattice a = cornerAt(n, d, k), b = cornerAt(n, d, (k + 1) % 4);
            corners[static_cast<std::size_t>(reverse ? 3 - k : k)] = table.find(pack(a));
            f.points.push_back(corners[static_cast<std::size_t>(reverse ? 3 - k : k)]);
            if (n.level < fine) {
                const auto mid = halfWay(a, b);
                if (mid >= 0) f.points.push_back(mid);
            }
        }
        if (patch == Staircase::kGap) part.gapCorners.push_back(corners);
        if (reverse) std::reverse(f.points.begin(), f.points.end());
        part.faces.push_back(std::move(f));
    };
    const auto addCell = [&](Part& part, std::size_t c) {
        const auto& n = tree.node(kept.leaves[c]);
        const auto own = static_cast<CellIndex>(c);
        s.cellSize[c] = tree.cellSize(n.level).minCoeff();
        const int shift = fine - n.level;
        const auto corner = [&](int i) {
            return Lattice{(n.at[0] + (i & 1)) << shift, (n.at[1] + (i >> 1 & 1)) << shift,
                           (n.at[2] + (i >> 2 & 1)) << shift};
        };
        auto& corners = s.corners[c];
        for (int i = 0; i < 8; ++i) corners[static_cast<std::size_t>(i)] = table.find(pack(corner(i)));
        if (n.level < fine)
            for (int i = 0; i < 8; ++i)
                for (int j : {i | 1, i | 2, i | 4, i ^ 3, i ^ 5, i ^ 6}) {
                    // Edges i -> j and the diagonals of sides, each once: hanging points are what lies half-way.
                    if (j <= i) continue;
                    const auto mid = halfWay(corner(i), corner(j));
                    if (mid >= 0)
                        part.hanging.push_back(
                            {mid, corners[static_cast<std::size_t>(i)], corners[static_cast<std::size_t>(j)]});
                }
        for (int d = 0; d < 6; ++d) {
            const auto m = sideOf(kept.leaves[c], d);
            if (m < 0) {
                addFace(part, n, d, false, own, -1, d);
            } else if (tree.node(m).child < 0) {
                const auto other = kept.cellOf[static_cast<std::size_t>(m)];
                if (other < 0)
                    addFace(part, n, d, false, own, -1, Staircase::kGap);
                else if (tree.node(m).level < n.level || own < other)
                    addFace(part, n, d, false, own, other, -1);
            } else {
                for (int k = 0; k < 8; ++k) {
                    if ((k >> (d / 2) & 1) != (d % 2 == 0 ? 1 : 0)) continue;
                    const auto child = tree.node(m).child + k;
                    if (kept.cellOf[static_cast<std::size_t>(child)] < 0)
                        addFace(part, tree.node(child), d ^ 1, true, own, -1, Staircase::kGap);
                }
            }
        }
    };
#pragma omp parallel for schedule(dynamic, 1)
    for (std::size_t k = 0; k < parts; ++k) {
        made[k].faces.reserve(7 * count / (2 * parts));  // three for a cell, and some for hanging ones and the gap
        for (std::size_t c = count * k / parts; c < count * (k + 1) / parts; ++c) addCell(made[k], c);
    }
    const auto takeAll = [&](auto& into, auto Part::*list) {
        std::size_t all = 0;
        for (const Part& part : made) all += (part.*list).size();
        into.reserve(all);
        for (Part& part : made) {
            into.insert(into.end(), std::make_move_iterator((part.*list).begin()),
                        std::make_move_iterator((part.*list).end()));
            (part.*list) = {};
        }
    };
    takeAll(s.faces, &Part::faces);
    takeAll(s.gapCorners, &Part::gapCorners);
    takeAll(s.hanging, &Part::hanging);
    return s;
}

}  // namespace cvane::grid
