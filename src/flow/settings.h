#pragma once
#include "flow/transport.h"

namespace cvane::flow {

enum class Model { Sst, Laminar, Inviscid };

/// What the user chooses about the flow solution.
struct FlowSettings {
    Model model = Model::Sst;
    double turbulenceIntensity = 0.002;  ///< of the free stream, rms over speed
    double viscosityRatio = 2.0;         ///< eddy over molecular viscosity of the free stream
    int mostIterations = 1500;
    int leastIterations = 80;
    double toleranceCD = 0.005;          ///< of CD: drift of its mean that counts as settled
    double toleranceCL = 0.002;          ///< absolute: drift of CL, CY and Cm that counts as settled
    double checkpointSeconds = 15.0;
    double relaxation = 0.8;             ///< of momentum
    bool secondOrder = true;
    bool operator==(const FlowSettings&) const = default;
};

}  // namespace cvane::flow
