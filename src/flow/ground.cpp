#include "flow/ground.h"

#include <algorithm>
#include <cmath>

namespace cvane::flow {

std::optional<std::size_t> partGround(Piece& p, const Case& c) {
    if (c.tunnel.floor == grid::Floor::None || !c.groundLayerFrom) return std::nullopt;
    const auto ground = std::find_if(p.patches.begin(), p.patches.end(), [](const grid::Patch& patch) {
        return patch.kind == grid::PatchKind::Side && patch.side == grid::kBelow;
    });
    if (ground == p.patches.end()) return std::nullopt;
    const auto old = static_cast<std::int32_t>(ground - p.patches.begin()),
               added = static_cast<std::int32_t>(p.patches.size());
    grid::Patch ahead = *ground;
    ahead.name += " ahead";
    p.patches.push_back(ahead);
    for (std::size_t f = p.linked; f < p.faces(); ++f)
        if (p.patchOf[f - p.linked] == old && p.xf[f].x() < *c.groundLayerFrom) p.patchOf[f - p.linked] = added;
    return static_cast<std::size_t>(added);
}

double groundLayerBegin(const Piece& p, const Case& c, const Ranks& ranks) {
    double first = 1e300;
    for (std::size_t f = p.linked; f < p.faces(); ++f) first = std::min(first, p.xf[f].x());
    return c.groundLayerFrom.value_or(-ranks.max(-first));
}

std::vector<double> distanceToWalls(const Piece& p, const Case& c) {
    auto distance = p.wallDistance;
    if (c.tunnel.floor == grid::Floor::None) return distance;
    for (std::size_t i = 0; i < distance.size(); ++i) {
        const double ahead = c.groundLayerFrom ? std::max(0.0, *c.groundLayerFrom - p.x[i].x()) : 0.0;
        distance[i] = std::min(distance[i], std::hypot(ahead, p.x[i].z() - p.lowest));
    }
    return distance;
}

}  // namespace cvane::flow
