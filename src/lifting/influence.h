#pragma once
#include <array>
#include <cmath>
#include <vector>

#include "base/vec3.h"

namespace cvane::lifting {

/// Velocity that a straight vortex of strength 1 makes, seen at p from its beginning and at q from its end, by the law
/// of Biot and Savart [1/m times strength]; 0 on the line itself. Written so that a compiler takes several at once.
/// Source: J. Katz, A. Plotkin, Low-Speed Aerodynamics, 2001, sect. 2.11, with the angles put so that only the segment
/// itself is singular.
inline void ofArms(double px, double py, double pz, double qx, double qy, double qz, double& vx, double& vy,
                   double& vz) {
    constexpr double kOver4Pi = 0.07957747154594767;
    const double p = std::sqrt(px * px + py * py + pz * pz), q = std::sqrt(qx * qx + qy * qy + qz * qz), pq = p * q;
    const double cx = py * qz - pz * qy, cy = pz * qx - px * qz, cz = px * qy - py * qx;
    // 1 + the cosine between the arms; of arms that point apart by their product, for the sum would be rounding alone.
    const double dot = px * qx + py * qy + pz * qz, square = cx * cx + cy * cy + cz * cz;
    const double over = dot < 0.0 ? square : pq + dot, under = dot < 0.0 ? pq - dot : 1.0;
    // over / under is the sum; both are kept apart for one division instead of two.
    const bool apart = over > 1e-14 * pq * under;
    const double k = apart ? kOver4Pi * (p + q) * under / (pq * over) : 0.0;
    vx = k * cx, vy = k * cy, vz = k * cz;
}
/// The same from a to b at x.
inline Vec3 ofSegment(const Vec3& x, const Vec3& a, const Vec3& b) {
    Vec3 v;
    ofArms(x.x() - a.x(), x.y() - a.y(), x.z() - a.z(), x.x() - b.x(), x.y() - b.y(), x.z() - b.z(), v.x(), v.y(),
           v.z());
    return v;
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

/// Circulation along a filament. @param rings  of each ring
template <class Rings>
double strengthOf(const Filament& f, const Rings& rings) {
    return (f.with >= 0 ? rings[f.with] : 0.0) - (f.against >= 0 ? rings[f.against] : 0.0);
}
/// Of all of them: a row a filament, a column a flow. @param rings  a row a ring
Eigen::MatrixXd strengthsOf(const std::vector<Filament>& filaments, const Eigen::MatrixXd& rings);

/// What stands in for planes through which nothing flows, and for the air's elasticity.
struct Space {
    bool mirror = false;     ///< in y = 0 the flow is its own mirror image
    bool hasGround = false;  ///< nothing flows through z = ground
    double ground = 0.0;     ///< [m]
    double beta = 1.0;       ///< sqrt(1 - M^2) of Prandtl and Glauert, whose main stream runs along x
};

/// Velocities side by side, one a filament.
struct Velocities {
    Eigen::VectorXd x, y, z;
};

/// Filaments in their space, to be asked for the velocities that they make.
class VortexField {
  public:
    /// @param filaments  pieces first, rays after them
    VortexField(std::vector<Filament> filaments, const Space& space);
    const std::vector<Filament>& filaments() const { return filaments_; }
    std::size_t pieces() const { return ends_[0].size(); }  ///< how many are no rays
    /// Of each filament at strength 1, with its images [1/m times strength].
    void each(const Vec3& place, Velocities& out) const;
    /// As each(), summed for one flow, with vortices that have a core, so that wakes which come close to each other do
    /// not throw each other away. @param core  radius [m], over which a vortex turns as a solid body does
    Vec3 withCore(const Vec3& place, const Eigen::VectorXd& strengths, double core) const;
    /// Of all at many places, on all cores. @param strengths  a row a filament, a column a flow
    /// @return three rows a place, a column a flow
    Eigen::MatrixXd at(const std::vector<Vec3>& places, const Eigen::MatrixXd& strengths) const;

  private:
    /// Adds what the filaments make at a place, turned over in y or z (-1) where it is that of an image.
    void add(const Vec3& place, double signY, double signZ, Velocities& out) const;
    std::vector<Filament> filaments_;
    std::array<std::vector<double>, 6> ends_;  ///< of the pieces: x, y, z where each begins, and where it ends [m]
    std::vector<std::pair<Vec3, Vec3>> rays_;  ///< where each begins, and its unit direction
    Space space_;
};

}  // namespace cvane::lifting
