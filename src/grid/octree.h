#pragma once
#include <array>
#include <cstdint>
#include <functional>
#include <span>
#include <vector>

#include "base/vec3.h"
#include "shape/surface.h"
#include "shape/triangle_tree.h"

namespace cvane::grid {

using Lattice = std::array<std::int32_t, 3>;  ///< position counted in cells of some level

inline constexpr std::int64_t kMostAlong = (std::int64_t{1} << 21) - 1;  ///< cells along an axis that fit into pack
/// A position as one number, for tables; up to kMostAlong cells along each axis.
inline std::uint64_t pack(const Lattice& a) {
    return static_cast<std::uint64_t>(a[0]) | static_cast<std::uint64_t>(a[1]) << 21 |
           static_cast<std::uint64_t>(a[2]) << 42;
}

inline Lattice unpack(std::uint64_t k) {
    constexpr std::uint64_t m = (1u << 21) - 1;
    return {static_cast<std::int32_t>(k & m), static_cast<std::int32_t>(k >> 21 & m),
            static_cast<std::int32_t>(k >> 42 & m)};
}

/// An octree on a brick of root cells. Nodes that the surface crosses know the facets that cross them while they are
/// leaves; splitting hands the facets on to the children.
class Octree {
  public:
    struct Node {
        Lattice at{};             ///< counted in cells of its own level
        std::int32_t child = -1;  ///< first of eight (x fastest), -1 for a leaf
        std::uint8_t level = 0;
        bool cut = false;  ///< crossed by the surface
    };

    /// @param surface  kept by reference; lives as long as the octree
    Octree(const Box& box, const Lattice& roots, const shape::TriangleTree& surface);

    std::int32_t nodes() const { return static_cast<std::int32_t>(nodes_.size()); }
    std::int32_t leaves() const { return nodes() - static_cast<std::int32_t>(parents_.size()); }
    const Node& node(std::int32_t i) const { return nodes_[static_cast<std::size_t>(i)]; }
    /// Facets that cross a leaf.
    std::span<const std::int32_t> facetsIn(std::int32_t i) const {
        const Crossed& c = crossed_[static_cast<std::size_t>(i)];
        return {facets_.data() + c.first, c.count};
    }
    /// Throws InputError: more cells along an axis than fit into a position.
    void split(std::int32_t i);
    /// The same for many leaves, in their order; the facets are handed on by all threads.
    void splitAll(std::span<const std::int32_t> leaves);

    /// Deepest node of at most this level that covers the position; -1 outside the brick.
    std::int32_t find(int level, const Lattice& at) const;
    /// The same, found by climbing from a node of at most that level: quick where the two lie close together.
    std::int32_t findFrom(std::int32_t i, int level, const Lattice& at) const;
    /// The leaf that holds a place; -1 outside the brick.
    std::int32_t leafAt(const Vec3& place) const;
    /// Splits until a node of this level covers the position (no effect outside the brick).
    /// @param from  a node of at most that level, best one near the position
    /// @return the node there; -1 outside the brick
    std::int32_t ensure(std::int32_t from, int level, const Lattice& at);
    bool inside(int level, const Lattice& at) const;

