#pragma once
#include "panels/panels.h"

namespace cvane::panels {

/// Panels as patches of the bent surface on which their corners lie: a quadratic over each triangle, through its
/// corners and through points over the middles of its edges, which are bent as the normals at their ends say. Edges at
/// which the surface turns by more than 40 degrees stay straight.
struct BentPanels {
    std::vector<std::vector<std::size_t>> next;  ///< panels over edges at which the surface does not turn sharply
    std::vector<Vec3> normal;                    ///< at panels' middles, into the air
    std::vector<Vec3> place;                     ///< there on the patch: where conditions are set and values held [m]

    explicit BentPanels(const Panels& panels);

    /// Flat triangles with their corners on the patch, together nearly as large as it.
    /// @param level  of which there are 4^level; the middle one's middle is the panel's place from level 1 on
    std::vector<Triangle> pieces(std::size_t panel, int level) const;

    /// A triangle that stands for the patch where it is not near: with its middle, and as large and as directed as what
    /// its outline frames.
    Triangle fromAfar(std::size_t panel) const;
    /// Its vector area, into the air [m2]; those of a closed surface's patches are none in sum.
    const Vec3& framed(std::size_t panel) const { return framed_[panel]; }
    /// The patch's area over that triangle's.
    double swell(std::size_t panel) const { return swell_[panel]; }

  private:
    const Panels& panels_;
    std::vector<std::array<Vec3, 3>> over_;  // the middles of edges from corner k to k + 1
    std::vector<double> swell_;
    std::vector<Vec3> framed_, middle_;  // vector areas and middles of patches
};

}  // namespace cvane::panels
