#pragma once
#include <Eigen/Core>

namespace cvane::section {

using RowMatrix = Eigen::Matrix<double, Eigen::Dynamic, Eigen::Dynamic, Eigen::RowMajor>;

/// x of A x = b by LAPACK's LU with partial pivots, on the calling thread alone. A is overwritten. A singular A gives
/// values that are not finite.
Eigen::VectorXd solveDense(RowMatrix& A, const Eigen::VectorXd& b);

}  // namespace cvane::section
