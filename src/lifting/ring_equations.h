#pragma once
#include <memory>

#include "lifting/dense_solver.h"
#include "lifting/influence.h"
#include "lifting/mirror_pairs.h"

namespace cvane::lifting {

/// What a flow does in the mirror plane y = 0: its own image, its image reversed, or neither.
enum class Parity { Even, Odd, Neither };

/// That nothing flows through the panels, in its factors, and what rings make at the bound filaments. A lattice whose
/// mirror image it is itself falls into two flows, an even and an odd one, each of half the unknowns: a quarter of the
/// work for the factors and half of it for the rest.
class RingEquations {
  public:
    /// @param bound  filaments on the surface;  @param middle  of these [m]
    /// @param pairs  of the panels and of the bound filaments; nothing: the lattice is not its own mirror image, or the
    /// space about it is not
    /// Throws InputError: panels lie upon each other.
    RingEquations(const VortexField& field, const std::vector<Vec3>& control, const std::vector<Vec3>& normal,
                  std::vector<Vec3> middle, std::optional<MirrorPairs> pairs);
    /// @param b  what the rings shall let through each panel, up [m/s], a column a flow
    /// @return circulations of the rings [m2/s]
    Eigen::MatrixXd solve(const Eigen::MatrixXd& b, const std::vector<Parity>& parity) const;
    /// What rings make at the bound filaments' middles: three rows each, a column a flow.
    Eigen::MatrixXd inducedBy(const Eigen::MatrixXd& circulation, const std::vector<Parity>& parity) const;

  private:
    void factorHalves(const std::vector<Vec3>& control, const std::vector<Vec3>& normal);
    Eigen::MatrixXd halvesOf(const Eigen::MatrixXd& b, Parity parity) const;
    Eigen::VectorXd wholeOf(const Eigen::VectorXd& half, Parity parity) const;
    const VortexField& field_;
    std::vector<Vec3> middle_;
    std::optional<MirrorPairs> pairs_;
    std::unique_ptr<const DenseSolver> whole_, even_, odd_;
};

}  // namespace cvane::lifting
