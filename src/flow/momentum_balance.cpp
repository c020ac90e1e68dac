#include "flow/momentum_balance.h"

namespace cvane::flow {

Vec3 forceFromOutside(const Flow& flow, const Boundaries& boundaries, const Devices& devices, const Ranks& ranks) {
    const Piece& p = flow.piece;
    Vec3 F = Vec3::Zero();
    for (std::size_t f = p.linked; f < p.faces(); ++f) {
        if (boundaries.role(f).onModel || !(p.area[f] > 0.0)) continue;
        const BoundaryForce force = boundaries.at(f).force(flow, f);
        F += force.pressure;
        F += force.momentum;
    }
    devices.forEachCell([&](std::size_t c, const Vec3& force, const Vec3& resistance) {
        F += force - resistance.cwiseProduct(flow.state.U[c]);
    });
    ranks.sum(std::span<double>(F.data(), 3));
    return F;
}

}  // namespace cvane::flow
