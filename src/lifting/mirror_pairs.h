#pragma once
#include <optional>
#include <vector>

#include "wing/lattice.h"

namespace cvane::lifting {

/// Which panels and bound filaments of a whole lattice are each other's mirror image in y = 0.
struct MirrorPairs {
    std::vector<std::size_t> starboard, port;  ///< panels, pair by pair
    std::vector<std::size_t> middle;           ///< panels in the mirror plane
    /// Of each bound filament, numbered as layRings() of VortexLattice lays them: its image; itself in the plane.
    std::vector<std::size_t> filament;
    std::vector<std::size_t> own;  ///< bound filaments of the starboard half and of the plane
};

/// Nothing: some patch has no image, as with ailerons that are turned.
std::optional<MirrorPairs> mirrorPairs(const wing::Lattice& lattice);

}  // namespace cvane::lifting
