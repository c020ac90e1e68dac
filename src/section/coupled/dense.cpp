#include "section/coupled/dense.h"

#include <cstddef>
#include <limits>
#include <vector>

extern "C" {
void dgetrf_(const int* m, const int* n, double* a, const int* lda, int* pivots, int* info);
void dgetrs_(const char* transposed, const int* n, const int* rhs, const double* a, const int* lda, const int* pivots,
             double* b, const int* ldb, int* info, std::size_t);
void openblas_set_num_threads(int threads);
}

namespace cvane::section {

void onOneThread() {
    static const bool alone = (openblas_set_num_threads(1), true);
    (void)alone;
}

Eigen::VectorXd solveDense(RowMatrix& A, const Eigen::VectorXd& b) {
    onOneThread();
    Eigen::VectorXd x = b;
    const int n = static_cast<int>(A.rows()), one = 1;
    int info = 0;
    std::vector<int> pivots(static_cast<std::size_t>(n));
    // By columns, as LAPACK reads it, it is A transposed.
    dgetrf_(&n, &n, A.data(), &n, pivots.data(), &info);
    if (info == 0) dgetrs_("T", &n, &one, A.data(), &n, pivots.data(), x.data(), &n, &info, 1);
    if (info != 0) x.setConstant(std::numeric_limits<double>::quiet_NaN());
    return x;
}

}  // namespace cvane::section
