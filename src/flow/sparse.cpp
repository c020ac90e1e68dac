#include "flow/sparse.h"

#include <algorithm>
#include <cmath>

namespace cvane::flow {

template <class Real>
void SparseOf<Real>::clear() {
    std::fill(diag.begin(), diag.end(), Real(0));
    std::fill(val.begin(), val.end(), Real(0));
}

template <class Real>
void SparseOf<Real>::findAbove() {
    above.resize(static_cast<std::size_t>(rows));
    for (std::size_t i = 0; i < above.size(); ++i)
        above[i] = static_cast<std::int32_t>(
            std::upper_bound(col.begin() + rowStart[i], col.begin() + rowStart[i + 1], static_cast<std::int32_t>(i)) -
            col.begin());
}

template struct SparseOf<double>;
template struct SparseOf<float>;

CellMatrix::CellMatrix(const Piece& p) {
    rows = p.cells;
    struct Entry {
        std::int32_t row, column;
        std::int32_t* place;
    };
    atP.resize(p.linked);
    atN.resize(p.inner);
    std::vector<Entry> entries;
    entries.reserve(2 * p.linked);
    for (std::size_t f = 0; f < p.linked; ++f) {
        entries.push_back({p.P[f], p.N[f], &atP[f]});
        if (f < p.inner) entries.push_back({p.N[f], p.P[f], &atN[f]});
    }
    std::sort(entries.begin(), entries.end(),
              [](const Entry& a, const Entry& b) { return a.row != b.row ? a.row < b.row : a.column < b.column; });
    rowStart.assign(static_cast<std::size_t>(rows) + 1, 0);
    for (const Entry& e : entries) {
        *e.place = static_cast<std::int32_t>(col.size());
        col.push_back(e.column);
        ++rowStart[static_cast<std::size_t>(e.row) + 1];
    }
    for (std::size_t r = 0; r < static_cast<std::size_t>(rows); ++r) rowStart[r + 1] += rowStart[r];
    diag.assign(static_cast<std::size_t>(rows), 0.0);
    val.assign(col.size(), 0.0);
    findAbove();
}

void CellMatrix::clearDiagonal() {
    std::fill(diag.begin(), diag.end(), 0.0);
}

template <class Real, class T>
void gaussSeidel(const SparseOf<Real>& A, const std::vector<T>& b, std::vector<T>& x, bool forward) {
    // Each row waits for the one before it, mostly its neighbour: all that does not is taken first, and the division by
    // the diagonal too.
    const auto n = static_cast<std::size_t>(A.rows);
    if (forward)
        for (std::size_t i = 0; i < n; ++i) {
            const Real inverse = Real(1) / A.diag[i];
            T s = b[i];
            for (auto k = A.above[i]; k < A.rowStart[i + 1]; ++k) s -= A.term(k, x);
            for (auto k = A.rowStart[i]; k < A.above[i]; ++k) s -= A.term(k, x);
            x[i] = s * inverse;
        }
    else
        for (std::size_t i = n; i-- > 0;) {
            const Real inverse = Real(1) / A.diag[i];
            T s = b[i];
            for (auto k = A.rowStart[i]; k < A.above[i]; ++k) s -= A.term(k, x);
            for (auto k = A.rowStart[i + 1]; k-- > A.above[i];) s -= A.term(k, x);
            x[i] = s * inverse;
        }
}

template <class Real>
void gaussSeidelFromZero(const SparseOf<Real>& A, const std::vector<Real>& b, std::vector<Real>& x) {
    for (std::size_t i = 0; i < static_cast<std::size_t>(A.rows); ++i) {
        const Real inverse = Real(1) / A.diag[i];
        Real s = b[i];
        for (auto k = A.rowStart[i]; k < A.above[i]; ++k) s -= A.term(k, x);
        x[i] = s * inverse;
    }
}

namespace {
double size(double v) {
    return std::abs(v);
}
double size(const Vec3& v) {
    return v.cwiseAbs().sum();
}
}  // namespace

template <class T>
double residual(const Sparse& A, const std::vector<T>& b, const std::vector<T>& x) {
    double sum = 0.0;
    for (std::size_t i = 0; i < static_cast<std::size_t>(A.rows); ++i) {
        T s = b[i] - A.diag[i] * x[i];
        for (auto k = A.rowStart[i]; k < A.rowStart[i + 1]; ++k) s -= A.term(k, x);
        sum += size(s);
    }
    return sum;
}

template void gaussSeidel(const SparseOf<float>&, const std::vector<float>&, std::vector<float>&, bool);
template void gaussSeidel(const Sparse&, const std::vector<double>&, std::vector<double>&, bool);
template void gaussSeidel(const Sparse&, const std::vector<Vec3>&, std::vector<Vec3>&, bool);
template void gaussSeidelFromZero(const SparseOf<float>&, const std::vector<float>&, std::vector<float>&);
template void gaussSeidelFromZero(const Sparse&, const std::vector<double>&, std::vector<double>&);
template double residual(const Sparse&, const std::vector<double>&, const std::vector<double>&);
template double residual(const Sparse&, const std::vector<Vec3>&, const std::vector<Vec3>&);

}  // namespace cvane::flow
