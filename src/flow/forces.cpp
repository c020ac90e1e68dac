#include "flow/forces.h"

namespace cvane::flow {
namespace {
template <class Visit>
void forEachWallFace(const Piece& p, const std::vector<PatchRole>& roles, const State& s, const WallState& walls,
                     const std::vector<Vec3>& gradP, Visit&& visit) {
    for (std::size_t f = p.linked; f < p.faces(); ++f) {
        const std::size_t patch = p.patch(f);
        if (!roles[patch].onModel || !(p.area[f] > 0.0)) continue;
        const auto c = static_cast<std::size_t>(p.P[f]);
        const Vec3 n = p.S[f] / p.area[f];
        const double pressure = s.p[c] + gradP[c].dot(p.xf[f] - p.x[c]);
        const Vec3 u = s.U[c] - roles[patch].motion.at(p.xf[f]);
        const Vec3 shear = walls.nuWall[f - p.linked] * p.gap[f] / p.area[f] * (u - u.dot(n) * n);
        visit(f, patch, pressure, shear);
    }
}
}  // namespace

std::vector<WallSample> sampleWalls(const Piece& p, const std::vector<PatchRole>& roles, const State& s,
                                    const WallState& walls, const std::vector<Vec3>& gradP) {
    std::vector<WallSample> out;
    forEachWallFace(p, roles, s, walls, gradP, [&](std::size_t f, std::size_t, double pressure, const Vec3& shear) {
        out.push_back({p.globalFace[f], pressure, shear, walls.yPlus[f - p.linked], p.xf[f], p.area[f]});
    });
    return out;
}

std::vector<Load> loads(const Piece& p, const std::vector<PatchRole>& roles, const State& s, const WallState& walls,
                        const std::vector<Vec3>& gradP, const Vec3& centre, const Ranks& ranks) {
    std::vector<Load> out(roles.size());
    forEachWallFace(p, roles, s, walls, gradP,
                    [&](std::size_t f, std::size_t patch, double pressure, const Vec3& shear) {
                        const Vec3 r = p.xf[f] - centre, fp = pressure * p.S[f], ff = p.area[f] * shear;
                        Load& l = out[patch];
                        l.pressure += fp;
                        l.friction += ff;
                        l.pressureMoment += r.cross(fp);
                        l.frictionMoment += r.cross(ff);
                    });
    ranks.sum(std::span<double>(out.data()->pressure.data(), kLoadNumbers * out.size()));
    return out;
}

}  // namespace cvane::flow
