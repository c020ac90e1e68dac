#include "shape/placement.h"

#include <cmath>

#include "base/units.h"

namespace cvane::shape {

Mat3 rotationMatrix(const Vec3& deg) {
    using Turn = Eigen::AngleAxisd;
    Mat3 R = (Turn(deg.z() * base::degree, Vec3::UnitZ()) * Turn(deg.y() * base::degree, Vec3::UnitY()) *
              Turn(deg.x() * base::degree, Vec3::UnitX()))
                 .toRotationMatrix();
    // Quarter turns must stay exact, or a flat side would come out tilted by rounding and cross one more layer of
    // cells.
    for (double& r : R.reshaped())
        if (std::abs(r - std::round(r)) < 1e-14) r = std::round(r);
    return R;
}

Surface placed(const Surface& s, const Placement& p) {
    Surface out = s;
    const Mat3 R = rotationMatrix(p.rotation_deg);
    for (Vec3& x : out.points) x = (R * x + p.shift).eval();
    return out;
}

Placement turned(const Placement& p, const Box& bounds, int axis, double degrees) {
    const Mat3 before = rotationMatrix(p.rotation_deg);
    const Mat3 after = Eigen::AngleAxisd(degrees * base::degree, Vec3::Unit(axis)).toRotationMatrix() * before;
    const Vec3 zyx = after.eulerAngles(2, 1, 0);
    Placement out;
    out.rotation_deg = Vec3(zyx[2], zyx[1], zyx[0]) / base::degree;
    for (double& d : out.rotation_deg)
        if (std::abs(d - std::round(d)) < 1e-9) d = std::round(d);
    const Vec3 middle = before * bounds.centre() + p.shift;
    out.shift = middle - rotationMatrix(out.rotation_deg) * bounds.centre();
    return out;
}

}  // namespace cvane::shape
