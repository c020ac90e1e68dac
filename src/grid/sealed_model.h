#pragma once
#include <optional>
#include <vector>

#include "grid/leaks.h"
#include "shape/seams.h"

namespace cvane::grid {

/// Facets that do not quite meet are neighbours within this share of the model's longest side: facets that face the
/// wrong way would look like sharp edges, and leave the air's way into the model in doubt.
constexpr double kSeam = 1e-4;

/// The model as the grid is built around it: its facets, and those that close its leaks.
class SealedModel {
  public:
    /// @param model      facets in the air, oriented
    /// @param halfModel  mirrored at y = 0, where an open rim is no leak
    /// @param seam       open edges nearer than this count as joined [m]
    /// @param sealWidth  leaks up to this width are closed [m], holes in the surface at once
    SealedModel(shape::Surface model, bool halfModel, double seam, double sealWidth);

    const shape::Surface& surface() const { return surface_; }
    const shape::TriangleTree& tree() const { return tree_; }  ///< its address stays when leaks are closed

    /// Looks for leaks in an octree around tree(), and closes those that are narrow enough.
    /// @return true when facets were added: the octree is out of date
    bool closeLeaks(const Octree& octree);
    const std::vector<Leak>& closed() const { return closed_; }
    const std::vector<shape::ClosedHole>& holes() const {
        return holes_;
    }                                                        ///< that were closed along their rims, widest first
    const std::vector<Leak>& open() const { return open_; }  ///< too wide; from the last call

  private:
    void remake();
    shape::Surface surface_;
    bool halfModel_;
    double sealWidth_;
    std::vector<shape::ClosedHole> holes_;
    bool watertight_;
    shape::TriangleTree tree_;
    std::optional<shape::TriangleTree> mirrored_;
    std::vector<Leak> closed_, open_;
    std::vector<Vec3> inside_;  ///< where the air had got in at the last look [m],
    Lattice lastRoots_{};       ///< and the cells of that octree
    Vec3 lastSize_ = Vec3::Zero();
};

}  // namespace cvane::grid
