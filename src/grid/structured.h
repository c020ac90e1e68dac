#pragma once
#include <array>
#include <functional>
#include <string>
#include <vector>

#include "grid/grid.h"

namespace cvane::grid {

/// Places along a line, ascending, from `from` to `to` in n steps [m].
std::vector<double> evenLine(double from, double to, int n);
/// Steps that grow by a constant ratio from `first` at `from`; `to` may lie below `from`, the places then descend.
std::vector<double> gradedLine(double from, double to, int n, double first);
/// Steps that grow by a constant ratio from `first` at either end towards the middle; n is even.
std::vector<double> gradedLineBothEnds(double from, double to, int n, double first);
/// Lines one behind the other; each begins where the one before ends.
std::vector<double> joinedLines(const std::vector<std::vector<double>>& lines);

/// A block of hexahedra numbered i, j, k (i fastest), right-handed. A grid of it is like any other to the solver; one
/// cell along k between slip sides is plane flow.
struct Block {
    std::array<int, 3> cells{1, 1, 1};
    std::function<Vec3(int i, int j, int k)> place;  ///< of a lattice point [m]; 0 .. cells on each axis
    /// Patch of a boundary face by the block's side (0..5: i-, i+, j-, j+, k-, k+) and the face's middle. Faces whose
    /// patch has the same name belong together.
    std::function<Patch(int side, const Vec3& middle)> patch;
    bool ring = false;  ///< i- and i+ are joined, as in an O-grid
};

/// Each cell's distance to the nearest wall face, which the solver takes from the grid.
void measureWallDistance(Grid& grid);

/// Throws InputError: fewer than one cell on an axis, a ring of less than three, cells whose volume is not positive.
Grid blockGrid(const Block& block);

/// Cells between lines of x, y and z. Sides that `walls` names (0..5: x-, x+, y-, y+, z-, z+) are walls by the name of
/// the side, the others tunnel sides.
Grid boxGrid(const std::vector<double>& x, const std::vector<double>& y, const std::vector<double>& z,
             const std::vector<int>& walls);

/// A flat plate along x from 0 to `length` in the plane z = 0, with a slip wall in front of it; one cell along y, 1 m
/// wide.
struct PlateGrid {
    double length = 1.0, upstream = 0.3, height = 0.5;  ///< [m]
    int along = 100, ahead = 30, across = 80;           ///< cells on the plate, in front of it, and away from it
    double firstAlong = 1e-3, firstHeight = 1e-5;       ///< cells at the leading edge and on the plate [m]
};
/// The plate is the wall patch "plate".
Grid plateGrid(const PlateGrid& plate);

/// An O-grid about a circular cylinder along y at the origin; one cell along y, 1 m wide. The upstream half of its rim
/// is a tunnel side x-, the downstream half x+.
struct CylinderGrid {
    double radius = 0.5, rim = 50.0;  ///< [m]
    int around = 160, across = 100;
    double firstHeight = 0.005;  ///< [m]
};
/// The cylinder is the wall patch "cylinder".
Grid cylinderGrid(const CylinderGrid& cylinder);

}  // namespace cvane::grid
