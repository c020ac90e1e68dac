#pragma once
#include <functional>
#include <span>
#include <vector>

#include "base/progress.h"
#include "grid/quality.h"
#include "grid/shape_cells.h"
#include "grid/wall_layers.h"

namespace cvane::grid {

/// Makes cells sound that are beyond the limits of quality.h, as in a wedge that closes to nothing: layers of one
/// height, one layer in place of many, and where that does not do, a wall that lets go of the model, less and less
/// held, until the cells are open: a fillet of a fraction of a cell instead of folded layers. What need not have let go
/// is put back.
class WallOpening {
  public:
    /// All arguments are kept by reference.
    /// @param moved   positions of the staircase points; the shaper moves them and wall.onWall
    /// @param grow    makes the grid anew from them and `layers`
    WallOpening(const Staircase& stairs, const WallImage& wall, const shape::TriangleTree& model,
                const std::vector<Vec3>& moved, const std::function<Grid()>& grow, CellShaper& shaper, Layers& layers,
                const base::Progress& progress)
        : stairs_(stairs),
          wall_(wall),
          model_(model),
          moved_(moved),
          grow_(grow),
          shaper_(shaper),
          layers_(layers),
          progress_(progress) {}

    /// @param grid, geometry  as grown; brought up to date
    /// Throws base::Cancelled.
    void open(Grid& grid, Geometry& geometry);

  private:
    struct Pass;
    void openCells(Grid& grid, Geometry& geometry, double angle, const std::vector<char>& only);

    const Staircase& stairs_;
    const WallImage& wall_;
    const shape::TriangleTree& model_;
    const std::vector<Vec3>& moved_;
    const std::function<Grid()>& grow_;
    CellShaper& shaper_;
    Layers& layers_;
    const base::Progress& progress_;
};

}  // namespace cvane::grid
