#pragma once
#include <Eigen/Core>
#include <vector>

#include "grid/grid.h"

namespace cvane::grid {

/// A C-shaped grid about a section: lines run round the section from the wake below to the wake above, and away from
/// it; the cut behind the trailing edge leaves along the edge's bisector and turns into the x axis. Behind a blunt edge
/// a block of cells as wide as the base fills the cut. One cell across.
struct CGrid {
    /// Round the section from the lower corner of the trailing edge by the nose to the upper one [m]; on a sharp edge
    /// first and last coincide.
    std::vector<Eigen::Vector2d> outline;
    double chord = 1.0;         ///< [m]
    double firstHeight = 1e-5;  ///< of the cells on the wall [m]
    int away = 90;              ///< cells from the wall to the far side
    int wake = 50;              ///< cells along the wake
    int acrossBase = 8;         ///< cells across a blunt edge
    double far = 15.0;          ///< distance of the far side [chords]
};

/// The wall is the patch "section"; the far side ahead, above and below is "x-" (the wind comes in there, at any
/// angle), that behind "x+". The section spans 1 m. Throws InputError: fewer than 20 points on the outline, numbers
/// that are not above 0, an outline about which the cells fold.
Grid cGrid(const CGrid& settings);

}  // namespace cvane::grid
