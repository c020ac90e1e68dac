#include "panels/panel_integrals.h"

#include <cmath>
#include <numbers>

namespace cvane::panels {
namespace {
constexpr double kQuarterOfPi = 1.0 / (4.0 * std::numbers::pi);

struct Seen {
    std::array<Vec3, 3> r;       // from the place to the corners
    std::array<double, 3> d;     // their lengths
    std::array<double, 3> side;  // lengths of the edges from corner k to k + 1
};
Seen seen(const Vec3& p, const Triangle& t) {
    Seen s;
    for (std::size_t k = 0; k < 3; ++k) {
        s.r[k] = t[k] - p;
        s.d[k] = s.r[k].norm();
        s.side[k] = (t[(k + 1) % 3] - t[k]).norm();
    }
    return s;
}

// tan(Omega / 2) = r1 . (r2 x r3) / (d1 d2 d3 + (r1 . r2) d3 + (r2 . r3) d1 + (r3 . r1) d2), above 0 on the side of the
// normal.
double solidAngle(const Seen& s) {
    const double triple = s.r[0].dot(s.r[1].cross(s.r[2]));
    const double under = s.d[0] * s.d[1] * s.d[2] + s.r[0].dot(s.r[1]) * s.d[2] + s.r[1].dot(s.r[2]) * s.d[0] +
                         s.r[2].dot(s.r[0]) * s.d[1];
    // In the plane itself the sign of a rounding error would decide between one side and the other.
    const double scale = s.side[0] * s.side[1] * s.side[2];
    if (std::abs(triple) < 1e-13 * scale) return 0.0;
    return -2.0 * std::atan2(triple, under);
}

// Integral of 1 / distance along an edge.
double alongEdge(const Seen& s, std::size_t k) {
    const std::size_t n = (k + 1) % 3;
    const double sum = s.d[k] + s.d[n];
    return std::log((sum + s.side[k]) / std::max(sum - s.side[k], 1e-14 * s.side[k]));
}
}  // namespace

double doubletAt(const Vec3& p, const Triangle& t) {
    return kQuarterOfPi * solidAngle(seen(p, t));
}

Vec3 growingDoubletAt(const Vec3& p, const Triangle& t) {
    const Seen s = seen(p, t);
    const Vec3 n = (t[1] - t[0]).cross(t[2] - t[0]).normalized();
    // y - middle = (p - middle) + (y - p) in the plane, and integral of (y - p) height / r^3 = -height sum of outward
    // normals times integrals along the edges.
    const double height = -n.dot(s.r[0]);
    const Vec3 fromMiddle = -(s.r[0] + s.r[1] + s.r[2]) / 3.0;
    Vec3 sum = solidAngle(s) * (fromMiddle - n.dot(fromMiddle) * n);
    for (std::size_t k = 0; k < 3; ++k) sum -= height / s.side[k] * alongEdge(s, k) * (t[(k + 1) % 3] - t[k]).cross(n);
    return kQuarterOfPi * sum;
}

Potentials potentialsAt(const Vec3& p, const Triangle& t) {
    const Seen s = seen(p, t);
    const double omega = solidAngle(s);
    const Vec3 n = (t[1] - t[0]).cross(t[2] - t[0]).normalized();
    // Integral of 1 / r = sum of (distance to the edge in the plane) (integral along the edge) - height Omega.
    double sum = n.dot(s.r[0]) * omega;
    for (std::size_t k = 0; k < 3; ++k) {
        const Vec3 outward = (t[(k + 1) % 3] - t[k]).cross(n) / s.side[k];
        sum += outward.dot(s.r[k]) * alongEdge(s, k);
    }
    return {kQuarterOfPi * sum, kQuarterOfPi * omega};
}

Velocities velocitiesAt(const Vec3& p, const Triangle& t, double core) {
    const Seen s = seen(p, t);
    const Vec3 n = (t[1] - t[0]).cross(t[2] - t[0]).normalized();
    Velocities v;
    v.source = -solidAngle(s) * n;
    for (std::size_t k = 0; k < 3; ++k) {
        const std::size_t next = (k + 1) % 3;
        const Vec3 outward = (t[next] - t[k]).cross(n) / s.side[k];
        v.source -= alongEdge(s, k) * outward;
        // A ring of vortices on the edges (Katz and Plotkin, sect. 10.4.3).
        const Vec3 cross = s.r[k].cross(s.r[next]);
        const double product = s.d[k] * s.d[next];
        const double under = product * (product + s.r[k].dot(s.r[next])) + core * core * s.side[k] * s.side[k];
        if (under > 0.0) v.doublet -= (s.d[k] + s.d[next]) / under * cross;
    }
    v.source *= kQuarterOfPi;
    v.doublet *= kQuarterOfPi;
    return v;
}

}  // namespace cvane::panels
