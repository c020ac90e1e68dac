#pragma once
#include <Eigen/Dense>

namespace cvane {

/// A point or vector in the model frame: x aft, y to starboard, z up.
using Vec3 = Eigen::Vector3d;
using Mat3 = Eigen::Matrix3d;

/// Axis-aligned box; empty until a point has been added.
struct Box {
    Vec3 low = Vec3::Constant(1e300);
    Vec3 high = Vec3::Constant(-1e300);

    void add(const Vec3& p) {
        low = low.cwiseMin(p);
        high = high.cwiseMax(p);
    }
    void add(const Box& b) {
        low = low.cwiseMin(b.low);
        high = high.cwiseMax(b.high);
    }
    bool empty() const { return low.x() > high.x(); }
    Vec3 size() const { return empty() ? Vec3::Zero().eval() : (high - low).eval(); }
    Vec3 centre() const { return 0.5 * (low + high); }
    bool contains(const Vec3& p) const { return (p.array() >= low.array()).all() && (p.array() <= high.array()).all(); }
    bool overlaps(const Box& b) const {
        return (low.array() <= b.high.array()).all() && (b.low.array() <= high.array()).all();
    }
    /// Squared distance from p to the box; 0 inside.
    double distanceSquared(const Vec3& p) const {
        return (low - p).cwiseMax(p - high).cwiseMax(Vec3::Zero()).squaredNorm();
    }
};

}  // namespace cvane
