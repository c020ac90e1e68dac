#pragma once
#include <memory>
#include <vector>

#include "flow/ranks.h"
#include "flow/settings.h"
#include "flow/sparse.h"

namespace cvane::flow {

enum class Symmetry { Full, None };

/// Conjugate gradients with an aggregation multigrid for symmetric matrices of the pressure equation.
/// The aggregates (two rounds of pairing along the strongest couplings) are made once from a matrix of the same
/// pattern; afterwards only the coarse coefficients follow the fine ones. Coarse corrections are cycled twice
/// (W-cycle), since plain aggregation loses grip with depth otherwise. The smallest levels are gathered, and every rank
/// works on all of them.  Source: Y. Notay, Electron. Trans. Numer. Anal. 37 (2010), pairwise aggregation;
/// Polak-Ribiere form of conjugate gradients because Gauss-Seidel across ranks is not exactly symmetric. The cycles can
/// work on single-precision copies: they only guess at corrections, which the conjugate gradients weigh and whose
/// outcome they measure in double precision. Where the matrix is not symmetric, as in compressible flow, conjugate
/// residuals in their generalised form take their place, kept over some iterations (S. C. Eisenstat, H. C. Elman, M. H.
/// Schultz, SIAM J. Numer. Anal. 20, 1983): each iteration takes from the residual what its direction can.
class Multigrid {
  public:
    /// Collective. `sample`: coefficients that show which neighbours are strongly coupled.
    struct Kind {
        Precision precision = Precision::Double;
        Symmetry symmetry = Symmetry::Full;
    };
    Multigrid(const Sparse& sample, const Halo& halo, const Ranks& ranks, const Kind& kind);
    Multigrid(const Sparse& sample, const Halo& halo, const Ranks& ranks, Precision precision = Precision::Double)
        : Multigrid(sample, halo, ranks, Kind{precision, Symmetry::Full}) {}
    ~Multigrid();

    struct Outcome {
        int iterations;
        double reduction;  ///< final over first residual norm
    };
    /// Collective. Solves A x = b from the given x until the residual has fallen by `reduction` or `most` iterations.
    /// `singular`: A has no fixed value anywhere; the means of b and x are taken out.
    Outcome solve(const Sparse& A, const std::vector<double>& b, std::vector<double>& x, double reduction, int most,
                  bool singular);
    int levels() const;

  private:
    Outcome solveGeneral(const Sparse& A, const std::vector<double>& b, std::vector<double>& x, double reduction,
                         int most);
    class Cycle;
    template <class Real>
    class CycleIn;
    const Ranks& ranks_;
    Halo halo_;
    Symmetry symmetry_;
    std::unique_ptr<Cycle> cycle_;
};

}  // namespace cvane::flow
