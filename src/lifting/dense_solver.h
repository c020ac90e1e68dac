#pragma once
#include <Eigen/Core>
#include <vector>

namespace cvane::lifting {

/// A full matrix in its factors.
class DenseSolver {
  public:
    /// Throws InputError: it has no inverse.
    explicit DenseSolver(Eigen::MatrixXd A);
    Eigen::MatrixXd solve(Eigen::MatrixXd b) const;

  private:
    Eigen::MatrixXd factors_;
    std::vector<int> pivots_;
};

}  // namespace cvane::lifting
