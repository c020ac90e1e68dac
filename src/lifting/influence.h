#pragma once
#include <cmath>
#include <vector>

#include "base/vec3.h"

namespace cvane::lifting {

/// Velocity that a straight vortex of strength 1 from a to b makes at x, by the law of Biot and Savart [1/m times
/// strength]; 0 on the line itself. Source: J. Katz, A. Plotkin, Low-Speed Aerodynamics, 2001, sect. 2.11, with the
/// angles put so that only the segment itself is singular.
inline Vec3 ofSegment(const Vec3& x, const Vec3& a, const Vec3& b) {
    constexpr double kOver4Pi = 0.07957747154594767;
    const double px = x.x() - a.x(), py = x.y() - a.y(), pz = x.z() - a.z();
    const double qx = x.x() - b.x(), qy = x.y() - b.y(), qz = x.z() - b.z();
    const double p = std::sqrt(px * px + py * py + pz * pz), q = std::sqrt(qx * qx + qy * qy + qz * qz), pq = p * q;
    const double cx = py * qz - pz * qy, cy = pz * qx - px * qz, cz = px * qy - py * qx;
    // 1 + the cosine between the arms; of arms that point apart by their product, for the sum would be rounding alone.
    const double dot = px * qx + py * qy + pz * qz;
    const double sum = dot < 0.0 ? (cx * cx + cy * cy + cz * cz) / (pq - dot) : pq + dot;
    const double k = sum > 1e-14 * pq ? kOver4Pi * (p + q) / (pq * sum) : 0.0;
    return {k * cx, k * cy, k * cz};
}

/// The same of a vortex that comes from a and runs along the unit vector d for ever.
inline Vec3 ofRay(const Vec3& x, const Vec3& a, const Vec3& d) {
    constexpr double kOver4Pi = 0.07957747154594767;
    const Vec3 r = x - a, c = d.cross(r);
    const double n = r.norm(), along = d.dot(r);
    const double rest = along > 0.0 ? c.squaredNorm() / (n + along) : n - along;
    return rest > 1e-14 * n ? Vec3(kOver4Pi / (n * rest) * c) : Vec3::Zero();
}

/// A straight piece of the vortex sheet.
struct Filament {
    Vec3 from, to;  ///< of a ray `to` is its unit direction
    bool ray = false;
    bool across = false;          ///< bound, along the span: it belongs to the panel `with` alone
    int with = -1, against = -1;  ///< rings whose circulation runs along it and against it; -1: none
};

/// What stands in for planes through which nothing flows, and for the air's elasticity.
struct Space {
    bool mirror = false;     ///< in y = 0 the flow is its own mirror image
    bool hasGround = false;  ///< nothing flows through z = ground
    double ground = 0.0;     ///< [m]
    double beta = 1.0;       ///< sqrt(1 - M^2) of Prandtl and Glauert, whose main stream runs along x
};

/// Filaments in their space, to be asked for the velocities that they make.
class VortexField {
  public:
    VortexField(std::vector<Filament> filaments, const Space& space);
    const std::vector<Filament>& filaments() const { return filaments_; }
    /// Of filament k at strength 1, with its images [1/m times strength].
    Vec3 of(std::size_t k, const Vec3& place) const;
    /// Of all at many places, on all cores. @param strengths  a row a filament, a column a flow (8 at most)
    /// @return three rows a place, a column a flow
    Eigen::MatrixXd at(const std::vector<Vec3>& places, const Eigen::MatrixXd& strengths) const;

  private:
    std::vector<Filament> filaments_, stretched_;
    Space space_;
};

}  // namespace cvane::lifting
