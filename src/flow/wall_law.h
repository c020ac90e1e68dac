#pragma once

namespace cvane::flow {

/// A rough wall acts as if its cells lay this share of the sand grain's height farther out (B. Aupoix, P. R. Spalart,
/// Int. J. Heat Fluid Flow 24, 2003).
constexpr double kRoughShift = 0.03;

/// Friction velocity u_tau [m/s] for a tangential speed U [m/s] at distance y [m] from a wall, valid from the viscous
/// sublayer through the logarithmic layer. Source: D. B. Spalding, J. Appl. Mech. 28 (1961): y+ = u+ + e^{-kB} (e^{k
/// u+} - 1 - k u+ - (k u+)^2/2 - (k u+)^3/6), k = 0.41, B = 5.0. On a wall with sand grains of height ks [m] the
/// logarithm falls by ln(1 + 0.3 ks+) / k, which stands for B here (C. F. Colebrook, J. Inst. Civ. Eng. 11, 1939,
/// between smooth and rough).
double frictionVelocity(double U, double y, double nu, double ks = 0.0);

/// u+ of a smooth wall's law at y+ = y u_tau / nu.
double speedInWallUnits(double yPlus);

/// Where a search for the u+ of u+ y+ = U y / nu may begin, for any smooth wall's law.
double firstGuessOfSpeed(double Re);

/// d u+ / d y+ of the same law at u+ = U / u_tau and ks+ = u_tau ks / nu.
double wallLawSlope(double uPlus, double ksPlus = 0.0);

}  // namespace cvane::flow
