#pragma once
#include <span>
#include <vector>

#include "grid/wall_projection.h"
#include "shape/feature_curves.h"

namespace cvane::grid {

/// A feature curve measured by arc length.
class MeasuredCurve {
  public:
    explicit MeasuredCurve(const shape::FeatureCurve& curve);
    double length() const { return at_.back(); }
    Vec3 place(double along) const;    ///< `along` is clamped to the curve
    Vec3 tangent(double along) const;  ///< unit
    double nearest(const Vec3& p) const;
    MeasuredCurve part(double from, double to) const;

  private:
    std::size_t segment(double along) const;
    std::vector<Vec3> points_;
    std::vector<double> at_;
};

/// Which wall points lie on which curve of the model. A point on a curve slides along it; a fixed one is a corner.
struct CurvePaths {
    std::vector<MeasuredCurve> curves;
    std::vector<std::int32_t> curveOf;  ///< per wall point: index into curves, or -1
    std::vector<double> along;          ///< per wall point on a curve: arc length [m]
    std::vector<char> fixed;            ///< per wall point: stays where it is
    bool taken(std::size_t wallPoint) const { return fixed[wallPoint] || curveOf[wallPoint] >= 0; }
    double followed = 0.0,
           seen = 0.0;  ///< length of curves that grid edges follow, and of all that the air reaches [m]
};

/// Leads a chain of grid edges along each curve that the wall comes near, and puts its points on the curve. Curves that
/// lie hidden inside other parts, or are too short for a cell, are passed over.
/// @param wall  out: onWall of the points on curves
CurvePaths followCurves(const Staircase& stairs, const std::vector<shape::FeatureCurve>& curves,
                        const shape::TriangleTree& model, const Box& air, WallImage& wall);

}  // namespace cvane::grid
