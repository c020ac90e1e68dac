#pragma once
#include "flow/turbulence.h"

namespace cvane::flow {

/// The k-omega shear-stress-transport model with ambient sustaining terms and a wall treatment for any y+.
/// Sources: F. R. Menter, M. Kuntz, R. Langtry, Turbulence, Heat and Mass Transfer 4 (2003); P. R. Spalart, C. L.
/// Rumsey, AIAA J. 45 (2007), ambient terms. At walls omega is the sum of its viscous and logarithmic values to the
/// power 1.2, and the shear follows Spalding's law (wall_law.h). State::first is k, State::second omega.
class Sst : public TurbulenceModel {
  public:
    explicit Sst(TurbulenceGround ground);
    std::array<double, 3> freeStream() const override { return {g_.free.k, g_.free.omega, g_.free.k / g_.free.omega}; }
    std::array<double, 2> powersOfSpeed() const override { return {2.0, 1.0}; }
    std::array<double, 2> advance(State& s, const WallState& walls, const std::vector<Mat3>& gradU,
                                  const Ranks& ranks) override;
    std::array<const char*, 2> names() const override { return namesOfVariables(Model::Sst); }

  private:
    void updateEddyViscosity(State& s, const std::vector<Mat3>& gradU) const;
    TurbulenceGround g_;
    TurbulenceStep step_;
    std::vector<double>
        meanOfSquare_;  ///< over a cell whose omega falls as 1 / y^2: mean of omega^2 over its square at the centre
};

}  // namespace cvane::flow
