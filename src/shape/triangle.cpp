#include "shape/triangle.h"

#include <algorithm>
#include <cmath>

namespace cvane::shape {

namespace {
Vec3 closestOnSegment(const Vec3& p, const Vec3& a, const Vec3& b) {
    const Vec3 ab = b - a;
    const double l2 = ab.squaredNorm();
    const double t = l2 > 0.0 ? std::clamp((p - a).dot(ab) / l2, 0.0, 1.0) : 0.0;
    return a + t * ab;
}
}  // namespace

Vec3 closestPointOnTriangle(const Vec3& p, const Vec3& a, const Vec3& b, const Vec3& c) {
    const Vec3 ab = b - a, ac = c - a;
    if (ab.cross(ac).squaredNorm() <= 1e-24 * ab.squaredNorm() * ac.squaredNorm()) {
        Vec3 best = closestOnSegment(p, a, b);
        for (const Vec3& q : {closestOnSegment(p, b, c), closestOnSegment(p, c, a)})
            if ((q - p).squaredNorm() < (best - p).squaredNorm()) best = q;
        return best;
    }
    const Vec3 ap = p - a;
    const double d1 = ab.dot(ap), d2 = ac.dot(ap);
    if (d1 <= 0.0 && d2 <= 0.0) return a;
    const Vec3 bp = p - b;
    const double d3 = ab.dot(bp), d4 = ac.dot(bp);
    if (d3 >= 0.0 && d4 <= d3) return b;
    const double vc = d1 * d4 - d3 * d2;
    if (vc <= 0.0 && d1 >= 0.0 && d3 <= 0.0) return a + d1 / (d1 - d3) * ab;
    const Vec3 cp = p - c;
    const double d5 = ab.dot(cp), d6 = ac.dot(cp);
    if (d6 >= 0.0 && d5 <= d6) return c;
    const double vb = d5 * d2 - d1 * d6;
    if (vb <= 0.0 && d2 >= 0.0 && d6 <= 0.0) return a + d2 / (d2 - d6) * ac;
    const double va = d3 * d6 - d5 * d4;
    if (va <= 0.0 && d4 - d3 >= 0.0 && d5 - d6 >= 0.0) return b + (d4 - d3) / ((d4 - d3) + (d5 - d6)) * (c - b);
    const double s = 1.0 / (va + vb + vc);
    return a + vb * s * ab + vc * s * ac;
}

bool overlaps(const Box& box, const Vec3& a, const Vec3& b, const Vec3& c) {
    const Vec3 m = box.centre(), h = 0.5 * (box.high - box.low);
    const Vec3 v[3] = {a - m, b - m, c - m};
    for (int k = 0; k < 3; ++k) {
        const auto [lo, hi] = std::minmax({v[0][k], v[1][k], v[2][k]});
        if (lo > h[k] || hi < -h[k]) return false;
    }
    const Vec3 e[3] = {v[1] - v[0], v[2] - v[1], v[0] - v[2]};
    const Vec3 n = e[0].cross(e[1]);
    if (std::abs(n.dot(v[0])) > n.cwiseAbs().dot(h)) return false;
    for (const Vec3& edge : e)
        for (int k = 0; k < 3; ++k) {
            const Vec3 axis = Vec3::Unit(k).cross(edge);
            const double p0 = axis.dot(v[0]), p1 = axis.dot(v[1]), p2 = axis.dot(v[2]);
            const double r = axis.cwiseAbs().dot(h);
            if (std::min({p0, p1, p2}) > r || std::max({p0, p1, p2}) < -r) return false;
        }
    return true;
}

bool pierces(const Vec3& p, const Vec3& q, const Vec3& a, const Vec3& b, const Vec3& c) {
    const Vec3 n = (b - a).cross(c - a);
    const double scale = n.norm() * (q - p).norm();
    if (!(scale > 0.0)) return false;
    const double dp = n.dot(p - a), dq = n.dot(q - a);
    if (!(dp * dq < 0.0)) return false;
    const Vec3 x = p + dp / (dp - dq) * (q - p);
    constexpr double tiny = 1e-9;
    const double n2 = n.squaredNorm();
    return n.dot((b - a).cross(x - a)) > tiny * n2 && n.dot((c - b).cross(x - b)) > tiny * n2 &&
           n.dot((a - c).cross(x - c)) > tiny * n2;
}

}  // namespace cvane::shape
