#pragma once
#include <Eigen/Dense>
#include <functional>

namespace cvane::panels {

using Operator = std::function<Eigen::VectorXd(const Eigen::VectorXd&)>;

struct Solved {
    Eigen::VectorXd x;
    int iterations = 0;
    double residual = 0.0;  ///< of the right side
};

/// Generalised minimal residuals, preconditioned from the right. Source: Y. Saad and M. H. Schultz, SIAM J. Sci. Stat.
/// Comput. 7(3), 1986. Eigen's unsupported one can be neither watched nor cancelled.
/// @param going  told the residual; false ends it where it is
Solved solveByGmres(const Operator& apply, const Operator& precondition, const Eigen::VectorXd& right, double tolerance,
                    int most, const std::function<bool(int, double)>& going = {});

}  // namespace cvane::panels
