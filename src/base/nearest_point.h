#pragma once
#include <nanoflann.hpp>
#include <vector>

#include "base/vec3.h"

namespace cvane::base {

/// Finds the nearest of many points, which have to live as long. At least one.
class NearestPoint {
  public:
    explicit NearestPoint(const std::vector<Vec3>& points) : points_{points}, tree_(3, points_) {}
    NearestPoint(const NearestPoint&) = delete;
    NearestPoint& operator=(const NearestPoint&) = delete;
    /// Number of the point nearest to x.
    std::size_t operator()(const Vec3& x) const {
        std::size_t near = 0;
        double squared = 0.0;
        tree_.knnSearch(x.data(), 1, &near, &squared);
        return near;
    }

  private:
    /// What nanoflann asks of a set of points.
    struct Points {
        const std::vector<Vec3>& x;
        std::size_t kdtree_get_point_count() const { return x.size(); }
        double kdtree_get_pt(std::size_t i, std::size_t axis) const { return x[i][static_cast<Eigen::Index>(axis)]; }
        template <class Box>
        bool kdtree_get_bbox(Box&) const {
            return false;
        }
    };
    Points points_;
    nanoflann::KDTreeSingleIndexAdaptor<nanoflann::L2_Simple_Adaptor<double, Points>, Points, 3, std::size_t> tree_;
};

}  // namespace cvane::base
