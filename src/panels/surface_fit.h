#pragma once
#include <functional>
#include <vector>

#include "panels/bent_panels.h"

namespace cvane::panels {

/// How a quantity that is known at panels' places changes along the surface: at each panel a quadratic through its
/// neighbours over the tangent plane, which no edge at which the surface turns by more than 40 degrees parts from it.
struct SurfaceFit {
    struct Stencil {
        std::vector<std::size_t> panels;  ///< neighbours
        std::vector<Vec3> weights;        ///< gradient = sum of weight (value there - value here) [1/m]
    };
    std::vector<Stencil> stencils;
    std::vector<std::vector<std::size_t>> near;  ///< what each is fitted through

    /// @param bent  outlives it
    explicit SurfaceFit(const BentPanels& bent);
    /// Takes out pairs between which something runs through the surface that makes the quantity jump.
    /// @param between  of two panels;  @return panels at which it does
    std::vector<std::size_t> part(const std::function<bool(std::size_t, std::size_t)>& between);
    /// A plane instead of a quadratic, which carries values to an edge without exaggerating.
    Stencil plane(std::size_t panel) const;
    Vec3 gradient(std::size_t panel, const double* values) const;
    std::vector<Vec3> gradients(const double* values) const;

  private:
    const BentPanels& bent_;
};

}  // namespace cvane::panels
