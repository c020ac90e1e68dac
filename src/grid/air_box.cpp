#include "grid/air_box.h"

#include "base/errors.h"

namespace cvane::grid {

void takeExtents(Tunnel& t, const Box& air, const Box& model) {
    const double length = model.size().maxCoeff();
    const Vec3 before = model.low - air.low, behind = air.high - model.high;
    if (!(length > 0.0) || !(before.minCoeff() >= 0.0) || !(behind.minCoeff() >= 0.0))
        throw base::InputError("does not hold the model.", "box of air", "Type the tunnel's size.");
    t.upstream = before.x() / length;
    t.downstream = behind.x() / length;
    t.sideways = std::max(before.y(), behind.y()) / length;
    t.below = before.z() / length;
    t.above = behind.z() / length;
}

}  // namespace cvane::grid
