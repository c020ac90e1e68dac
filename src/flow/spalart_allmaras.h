#pragma once
#include "flow/turbulence.h"

namespace cvane::flow {

/// The one-equation model without trip terms. Source: P. R. Spalart, S. R. Allmaras, La Recherche Aerospatiale 1 (1994); the
/// vorticity is kept at 0.3 of its value where the correction would turn it negative (S. R. Allmaras, F. T. Johnson,
/// P. R. Spalart, ICCFD7-1902, 2012, discuss this limit). In the wall's cell nuTilde = kappa uTau y, which the model holds from
/// the wall through the logarithmic layer, with uTau from the wall law: valid at any y+. Rough walls add 0.03 of their height
/// to y (B. Aupoix, P. R. Spalart, Int. J. Heat Fluid Flow 24, 2003). State::first is nuTilde; State::second is not used.
class SpalartAllmaras : public TurbulenceModel {
  public:
    explicit SpalartAllmaras(TurbulenceGround ground);
    std::array<double, 3> freeStream() const override;
    std::array<double, 2> powersOfSpeed() const override { return {1.0, 0.0}; }
    std::array<double, 2> advance(State& s, const WallState& walls, const std::vector<Mat3>& gradU, const Ranks& ranks) override;
    std::array<const char*, 2> names() const override { return {"TurbulentSANuTilde", ""}; }

  private:
    TurbulenceGround g_;
    TurbulenceStep step_;
    double ambient_;  ///< nuTilde of the free stream
};

}  // namespace cvane::flow