    Box boxOf(const Node& n) const;
    /// The same, wider by a trifle: what lies in the plane between two cells meets both. With the last bit of a product
    /// to decide it, the two halves of a symmetric model got different cells.
    Box reachOf(const Node& n) const;
    Vec3 cellSize(int level) const { return rootSize_ / static_cast<double>(1 << level); }
    int deepest() const { return deepest_; }
    const Lattice& roots() const { return roots_; }
    const Vec3& origin() const { return origin_; }
    const shape::TriangleTree& surface() const { return *surface_; }
    /// Leaves on the other side of each of a leaf's sides, with the side's number 0..5 (x-, x+, y-, ...). The octree is
    /// balanced.
    template <class Visit>
    void forEachFaceNeighbour(std::int32_t leaf, Visit&& visit) const {
        const Node& n = node(leaf);
        for (int d = 0; d < 6; ++d) {
            const int axis = d / 2, high = d % 2 == 0 ? 1 : 0;
            Lattice at = n.at;
            at[static_cast<std::size_t>(axis)] += d % 2 == 0 ? -1 : 1;
            const auto m = findFrom(leaf, n.level, at);
            if (m < 0) continue;
            const auto child = node(m).child;
            if (child < 0) {
                visit(m, d);
                continue;
            }
            // The four children on the side that faces us; 2:1 balance makes them leaves.
            for (int c = 0; c < 8; ++c)
                if ((c >> axis & 1) == high) visit(child + c, d);
        }
    }
    /// The first of the eight cells that were split from one with this one; the cell itself where it is a root.
    std::int32_t firstBrother(std::int32_t i) const { return i < rootNodes() ? i : i - (i - rootNodes()) % 8; }
    /// The one that it was split from; -1 for a root.
    std::int32_t parent(std::int32_t i) const {
        return i < rootNodes() ? -1 : parents_[static_cast<std::size_t>((i - rootNodes()) / 8)];
    }
    std::vector<std::int32_t> leavesInOrder() const;  ///< along the Morton curve of each root

  private:
    static Node childOf(const Node& parent, int c);
    std::int32_t rootNodes() const { return roots_[0] * roots_[1] * roots_[2]; }
    std::int32_t rootAt(int level, const Lattice& at) const {
        return (at[0] >> level) + roots_[0] * ((at[1] >> level) + roots_[1] * (at[2] >> level));
    }
    /// From a node that is `steps` levels above `at` down to it, or to the leaf on the way.
    std::int32_t descend(std::int32_t i, int steps, const Lattice& at) const;

    Vec3 origin_, rootSize_;
    Lattice roots_;
    struct Crossed {
        std::size_t first = 0, count = 0;
    };
    const shape::TriangleTree* surface_;
    std::vector<Node> nodes_;
    std::vector<std::int32_t> parents_;  ///< of each eight brothers, in the order of their splitting
    std::vector<Crossed> crossed_;       ///< per node, into facets_
    std::vector<std::int32_t> facets_;   ///< only grows: what a split hands on stays behind
    int deepest_ = 0;
};

/// What the cells should be like; lengths in m.
struct Sizing {
    int surfaceLevel = 5;     ///< level of every cell that the surface crosses
    int extraLevels = 2;      ///< finer by up to so many levels where the surface turns
    double turnAngle = 0.35;  ///< [rad] half-angle of the cone of normals above which a cell is split
    int gapLevels = 0;  ///< finer by up to so many levels where the air between walls is narrower than kGapCells cells
    static constexpr double kGapCells = 5.0;
    int openingLevels = 0;      ///< finer by up to so many levels where it is narrower than kOpenCells cells and no
                                ///< narrower than narrowestGap
    double narrowestGap = 0.0;  ///< [m]
    static constexpr double kOpenCells = 4.0;
    struct Plane {
        int axis;
        double at;  ///< [m]
    };
    std::vector<Plane> planes;  ///< of the tunnel, that also bound gaps: ground, mirror plane
    int bufferCells = 3;        ///< cells of each level around the next finer ones
    struct Region {
        std::function<bool(const Box&)> meets;  ///< whether a cell reaches into the region
        int level;
    };
    std::vector<Region> regions;  ///< with a level of their own: wake, places that the user marks
    std::vector<int> moreOnPart;  ///< per part: levels finer than surfaceLevel; empty: none
    std::size_t mostNodes = 0;    ///< give up above so many (0: no limit)
};

/// For Sizing::Region: whether a cell overlaps the box.
inline std::function<bool(const Box&)> reachesInto(const Box& region) {
    return [region](const Box& cell) { return cell.overlaps(region); };
}

/// Refines by surface, curvature, regions and buffers, then balances 2:1 over faces, edges and corners.
/// @return false when it gave up.
bool refine(Octree& tree, const shape::Surface& surface, const Sizing& sizing);

/// Splits once the leaves that hold the places, and keeps buffers and balance. Beside a leaf that the surface crosses
/// it is that one which is split: next to the wall cells go along with the wall's.
/// @return false when it gave up.
bool refineAt(Octree& tree, const Sizing& sizing, std::span<const Vec3> places);

}  // namespace cvane::grid
