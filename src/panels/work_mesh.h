#pragma once
#include <set>
#include <vector>

#include "panels/curvature.h"
#include "shape/surface.h"

namespace cvane::panels {

/// A triangle surface that is changed edge by edge: each point knows its triangles. Feature edges are kept in step.
class WorkMesh {
  public:
    using Index = std::int32_t;
    struct Edge {
        Index a, b;
        bool operator<(const Edge& o) const { return a != o.a ? a < o.a : b < o.b; }
    };
    static Edge edge(Index a, Index b) { return a < b ? Edge{a, b} : Edge{b, a}; }

    /// @param metric  one per point;  @param feature  turn at which an edge is one [rad]
    WorkMesh(const shape::Surface& surface, std::vector<Metric> metric, double feature);

    std::vector<Vec3> points;
    std::vector<Metric> metric;  ///< per point
    const std::vector<Index>& trianglesOf(Index p) const { return around_[static_cast<std::size_t>(p)]; }
    const shape::Facet& triangle(Index t) const { return triangles_[static_cast<std::size_t>(t)]; }
    bool alive(Index t) const { return triangles_[static_cast<std::size_t>(t)][0] >= 0; }
    std::size_t triangles() const { return triangles_.size(); }
    std::size_t living() const { return living_; }
    Vec3 areaVector(Index t) const;
    Vec3 normalAt(Index p) const;           ///< unit
    double length(Index a, Index b) const;  ///< in the metric

    /// All edges, sorted.
    std::vector<Edge> edges() const;
    std::vector<Index> trianglesAt(Edge e) const;
    bool isFeature(Edge e) const { return features_.count(e) > 0; }
    /// Feature edges that meet in a point.
    std::vector<Edge> featuresOf(Index p) const;
    /// Where other than two feature edges meet, or two at an angle: stays where it is.
    bool isCorner(Index p) const;
    const std::set<Edge>& features() const { return features_; }

    void split(Edge e, const Vec3& place, const Metric& metric);
    /// Moves `gone` into `kept`. @return false, and nothing done: it would fold the surface or tear it.
    bool collapse(Index gone, Index kept, double longest);
    /// Two points of feature lines into one in their middle, which stays there: what lies between the lines becomes
    /// one.
    bool close(Index gone, Index kept, double longest);
    /// Whether a point was made by that, or lies between two that were.
    bool closed(Index p) const { return closed_[static_cast<std::size_t>(p)] != 0; }
    bool flip(Edge e);
    /// Moves a point unless a triangle would turn over.
    bool move(Index p, const Vec3& place);
    /// With the parts' names of the surface that it was made from.
    shape::Surface surface(const std::vector<shape::Part>& parts) const;

  private:
    double quality(const std::array<Vec3, 3>& corners, const Metric& m) const;
    bool join(Index gone, Index kept, const Vec3& place, double longest, bool careful);
    void drop(Index t);
    std::vector<shape::Facet> triangles_;  ///< first corner -1: gone
    std::vector<std::int32_t> partOf_;
    std::vector<std::vector<Index>> around_;
    std::vector<char> closed_;
    std::set<Edge> features_;
    std::size_t living_ = 0;
};

}  // namespace cvane::panels
