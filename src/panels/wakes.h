#pragma once
#include <Eigen/Dense>

#include "air/free_stream.h"
#include "panels/influence.h"
#include "panels/surface_fit.h"

namespace cvane::panels {

/// An edge of two panels from which a wake leaves.
struct WakeEdge {
    Vec3 a, b;                         ///< [m]; the upper panel runs from a to b
    std::size_t upper = 0, lower = 0;  ///< panels on its two sides, one as good as the other
};

/// Edges at which the surface turns by more than `turn` [rad] and that the flow leaves on both of their sides.
/// @param direction  unit vector along which wakes leave
std::vector<WakeEdge> trailingEdges(const Panels& panels, const Vec3& direction, double turn);

/// Between which panels a wake runs through the surface, so that the potential jumps from one to the other.
std::function<bool(std::size_t, std::size_t)> wakesBetween(const Panels& panels, const std::vector<WakeEdge>& edges,
                                                           const Vec3& direction);

/// How long a wake is that has no end, in effect [m].
double wakeLength(const Panels& panels);
/// Triangles of a wake, upper side out [m].
std::array<Triangle, 2> wakeSheet(const WakeEdge& edge, const Vec3& direction, double length);

/// Straight wakes of doublets of one strength per edge, without an end. The strength is what the potential jumps by at
/// the edge, carried there from both panels by their gradients (condition of Kutta as of L. Morino and C.-C. Kuo, AIAA
/// J. 12(2), 1974).
class Wakes {
  public:
    /// @param fit  must outlive it
    Wakes(const Panels& panels, const BentPanels& bent, const SurfaceFit& fit, std::vector<WakeEdge> edges,
          const Vec3& direction, const Mirrors& mirrors);
    std::size_t size() const { return edges_.size(); }
    const std::vector<WakeEdge>& edges() const { return edges_; }
    /// Jumps of a potential at the edges [m2/s].
    Eigen::VectorXd jumps(const Eigen::VectorXd& potential) const;
    /// Potential of the wakes at the panels' middles, images included.
    Eigen::VectorXd of(const Eigen::VectorXd& jumps) const;
    /// What panel j adds to the potential at i by way of the wakes, among panels of a leaf.
    void addTo(Eigen::MatrixXd& block, const std::vector<std::size_t>& panels) const;

    /// In the plane far behind, across the wakes: drag and the force across [N], of what is modelled alone: of a half
    /// its own. Source: Katz and Plotkin, sect. 8.2.
    struct Far {
        double drag = 0.0;
        Vec3 force = Vec3::Zero();
    };
    Far farBehind(const Eigen::VectorXd& jumps, const air::FreeStream& wind) const;

  private:
    std::vector<WakeEdge> edges_;
    Vec3 direction_;
    std::vector<std::vector<std::pair<std::size_t, double>>> jump_;  ///< panels and their shares in each jump
    Eigen::MatrixXf at_;                                             ///< places x edges
    std::vector<std::function<Vec3(const Vec3&)>> views_;
};

}  // namespace cvane::panels
