#include "flow/wall_gradient.h"

#include <algorithm>

namespace cvane::flow {
namespace {
// A laminar layer of no pressure gradient (Blasius) over three equal cells has 1.3 between the first two slopes, over
// two cells 2.0.
constexpr double kSteepest = 2.0;
}  // namespace

std::vector<WallGradient> carryWallProfile(const Piece& p, const std::vector<PatchRole>& roles, const State& s,
                                           const WallState& walls, const std::vector<Vec3>& wallValues,
                                           const Gradient& gradient, bool turbulent, std::vector<Mat3>& G) {
    std::vector<WallGradient> before;
    std::vector<char> kept(static_cast<std::size_t>(p.cells), 0);
    for (std::size_t f = p.linked; f < p.faces(); ++f) {
        if (!roles[p.patch(f)].boundary->sticks() || !(p.area[f] > 0.0)) continue;
        const std::size_t i = f - p.linked, P = static_cast<std::size_t>(p.P[f]);
        const Vec3 n = p.S[f] / p.area[f], across = s.U[P] - wallValues[i], along = across - across.dot(n) * n;
        double share = walls.slopeShare[i];
        if (!turbulent) {
            const double speed = along.norm();
            if (!(speed > 0.0)) continue;
            // g = weight * fromWall + (1 - weight) * beyond, all along the speed and away from the wall
            const double y = p.area[f] / p.gap[f], fromWall = speed / y,
                         weight = std::min(gradient.forP(f).dot(n) * y, 0.9);
            const double g = -along.dot(G[P] * n) / speed, beyond = (g - weight * fromWall) / (1.0 - weight);
            share = std::clamp(kSteepest * beyond / fromWall, 0.0, 1.0);
        }
        if (!kept[P]) before.push_back({P, G[P]});
        kept[P] = 1;
        // What the gradient was told of the wall is U_wall; told U_wall + (1 - share) (U - U_wall) it has the share of
        // the slope.
        G[P] += (1.0 - share) * along * gradient.forP(f).transpose();
    }
    return before;
}

}  // namespace cvane::flow
