#pragma once
#include <string>
#include <vector>

#include "base/vec3.h"

namespace cvane::flow {

enum class Model { Sst, SpalartAllmaras, KEpsilon, Laminar, Inviscid };
/// Cells in which a gradient may not take a value rebuilt at a face beyond those of the cells around.
enum class Limiter {
    PoorCells,  ///< those whose shape cannot be trusted
    AllCells,   ///< everywhere: robust, at the cost of peaks
    None
};
/// Of the pressure's multigrid cycles. The flow itself and all that is weighed and measured stay in double precision.
enum class Precision {
    Double,
    Mixed  ///< cycles in single precision, for less traffic to memory
};
/// Whether the air has a density of its own in every cell.
enum class Compressible {
    ByMachNumber,  ///< above Mach 0.3 of the wind
    Always,
    Never
};
inline bool isTurbulent(Model m) {
    return m != Model::Laminar && m != Model::Inviscid;
}

/// A part whose surface moves in itself: a turning wheel, a belt. Its place stays.
struct MovingPart {
    std::string part;              ///< name of the wall patch
    Vec3 velocity = Vec3::Zero();  ///< [m/s]
    Vec3 spin = Vec3::Zero();      ///< angular velocity [rad/s], right-handed
    Vec3 centre = Vec3::Zero();    ///< a point on the axis of the spin [m]
    bool operator==(const MovingPart&) const = default;
};

/// A part with a rough surface.
struct RoughPart {
    std::string part;
    double sandGrain = 0.0;  ///< height of equivalent sand grains [m]
    bool operator==(const RoughPart&) const = default;
};

/// What the user chooses about the flow solution.
struct FlowSettings {
    Model model = Model::Sst;
    double turbulenceIntensity = 0.002;  ///< of the free stream, rms over speed
    double turbulenceLength = 0.0;       ///< of the free stream [m]; 0: see freeTurbulenceOf
    int mostIterations = 1500;
    int leastIterations = 60;
    double toleranceCD = 0.005;  ///< of CD: drift of its mean that counts as settled
    double toleranceCL = 0.002;  ///< absolute: drift of CL, CY and Cm that counts as settled
    double checkpointSeconds = 15.0;
    double relaxation = 0.9;  ///< of momentum at most; lowered while the flow works itself up
    bool secondOrder = true;
    Compressible compressible = Compressible::ByMachNumber;  ///< what comes of it: Case::compressible
    Limiter limiter = Limiter::PoorCells;
    Precision precision = Precision::Double;
    bool coarseFirst = true;  ///< on grids with fewer cells: a start, and how far the cells matter
    bool operator==(const FlowSettings&) const = default;
};

}  // namespace cvane::flow
