#pragma once
#include "grid/tunnel.h"

namespace cvane::grid {

/// Makes a tunnel as large as a box of air that came with the model: extents ahead, behind, above and below from one to
/// the other, to the sides the larger of both; what is under a ground stays the ride height's affair.
/// @param air, model  of the same file [m]. Throws InputError: the model is not within the air, or has no size.
void takeExtents(Tunnel& tunnel, const Box& air, const Box& model);

}  // namespace cvane::grid
