#pragma once
#include <optional>

#include "section/coupled/state.h"

namespace cvane::section {

/// How a solution came out.
struct Settled {
    bool converged = false;
    int iterations = 0;
    double residual = 0.0;  ///< last relative change of the layers, rms
};

/// Solves the layers, the wake and the potential flow together by Newton's method. Along each side the equations of the
/// layers give the changes of theta, C and u by those of the mass defects m of the stations up to there, which also
/// works where the layer separates; what the panels say of u then leaves one dense system for the mass defects, for the
/// shift of the stagnation point, and for the angle where the lift is given.
/// @param lift the angle is found that has this lift; none: the state's angle stays
/// The state is left as far as it came.
Settled solveCoupled(const PanelFlow& flow, const SectionCase& c, FlowState& state, std::optional<double> lift = {},
                     int mostIterations = 40);

/// Lift by the pressures at speeds signed along the contour, at an angle.
double liftOf(const PanelFlow& flow, const LayerAir& air, const Eigen::VectorXd& speed, double alpha);
/// Pressure coefficient at a speed of the panels' flow. Karman-Tsien.
double pressureAt(double u, const LayerAir& air);

}  // namespace cvane::section
