#pragma once
#include <Eigen/Dense>
#include <array>
#include <vector>

#include "section/potential/panelling.h"

namespace cvane::section {

/// Potential flow about a closed row of panels with vorticity, in a wind of speed 1 and chord 1: the stream function of
/// wind, vorticity and sources has one value on all nodes, so that the air inside is at rest and the vorticity is the
/// speed outside. Panels follow the outline: one that turns is cut into straight pieces, at whose ends the vorticity is
/// the cubic through the four nodes around. (Straight panels at 160 to a section miss a suction peak of Cp -5 by 0.2.)
///
/// Speeds are signed along the contour (upper side from the trailing edge, then the lower side), so that air that goes
/// from the nose to the tail has a negative speed on the upper side. Sources that stand for a boundary layer's mass
/// defect m = u delta* are constant on a panel, (M_(i+1) - M_i) / length, with M the defect signed like the speed; so
/// no place of the stagnation point enters. Behind a blunt base air leaves along the bisector with the speed of the
/// edges. The two edges' speeds leave alike (Kutta).
class PanelFlow {
  public:
    /// @param panels at least 20. Throws InputError: panels that make no flow (crossing, folded).
    explicit PanelFlow(const Panels& panels);

    const std::vector<Vec2>& nodes() const { return nodes_; }
    std::size_t count() const { return nodes_.size(); }
    /// Length along the panels to each node.
    const std::vector<double>& path() const { return path_; }
    double baseGap() const { return sharp_ ? 0.0 : (nodes_.front() - nodes_.back()).norm(); }
    /// Of the trailing edge, downstream.
    const Vec2& bisector() const { return bisector_; }

    /// Speeds at the nodes without a boundary layer: in a wind along x (first column) and along z (second).
    const Eigen::MatrixX2d& winds() const { return winds_; }
    Eigen::VectorXd speedAt(double alpha) const { return winds_ * Eigen::Vector2d(std::cos(alpha), std::sin(alpha)); }

    /// d speed / d M of the nodes.
    const Eigen::MatrixXd& fromOwnDefect() const { return fromDefect_; }
    /// Speeds at the nodes that wake sources of strength 1 on each of these pieces make, per column.
    Eigen::MatrixXd fromWakeSources(const std::vector<Vec2>& wake) const;

    /// Velocity at a place outside of the contour by the nodes' speeds and strengths of the panels' sources, in a wind.
    Vec2 velocityAt(const Vec2& place, const Eigen::VectorXd& speed, double alpha) const;
    /// The same as rows: velocity along `direction` at `place` = row . speeds + sourceRow . M + wind along it.
    void velocityRows(const Vec2& place, const Vec2& direction, Eigen::Ref<Eigen::RowVectorXd> bySpeed,
                      Eigen::Ref<Eigen::RowVectorXd> byDefect) const;

  private:
    /// A straight piece of a panel, and its ends' vorticity by the nodes'.
    struct Piece {
        Vec2 a, b;
        std::size_t panel;
        double share;  ///< of the panel's length
        std::array<Eigen::Index, 4> node;
        std::array<double, 4> atA, atB;
    };
    void cutPieces(const Panels& panels);

    std::vector<Piece> pieces_;
    std::vector<Vec2> nodes_;
    std::vector<double> path_;
    bool sharp_ = true;
    Vec2 bisector_;
    double gapSource_ = 0.0, gapVortex_ = 0.0;  ///< of the base, per speed of the edges
    Eigen::PartialPivLU<Eigen::MatrixXd> solve_;
    Eigen::MatrixX2d winds_;
    Eigen::MatrixXd fromDefect_;
};

/// Potential at `place` of a source of strength 1 along the piece a-b, and its velocity.
double sourcePotential(const Vec2& a, const Vec2& b, const Vec2& place);
Vec2 sourceVelocity(const Vec2& a, const Vec2& b, const Vec2& place);

/// The wake as the streamline from the trailing edge, `length` long, by steps that grow from `first`.
std::vector<Vec2> wakeLine(const PanelFlow& flow, double alpha, double first, double length, double growth);

}  // namespace cvane::section
