#pragma once
#include "flow/checkpoint.h"

namespace cvane::flow {

inline constexpr char kCheckpointMagic[9] = "CVANECP5", kWithoutLastStep[9] = "CVANECP4";

/// What a checkpoint's file holds behind its first eight bytes, in its order, for whoever writes or reads it. Behind
/// the last one stands the CRC-32 of all that comes before.
template <class Visit, class C>
void eachField(Visit& v, C& c, bool hasLastStep) {
    v(c.key);
    v(c.seconds);
    v(c.history);
    v(c.cellData);
    v(c.flux);
    v(c.relaxation);
    v(c.averagedFrom);
    v(c.timeStep);
    v(c.rescues);
    v(c.meanData);
    v(c.meanLoads);
    if (!hasLastStep) return;
    v(c.lastStep);
    v(c.lastExcess);
}

}  // namespace cvane::flow
