#pragma once
#include "flow/turbulence.h"

namespace cvane::flow {

/// The realisable k-epsilon model with a one-equation layer at walls, where epsilon and the eddy viscosity follow from
/// k and the distance; valid at any y+ with the wall law's production in the wall's cell. Sources: T.-H. Shih et al.,
/// Computers Fluids 24 (1995); H. C. Chen, V. C. Patel, AIAA J. 26 (1988), lengths of the layer. Ambient terms as in
/// Sst. State::first is k, State::second epsilon.
class KEpsilon : public TurbulenceModel {
  public:
    explicit KEpsilon(TurbulenceGround ground) : g_(std::move(ground)), step_(g_) {}
    std::array<double, 3> freeStream() const override {
        return {g_.free.k, 0.09 * g_.free.k * g_.free.omega, g_.free.k / g_.free.omega};
    }
    std::array<double, 2> powersOfSpeed() const override { return {2.0, 3.0}; }
    std::array<double, 2> advance(State& s, const WallState& walls, const std::vector<Mat3>& gradU,
                                  const Ranks& ranks) override;
    std::array<const char*, 2> names() const override { return namesOfVariables(Model::KEpsilon); }

  private:
    TurbulenceGround g_;
    TurbulenceStep step_;
};

}  // namespace cvane::flow
