#pragma once
#include <cstdint>
#include <map>
#include <set>

#include "flow/piece.h"

namespace cvane::flow {

/// How the cells of a grid are dealt out: each rank has a run of them, equally long but for one.
struct CellRuns {
    std::int64_t all;
    std::int64_t ranks;
    std::int64_t startOf(std::int64_t rank) const { return all * rank / ranks; }
    int rankOf(std::int64_t cell) const;
};

/// Sets a piece's halo. Sorted sets give both ranks the same order of ghosts without a message.
/// @param theirs, sent  by rank: its cells that are ghosts here, own cells that are ghosts there; in the whole grid
/// @return the ghosts' entries by their numbers in the whole grid. Local.
std::map<std::int64_t, LocalCell> linkHalo(Piece& piece, const std::map<int, std::set<std::int64_t>>& theirs,
                                           std::map<int, std::set<std::int64_t>>& sent);

/// Adds faces to a piece, whose cells have their centres.
class FaceList {
  public:
    explicit FaceList(Piece& piece) : p_(piece) {}
    /// @param face      in the whole grid;  @param S, centre  of it as there [m2], [m]
    /// @param P, N      own cell, and its neighbour; -1: a boundary face
    /// @param reversed  P is the neighbour in the whole grid
    void add(std::int64_t face, const Vec3& S, const Vec3& centre, LocalCell P, LocalCell N, bool reversed);

  private:
    Piece& p_;
};

}  // namespace cvane::flow
