#pragma once
#include <string>
#include <vector>

#include "base/vec3.h"

namespace cvane::campaign {

/// Something drawn in a point's flow.
struct FlowItem {
    enum class Kind { Wall, Slice, Surface, Lines, WallLines, Arrows, Cells, Probe, WallArrows, Tunnel };
    enum class Rake { Line, Ring, Lattice };
    std::string name;
    Kind kind = Kind::Slice;
    bool shown = true;
    std::string quantity = "speed";  ///< that it is coloured by; that a surface has one value of
    double value = 0.1;              ///< of a surface
    std::string colour;              ///< of a surface: what it is coloured by; empty: plain
    Vec3 through = Vec3::Zero();     ///< of a slice, of arrows and cells on one; of a probe [m]
    Vec3 normal = Vec3::UnitY();     ///< of that plane; of a ring's or lattice's
    Rake rake = Rake::Line;
    Vec3 from = Vec3::Zero();      ///< of lines: one end of their rake, a ring's middle, a lattice's corner [m]
    Vec3 to = Vec3::Zero();        ///< its other end, a place on the ring, the opposite corner
    int count = 21;                ///< of lines; of arrows along the model or on its walls
    double low = 0.0, high = 0.0;  ///< ends of the colours; equal: as the values are
    int steps = 0;                 ///< of the colours; 0: smooth
    bool contours = false;         ///< contour lines between the steps
    bool byCell = false;           ///< of a slice: the cells' own values, nothing smoothed
    double opacity = 1.0;
    bool operator==(const FlowItem&) const = default;
};

/// A view that was kept under a name: from where, and what of.
struct SavedView {
    std::string name;
    Vec3 eye = Vec3::Zero(), focus = Vec3::Zero();  ///< [m]
    Vec3 up = Vec3::UnitZ();
    double height = 1.0;  ///< of what is seen, at the focus [m]
    bool perspective = false, dark = false;
    std::vector<FlowItem> items;
    bool operator==(const SavedView&) const = default;
};

/// A plane along which pressures are read.
struct PressurePlane {
    enum class Axis { X, Y, Z };
    Axis axis = Axis::Y;  ///< that it is across
    double at = 0.0;      ///< [m]
    bool operator==(const PressurePlane&) const = default;
};

}  // namespace cvane::campaign
