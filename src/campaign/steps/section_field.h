#pragma once
#include <functional>
#include <vector>

#include "section/outline/contour.h"
#include "section/polar/polar.h"

namespace cvane::campaign {

/// A section in the field solver: k-omega SST, turbulent from the nose on, on a C grid (grid/c_grid.h).
struct SectionField {
    double reynolds = 1e6;
    int level = 1;              ///< of the grid: 0, 1, 2 with 5,000, 19,000, 77,000 cells
    double turbulence = 0.001;  ///< of the wind, rms over speed
    int mostIterations = 1500;
};

struct SectionFieldPoint {
    double alpha = 0.0;  ///< [rad]
    double cl = 0.0, cd = 0.0, cdFriction = 0.0, cm = 0.0;
    bool settled = false;
    bool blewUp = false;  ///< the solver gave up: coefficients are 0
    int cells = 0, iterations = 0;
    double seconds = 0.0, residual = 0.0, highestYPlus = 0.0;
    /// Along the wall, upper and lower side from nose to tail: x/c, Cp, cf (on the wind's pressure, against it
    /// negative).
    struct Wall {
        double x, Cp, cf;
    };
    std::vector<Wall> upper, lower;
};

/// Told now and then: alpha [rad], iteration, cl, cd. False stops.
using OnField = std::function<bool(double alpha, int iteration, double cl, double cd)>;

/// Solves the angles on one grid, outwards from the smallest, each from its neighbour; on this process alone.
/// @return in the order of the angles. Throws InputError: a case beyond its range, an outline about which no grid is
/// made; Cancelled.
std::vector<SectionFieldPoint> solveSectionField(const section::Contour& unitChord, const SectionField& what,
                                                 const std::vector<double>& alphas, const OnField& onField = {});

}  // namespace cvane::campaign
