#pragma once
#include <Eigen/Dense>

#include "section/layer/closure.h"

namespace cvane::section {

/// The three equations of a boundary layer between two stations, or at the first one, and what they change by.
/// Order of the unknowns of a station: theta, C, u, m.
struct Equations {
    Eigen::Vector3d residual = Eigen::Vector3d::Zero();
    Eigen::Matrix<double, 3, 4> byFirst = Eigen::Matrix<double, 3, 4>::Zero();
    Eigen::Matrix<double, 3, 4> bySecond = Eigen::Matrix<double, 3, 4>::Zero();
    Eigen::Vector3d byStart = Eigen::Vector3d::Zero();  ///< by a length that is added to both s
};

struct IntervalCase {
    LayerAir air;
    Regime regime = Regime::Laminar;
    double deadFirst = 0.0, deadSecond = 0.0;  ///< dead air behind a base, part of delta* [chords]
};

using Station = Layer<double>;

/// Equations between stations 1 and 2 that are both laminar, turbulent or of the wake:
///   d ln theta + (2 + H - M^2) d ln u = cf/2 s/theta d ln s
///   d ln H* + (2 H**/H* + 1 - H) d ln u = (2 CD/H* - cf/2) s/theta d ln s
///   laminar: dn = (dn/ds) ds; turbulent: 2 delta d ln C = 4.2 (C_eq - C) ds  (the lag equation of J. E. Green, ARC
///   R&M 3791, 1973, as in Drela and Giles)
/// Means of the two ends; towards the second end where H changes much between them.
Equations between(const Station& first, const Station& second, const IntervalCase& c);

/// The first station behind a stagnation point: speed grows with s, theta does not change.
Equations atStagnation(const Station& at, const IntervalCase& c);

/// Equations of the stretch in which a layer becomes turbulent, with one more for the place where it does.
struct TransitionEquations {
    Equations flow;
    Eigen::Vector3d byShare = Eigen::Vector3d::Zero();
    /// n at the place less the critical one, and what it changes by.
    double excess = 0.0, excessByShare = 1.0;
    Eigen::RowVector4d excessByFirst = Eigen::RowVector4d::Zero(), excessBySecond = Eigen::RowVector4d::Zero();
    double excessByStart = 0.0;
};

/// Laminar from the first end to `share` of the way, turbulent from there to the second; in between all that describes
/// the layer is linear. The residuals are the sums of both parts. The place is an unknown like the others, since with
/// the second end's turbulent shape held there need be none at which n is critical.
TransitionEquations throughTransition(const Station& first, const Station& second, const IntervalCase& c,
                                      double nCritical, double share);

/// The first place between the ends, 0 .. 1, where n reaches nCritical or the trip stands (a length s); 1: neither.
double placeOfTransition(const Station& first, const Station& second, const IntervalCase& c, double nCritical,
                         double tripS);

/// n at the second end of a laminar stretch.
double amplified(const Station& first, const Station& second, const IntervalCase& c);

/// sqrt of the shear stress that a layer starts with where it turns turbulent, over that in equilibrium.
inline constexpr double kStartStress = 0.7;

}  // namespace cvane::section
