#pragma once
#include <optional>

#include "flow/case.h"
#include "flow/piece.h"

namespace cvane::flow {

/// Makes the ground's faces ahead of where its boundary layer begins (Case::groundLayerFrom) a patch of their own,
/// behind the others. @return its number; nothing: the ground has one part, or there is none. Local.
std::optional<std::size_t> partGround(Piece& piece, const Case& c);

/// Where the boundary layer of a ground at rest begins [m, x]: as the case says, or at the grid's foremost face.
/// Collective.
double groundLayerBegin(const Piece& piece, const Case& c, const Ranks& ranks);

/// Distances of own cells to the nearest wall, a ground among them [m]. A moving ground counts too: under a model it
/// moves against the air, and where both move alike the models' near-wall terms are nothing. Local.
std::vector<double> distanceToWalls(const Piece& piece, const Case& c);

}  // namespace cvane::flow
