#pragma once
#include <array>
#include <optional>
#include <string>
#include <vector>

#include "section/coupled/newton.h"

namespace cvane::section {

/// A stretch of a side, in x/c.
struct Stretch {
    double from = 0.0, to = 1.0;
};

/// One angle of a section in numbers; coefficients per unit span on the chord, cm about the quarter chord, nose up.
struct PointFigures {
    double alpha = 0.0;  ///< [rad]
    double reynolds = 0.0, mach = 0.0, nCritical = 9.0;
    double cl = 0.0, cd = 0.0, cm = 0.0;
    double cdFriction = 0.0;  ///< the rest of cd is pressure
    bool viscous = true;
    bool converged = false;
    int iterations = 0;
    double residual = 0.0;
    std::array<double, 2> transition{1.0, 1.0};  ///< x/c, upper and lower side; 1: none
    std::array<bool, 2> tripped{};
    std::array<std::vector<Stretch>, 2> backflow;  ///< friction against the wind: bubbles, and separation to the edge
    double lowestCp = 0.0, lowestCpAt = 0.0;       ///< and its x/c
    double highestMach = 0.0;                      ///< at the edge of the layers
    bool sonic() const { return highestMach >= 1.0; }
    /// x/c from which the side is separated to the trailing edge.
    std::optional<double> separation(Side side) const;
    /// Stretches that close again ahead of the edge.
    std::vector<Stretch> bubbles(Side side) const;
};

/// Along the contour, and along the wake.
struct LayerSample {
    double x = 0.0, z = 0.0;
    double s = 0.0;  ///< from the stagnation point [chords]
    double Cp = 0.0, speed = 1.0;
    double deltaStar = 0.0, theta = 0.0, H = 0.0, cf = 0.0;
    double amplification = 0.0, stress = 0.0;  ///< n of a laminar layer; shear stress coefficient of a turbulent one
    bool turbulent = false;
};
struct Distribution {
    std::vector<LayerSample> upper, lower;  ///< from the stagnation point to the trailing edge
    std::vector<LayerSample> wake;
};

PointFigures figuresOf(const PanelFlow& flow, const SectionCase& c, const FlowState& state, const Settled& settled);
Distribution distributionOf(const PanelFlow& flow, const SectionCase& c, const FlowState& state);

/// The flow without a layer; cd is 0 in it.
PointFigures potentialFigures(const PanelFlow& flow, const SectionCase& c, double alpha);
Distribution potentialDistribution(const PanelFlow& flow, const SectionCase& c, double alpha);

/// Pressure coefficient at which the local flow is sonic; nothing in a wind without a Mach number.
std::optional<double> sonicCp(const LayerAir& air);

}  // namespace cvane::section
