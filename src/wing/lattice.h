#pragma once
#include <optional>

#include "wing/aircraft.h"

namespace cvane::wing {

/// A strip of a surface along the wind.
struct Strip {
    std::size_t surface = 0;
    bool port = false;                   ///< of the mirrored half
    double along = 0.0;                  ///< its middle [m]
    double width = 0.0;                  ///< [m]
    double middle = 0.5;                 ///< place of its control points between its ribs, as a share
    double chord = 0.0;                  ///< [m]
    Vec3 quarter = Vec3::Zero();         ///< quarter point of its chord line [m]
    Vec3 across = Vec3::UnitY();         ///< unit vector along its quarter line to the outboard side
    Vec3 chordwise = Vec3::UnitX();      ///< unit vector along its chord line
    std::string inner, outer;            ///< sections at the ends of its panel
    double share = 0.0;                  ///< of the outer one
    std::optional<std::size_t> control;  ///< of its surface, which turns it
};

/// A piece of a mean surface between ends of controls and panels: (rows + 1) x (strips + 1) nodes [m].
struct Patch {
    std::size_t surface = 0, firstStrip = 0, firstPanel = 0;
    bool port = false;
    int rows = 0, strips = 0;
    std::vector<Vec3> nodes;
    const Vec3& node(int row, int strip) const {
        return nodes[static_cast<std::size_t>(row) * static_cast<std::size_t>(strips + 1) +
                     static_cast<std::size_t>(strip)];
    }
    /// Number of a panel: rows one behind the other.
    std::size_t panel(int row, int strip) const {
        return firstPanel + static_cast<std::size_t>(row) * static_cast<std::size_t>(strips) +
               static_cast<std::size_t>(strip);
    }
};

/// The cambered, twisted mean surfaces cut into panels: strips from root to tip, on the port half from the tip's image
/// on likewise. Normals point to a surface's upper side.
struct Lattice {
    std::vector<Patch> patches;
    std::vector<Strip> strips;
    std::size_t panels = 0;
};

/// @param starboardOnly  of mirrored surfaces one half, for a flow that is its own mirror image; what stands in the
/// mirror plane is left out, for it carries nothing there
Lattice latticeOf(const Aircraft& aircraft, bool starboardOnly);

/// Whether the aircraft is its own mirror image in y = 0 for the quick method: all of it is mirrored with controls that
/// turn alike, or stands in the mirror plane untwisted.
bool isSymmetric(const Aircraft& aircraft);

}  // namespace cvane::wing
