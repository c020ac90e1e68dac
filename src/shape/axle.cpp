#include "shape/axle.h"

#include <Eigen/Eigenvalues>
#include <algorithm>
#include <cmath>

#include "base/errors.h"

namespace cvane::shape {

Axle axleOf(const Surface& s, std::size_t part) {
    double area = 0.0;
    Vec3 mean = Vec3::Zero();
    Mat3 spread = Mat3::Zero();
    std::vector<std::size_t> own;
    for (std::size_t f = 0; f < s.facets.size(); ++f)
        if (s.partOf[f] == static_cast<std::int32_t>(part)) own.push_back(f);
    if (own.empty())
        throw base::InputError("has no surface, so no axle can be found.", s.parts[part].name, "Name another part.");
    // Second moments of the surface: a triangle counts with its three edge middles, which is exact for quadratics.
    const auto forEachMiddle = [&](auto&& visit) {
        for (const auto f : own)
            for (int k = 0; k < 3; ++k)
                visit(0.5 * (s.corner(f, k) + s.corner(f, (k + 1) % 3)), s.areaVector(f).norm() / 3.0);
    };
    forEachMiddle([&](const Vec3& x, double a) {
        area += a;
        mean += a * x;
    });
    mean /= area;
    forEachMiddle([&](const Vec3& x, double a) { spread += a * (x - mean) * (x - mean).transpose(); });
    const Eigen::SelfAdjointEigenSolver<Mat3> main(spread);
    const auto& v = main.eigenvalues();
    const int own_ = v[1] - v[0] > v[2] - v[1] ? 0 : 2;  // ascending: the lone one is the least or the most
    Axle out;
    out.axis = main.eigenvectors().col(own_).normalized();
    if (out.axis.y() < 0.0) out.axis = -out.axis;
    // The middle of the part's extent in three directions, not its centroid: spokes and cut-outs weigh nothing.
    for (int k = 0; k < 3; ++k) {
        const Vec3 e = main.eigenvectors().col(k);
        double low = 1e300, high = -1e300;
        for (const auto f : own)
            for (int c = 0; c < 3; ++c) {
                low = std::min(low, s.corner(f, c).dot(e));
                high = std::max(high, s.corner(f, c).dot(e));
            }
        out.centre += 0.5 * (low + high) * e;
    }
    for (const auto f : own)
        for (int c = 0; c < 3; ++c) {
            const Vec3 r = s.corner(f, c) - out.centre;
            out.radius = std::max(out.radius, (r - r.dot(out.axis) * out.axis).norm());
        }
    return out;
}

}  // namespace cvane::shape
