#pragma once
#include <Eigen/Core>
#include <vector>

namespace cvane::section {

/// A point of a section [chords or m]: x aft, z up.
using Vec2 = Eigen::Vector2d;

/// Cubic curve through points, twice continuously differentiable, over the length of the straight pieces between them.
/// At its two ends the third derivative is continuous across the first inner point, so that nothing is assumed of the
/// ends' curvature. Source: C. de Boor, A Practical Guide to Splines, 1978, chapter IV.
class Spline {
  public:
    /// Throws InputError: fewer than three points, two that coincide.
    explicit Spline(std::vector<Vec2> points);

    double length() const { return s_.back(); }  ///< of the straight pieces
    const std::vector<double>& knots() const { return s_; }
    Vec2 at(double s) const;
    Vec2 slope(double s) const;  ///< d/ds
    Vec2 bend(double s) const;   ///< d2/ds2
    /// Positive where the curve turns to the left [1/length].
    double curvature(double s) const;
    /// Where the first derivative along `axis` is 0, between s0 and s1, of opposite slopes there; else the end that
    /// reaches further along the axis.
    double extreme(const Vec2& axis, double s0, double s1) const;

  private:
    std::size_t piece(double s) const;
    std::vector<Vec2> p_, m_;  ///< places and second derivatives at the knots
    std::vector<double> s_;
};

}  // namespace cvane::section
