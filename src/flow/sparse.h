#pragma once
#include <cstdint>
#include <vector>

#include "flow/piece.h"

namespace cvane::flow {

/// A matrix with one row for each own cell and an entry for each face neighbour: row c reads
/// diag[c] x_c + sum_k val[k] x_col[k] for k in rowStart[c] .. rowStart[c + 1], col ascending in each row.
template <class Real>
struct SparseOf {
    std::int32_t rows = 0;
    std::vector<std::int32_t> rowStart, col;
    std::vector<std::int32_t> above;  ///< per row: the first k with col[k] > c, ghosts included
    std::vector<Real> diag, val;

    /// What entry k takes of x: val[k] x_col[k].
    template <class T>
    T term(std::int32_t k, const std::vector<T>& x) const {
        return val[static_cast<std::size_t>(k)] * x[static_cast<std::size_t>(col[static_cast<std::size_t>(k)])];
    }
    void findAbove();  ///< from rowStart and col

    void clear();
};
using Sparse = SparseOf<double>;

/// A sparse matrix over a piece, with the place of each face's two entries. Every entry belongs to one face: who fills
/// it from all faces need not clear it.
struct CellMatrix : Sparse {
    explicit CellMatrix(const Piece& piece);
    void clearDiagonal();
    std::vector<std::int32_t> atP;  ///< linked faces: entry (P, N)
    std::vector<std::int32_t> atN;  ///< inner faces: entry (N, P)
};

/// One Gauss-Seidel sweep for A x = b over the own rows, forward or backward; ghosts of x are read as they are.
template <class Real, class T>
void gaussSeidel(const SparseOf<Real>& A, const std::vector<T>& b, std::vector<T>& x, bool forward);

/// The forward sweep that begins with x = 0, ghosts too: sets the own entries of x, whatever they were.
template <class Real>
void gaussSeidelFromZero(const SparseOf<Real>& A, const std::vector<Real>& b, std::vector<Real>& x);

/// sum |b - A x| over the own rows, component sum for vectors. Local.
template <class T>
double residual(const Sparse& A, const std::vector<T>& b, const std::vector<T>& x);

}  // namespace cvane::flow
