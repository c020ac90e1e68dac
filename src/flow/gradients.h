#pragma once
#include <vector>

#include "flow/boundaries.h"
#include "flow/flow.h"
#include "flow/gradient.h"
#include "flow/limiter.h"
#include "flow/turbulence.h"

namespace cvane::flow {

/// What follows from a state: values on the boundary, what walls do, gradients, and the pressure's force. All but the
/// first are collective.
class FlowGradients {
  public:
    /// @param groundBegins  see groundLayerBegin
    FlowGradients(const Flow& flow, const Boundaries& boundaries, const Case& c, double groundBegins);
    /// The laws of the wall are the model's from now on; null: laminar.
    void use(const TurbulenceModel* turbulence) { turbulence_ = turbulence; }

    void updateBoundary(Flow& flow) const;
    void updateVelocity(Flow& flow) const;
    void updateAll(Flow& flow) const;
    const Gradient& ofVelocity() const { return ofVelocity_; }
    const Gradient& ofPressure() const { return ofPressure_; }

  private:
    void updateGas(Flow& flow) const;
    void updateWalls(Flow& flow) const;
    void updateShocks(Flow& flow) const;
    void updatePressureForce(Flow& flow) const;

    const Boundaries& boundaries_;
    const TurbulenceModel* turbulence_ = nullptr;
    bool frictionless_;
    double windSpeed_, groundBegins_;
    std::vector<char> velocityKnown_, pressureKnown_;
    Gradient ofVelocity_, ofPressure_;
    GradientLimiter limitVelocity_, limitPressure_;
    std::vector<double> noPressure_;  ///< of faces that hold the free stream's
    std::vector<char> nothingKnown_;  ///< of boundary faces
};

}  // namespace cvane::flow
