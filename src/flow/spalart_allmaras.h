#pragma once
#include "flow/turbulence.h"

namespace cvane::flow {

/// The one-equation model without trip terms. Source: P. R. Spalart, S. R. Allmaras, La Recherche Aerospatiale 1
/// (1994); the vorticity is kept at 0.3 of its value where the correction would turn it negative (S. R. Allmaras, F. T.
/// Johnson, P. R. Spalart, ICCFD7-1902, 2012, discuss this limit). In the wall's cell nuTilde = kappa uTau y, which the
/// model holds from the wall through the logarithmic layer, with uTau from the law that follows from it
/// (one_equation_law.h): valid at any y+. Between cells acts the viscosity of a linear nuTilde; in the first cells
/// beyond the wall's the vorticity is the one that belongs to the stress on their faces, since a difference over their
/// height is up to a third more than the slope in their middle. Rough walls add 0.03 of their height to y (B. Aupoix,
/// P. R. Spalart, Int. J. Heat Fluid Flow 24, 2003). State::first is nuTilde; State::second is not used.
class SpalartAllmaras : public TurbulenceModel {
  public:
    explicit SpalartAllmaras(TurbulenceGround ground);
    std::array<double, 3> freeStream() const override;
    std::array<double, 2> powersOfSpeed() const override { return {1.0, 0.0}; }
    std::array<double, 2> advance(State& s, const WallState& walls, const std::vector<Mat3>& gradU,
                                  const Ranks& ranks) override;
    double frictionVelocity(double U, double y, double nu, double roughness) const override {
        return oneEquationFrictionVelocity(U, y, nu, roughness);
    }
    double slopeOfLaw(double, double yPlus, double ksPlus) const override { return oneEquationSlope(yPlus, ksPlus); }
    const SeriesViscosity* viscosityBetweenCells(const State& s) override;
    std::array<const char*, 2> names() const override { return namesOfVariables(Model::SpalartAllmaras); }

  private:
    void updateSlopes(const State& s);
    TurbulenceGround g_;
    TurbulenceStep step_;
    SeriesViscosity between_;
    std::vector<std::int32_t>
        steep_;  ///< own and ghost cells: place among the cells where a difference over their height is no slope, or -1
    std::vector<std::size_t> besideSteep_;
    std::vector<Mat3> slopes_;  ///< of the velocity, in these cells [1/s]
    double ambient_;            ///< nuTilde of the free stream
};

}  // namespace cvane::flow
