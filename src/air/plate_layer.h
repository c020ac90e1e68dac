#pragma once

namespace cvane::air {

/// Thickness [m] of the turbulent boundary layer of a flat plate, `run` [m] behind where it begins, in air of speed V
/// [m/s] and kinematic viscosity nu [m2/s]: 0.37 x (V x / nu)^-0.2, from the one-seventh power of the speed; 0 where
/// run <= 0. Source: H. Schlichting, Boundary-Layer Theory, 1979, eq. 21.8.
double plateLayerThickness(double run, double V, double nu);

/// Displacement and momentum thickness over that thickness, for the same profile.
constexpr double kDisplacementShare = 1.0 / 8.0, kMomentumShare = 7.0 / 72.0;

}  // namespace cvane::air
