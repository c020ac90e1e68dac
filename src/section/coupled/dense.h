#pragma once
#include <Eigen/Core>

namespace cvane::section {

using RowMatrix = Eigen::Matrix<double, Eigen::Dynamic, Eigen::Dynamic, Eigen::RowMajor>;

/// Lets LAPACK work on the calling thread alone, for the whole process: polars of a batch have a core each, and its own
/// threads would get in their way, or in each other's. Whoever calls LAPACK calls this first.
void onOneThread();

/// x of A x = b by LAPACK's LU with partial pivots, on the calling thread alone. A is overwritten. A singular A gives
/// values that are not finite.
Eigen::VectorXd solveDense(RowMatrix& A, const Eigen::VectorXd& b);

}  // namespace cvane::section
