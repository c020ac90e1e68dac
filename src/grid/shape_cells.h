#pragma once
#include <cstddef>
#include <memory>
#include <span>

#include "base/progress.h"
#include "grid/curve_paths.h"
#include "grid/wall_projection.h"

namespace cvane::grid {

/// Moves staircase points and their wall images until cells are as near to cubes as the model allows, with no corner
/// turned inside out. Wall points slide on the model, those of `paths` along their curves; points in tunnel sides stay
/// in them. Between staircase and wall stands one thick cell, as high as the wall layers together (`height` cell
/// sizes).
///
/// Minimised over all corners with edge vectors e1, e2, e3 (scaled by the cell's size, the thick cell's height by its
/// own):
///   sum (|e1|^2 + |e2|^2 + |e3|^2)^(3/2) / chi(det),  chi(d) = (d + sqrt(d^2 + 4 eps^2)) / 2,  eps -> 0,
/// point after point by Newton steps on the convex part of the second derivative. Sources: the mean ratio of a corner,
/// P. Knupp, SIAM J. Sci. Comput. 23, 2001; chi for inverted corners, J. M. Escobar et al., Comput. Methods Appl. Mech.
/// Eng. 192, 2003. At the end the square of the measure is taken instead, for the sake of the worst corners.
///
///
/// Where the model leaves no room for sound cells (a wedge that closes to nothing, parts that touch, detail below a
/// cell), wall points can be loosened: they may then leave the model, held to it by a spring.
class CellShaper {
  public:
    /// All arguments are kept by reference.
    /// @param points  staircase points, moved by run and loosen
    /// @param wall    its onWall are moved too
    CellShaper(const Staircase& stairs, const shape::TriangleTree& model, CurvePaths& paths, const Box& air,
               double height, std::vector<Vec3>& points, WallImage& wall);
    ~CellShaper();
    CellShaper(const CellShaper&) = delete;
    CellShaper& operator=(const CellShaper&) = delete;

    void run(const base::Progress& progress);

    /// Shapes the cells around these points anew, with those of them that lie on the wall loosened.
    /// @param points  staircase points, then wall points from staircase size on
    /// @param hold    stiffness of the spring, in units of a corner's measure at one cell's distance
    /// @param afresh  begin from the staircase as it was and a thin gap along it, instead of from where the points are:
    /// the way out of a tangle that single moves cannot leave
    void loosen(std::span<const std::int32_t> points, double hold, bool afresh);

    /// Puts loosened points back on the model, or on their curve or corner, where cells stay sound.
    void tighten();

    /// Puts all that are still loose back, whatever becomes of their cells. What tighten keeps away for the sake of a
    /// cell's shape may be well within the limits of a grid.
    void putAllBack();
    /// Lets those of these points that putAllBack has moved go to where they were before.
    /// @return whether there were any
    bool letGoAgain(std::span<const std::int32_t> points);

  private:
    class Shaper;
    std::unique_ptr<Shaper> shaper_;
};

}  // namespace cvane::grid
