#include "flow/momentum_balance.h"

namespace cvane::flow {

Vec3 forceFromOutside(const Piece& p, const std::vector<PatchRole>& roles, const State& s, const WallState& walls,
                      const std::vector<Vec3>& wallValues, const std::vector<Mat3>& gradU,
                      const std::vector<Vec3>& gradP, const Devices& devices, const Vec3& V, double nu,
                      const Ranks& ranks) {
    Vec3 F = Vec3::Zero();
    for (std::size_t f = p.linked; f < p.faces(); ++f) {
        const PatchRole& r = roles[p.patch(f)];
        if (r.onModel || !(p.area[f] > 0.0)) continue;
        const auto P = static_cast<std::size_t>(p.P[f]);
        const Vec3 d = p.xf[f] - p.x[P], n = p.S[f] / p.area[f];
        const Vec3& U = s.U[P];
        const double flux = s.flux[f];
        if (r.role != Role::Outflow) F -= (s.p[P] + gradP[P].dot(d)) * p.S[f];
        const double g = (nu + s.nuT[P]) * p.gap[f];
        const Vec3& at = wallValues[f - p.linked];
        switch (r.role) {
            case Role::Inflow:
                F -= flux * ((flux > 0.0 ? Vec3(at + gradU[P] * d) : at) - V) - g * (at - U);
                break;
            case Role::Outflow:
            case Role::Open:
                if (flux > 0.0) F -= flux * (U - V);
                break;
            case Role::Slip:
                F += g * (at - U);
                break;
            case Role::Wall: {
                const Vec3 u = at - U;
                F += walls.nuWall[f - p.linked] * p.gap[f] * (u - u.dot(n) * n);
                break;
            }
        }
    }
    devices.forEachCell([&](std::size_t c, const Vec3& force, const Vec3& resistance) {
        F += force - resistance.cwiseProduct(s.U[c]);
    });
    ranks.sum(std::span<double>(F.data(), 3));
    return F;
}

}  // namespace cvane::flow
