#pragma once

namespace cvane::flow {

/// Friction velocity u_tau [m/s] for a tangential speed U [m/s] at distance y [m] from a smooth wall, valid from the
/// viscous sublayer through the logarithmic layer.
/// Source: D. B. Spalding, J. Appl. Mech. 28 (1961): y+ = u+ + e^{-kB} (e^{k u+} - 1 - k u+ - (k u+)^2/2 - (k u+)^3/6),
/// k = 0.41, B = 5.0.
double frictionVelocity(double U, double y, double nu);

/// d u+ / d y+ of the same law at u+ = U / u_tau.
double wallLawSlope(double uPlus);

}  // namespace cvane::flow
