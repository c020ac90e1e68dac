#pragma once
#include <cstdint>
#include <functional>
#include <span>
#include <vector>

#include "base/vec3.h"
#include "shape/surface.h"

namespace cvane::shape {

/// Bounding-box tree over triangles for nearest-point and overlap questions. Keeps its own copy of the corners.
class TriangleTree {
  public:
    TriangleTree() = default;
    explicit TriangleTree(const Surface& surface);
    /// Triangles given as corner triples; a segment is a triangle with a repeated corner.
    explicit TriangleTree(std::vector<std::array<Vec3, 3>> triangles);

    struct Nearest {
        Vec3 point = Vec3::Zero();
        double distance = 1e300;
        std::int32_t facet = -1;  ///< -1: none within the given distance
    };
    /// Nearest point of any triangle to p that is closer than `within` [m].
    /// @param guess  a facet that is likely to be the nearest, or -1: less of the tree is looked through; where several
    /// are equally near it is taken
    Nearest nearest(const Vec3& p, double within = 1e300, std::int32_t guess = -1) const;

    /// Whether any triangle is closer to p than that [m]; quicker than to look for the nearest.
    bool closerThan(const Vec3& p, double distance) const;

    /// Calls `visit` with each triangle whose bounding box meets the box.
    void forEachNear(const Box& box, const std::function<void(std::int32_t)>& visit) const;

    /// Generalised winding number: how often the surface closes around p, 1 inside and 0 outside of a closed surface
    /// whose normals face the air; in between near a hole. Distant facets count together, to about 0.03. Source: A.
    /// Jacobson et al., ACM Trans. Graph. 32(4), 2013; G. Barill et al., ACM Trans. Graph. 37(4), 2018.
    double winding(const Vec3& p) const;
    /// The same at many points; quick when they lie close together.
    void windings(std::span<const Vec3> points, std::span<double> out) const;

    bool empty() const { return corners_.empty(); }
    const std::array<Vec3, 3>& corners(std::int32_t facet) const {
        return corners_[static_cast<std::size_t>(place_[static_cast<std::size_t>(facet)])];
    }
    Box boxOf(std::int32_t facet) const;
    /// Half the cross product of two edges: area [m2] times the unit normal.
    Vec3 areaVector(std::int32_t facet) const {
        const auto& c = corners(facet);
        return 0.5 * (c[1] - c[0]).cross(c[2] - c[0]);
    }

  private:
    struct Node {
        Box box;
        std::int32_t first = 0, count = 0;  ///< leaf: into order_; inner: count 0, children first and first + 1
    };
    void build();
    std::vector<std::array<Vec3, 3>> corners_;  ///< in the order of the leaves, so that a leaf's lie together in memory
    std::vector<std::int32_t> order_;           ///< the facet of each of them
    std::vector<std::int32_t> place_;           ///< per facet: which of them it is
    std::vector<Node> nodes_;
    struct Moment {
        Vec3 centre, area;  ///< area-weighted middle; sum of area vectors
        double reach;       ///< from the centre to the farthest corner of the box
    };
    std::vector<Moment> moments_;  ///< per node
};

}  // namespace cvane::shape
