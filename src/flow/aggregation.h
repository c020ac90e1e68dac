#pragma once
#include <cstdint>
#include <vector>

#include "flow/ranks.h"
#include "flow/sparse.h"

namespace cvane::flow {

/// Pairs each row with its strongest unpaired neighbour of the same rank; a row whose strong neighbours are all taken
/// joins the pair of the strongest, so that no round leaves many single rows behind. Local.
/// @param aggregate  out: one a row, its aggregate
/// @return number of aggregates
std::int32_t pairRows(const Sparse& A, std::vector<std::int32_t>& aggregate);

/// Pattern of the next level's matrix. Local.
/// @param target  out: the place to which each fine entry is added; -1 - I: the diagonal of row I
Sparse coarsePattern(const Sparse& A, const std::vector<std::int32_t>& aggregate, std::int32_t rows,
                     std::vector<std::int32_t>& target);

/// Values of the next level's matrix: the sums of the fine entries between two aggregates (Galerkin's product for
/// pieces of constant correction). Local.
void galerkin(const Sparse& A, const std::vector<std::int32_t>& aggregate, const std::vector<std::int32_t>& target,
              Sparse& C);

/// The halo of the aggregates from that of the rows; `aggregate` grows by the ghosts' ones. Collective.
/// @param rows    number of own aggregates
/// @param stored  number of stored values on the fine level, ghosts among them
Halo coarseHalo(const Halo& fine, std::int32_t rows, std::vector<std::int32_t>& aggregate, std::size_t stored);

/// Number of values that a level stores: its own rows and all ghosts.
std::size_t storedIn(const Halo& halo, std::int32_t rows);

}  // namespace cvane::flow
