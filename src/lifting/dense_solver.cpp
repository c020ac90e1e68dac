#include "lifting/dense_solver.h"

#include <cstddef>

#include "base/errors.h"
#include "section/coupled/dense.h"

extern "C" {
void dgetrf_(const int* m, const int* n, double* a, const int* lda, int* pivots, int* info);
void dgetrs_(const char* transposed, const int* n, const int* rhs, const double* a, const int* lda, const int* pivots,
             double* b, const int* ldb, int* info, std::size_t);
}

namespace cvane::lifting {
DenseSolver::DenseSolver(Eigen::MatrixXd A)
    : factors_(std::move(A)), pivots_(static_cast<std::size_t>(factors_.rows())) {
    section::onOneThread();
    const int n = static_cast<int>(factors_.rows());
    int info = 0;
    dgetrf_(&n, &n, factors_.data(), &n, pivots_.data(), &info);
    if (info != 0)
        throw base::InputError("panels lie upon each other, so that their circulation cannot be told apart.",
                               "the lifting surfaces", "Move surfaces that coincide apart, or take one out.");
}

Eigen::MatrixXd DenseSolver::solve(Eigen::MatrixXd b) const {
    const int n = static_cast<int>(factors_.rows()), columns = static_cast<int>(b.cols());
    int info = 0;
    dgetrs_("N", &n, &columns, factors_.data(), &n, pivots_.data(), b.data(), &n, &info, 1);
    return b;
}

}  // namespace cvane::lifting
