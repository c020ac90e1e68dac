#include "grid/layer_coverage.h"

#include <algorithm>
#include <cmath>

namespace cvane::grid {

std::vector<WallColumn> wallColumns(const Grid& g, const Geometry& geo) {
    // Cells of a column follow one another, the one on the wall last.
    std::vector<WallColumn> out;
    for (const Patch& p : g.patches) {
        if (p.kind != PatchKind::Wall) continue;
        for (auto f = p.first; f < p.first + p.count; ++f) {
            const auto i = static_cast<std::size_t>(f);
            WallColumn column{f};
            column.first = g.owner[i];
            double area = geo.faceArea[i].norm(), before = 0.0;
            for (CellIndex c = column.first; c >= 0; --c) {
                const auto k = static_cast<std::size_t>(c);
                if (g.layer[k] != column.layers + 1) break;
                // A face of no area belongs to a column that has collapsed on an edge.
                const double height = area > 0.0 ? geo.volume[k] / area : 0.0;
                if (before > 0.0) column.growth = std::max(column.growth, height / before);
                before = height;
                column.thickness += height;
                ++column.layers;
            }
            out.push_back(column);
        }
    }
    return out;
}

LayerCoverage coverageOf(const Grid& g, const Geometry& geo, const std::function<double(const Vec3&)>& thickness) {
    LayerCoverage out;
    double all = 0.0, gentle = 0.0, covered = 0.0;
    std::vector<std::pair<double, double>> shares;  // and area
    for (const WallColumn& c : wallColumns(g, geo)) {
        const auto f = static_cast<std::size_t>(c.face);
        const double area = geo.faceArea[f].norm(), layer = thickness(geo.faceCentre[f]);
        const double share = layer > 0.0 ? c.thickness / layer : 1e3;
        all += area;
        if (c.growth <= kGentleGrowth) gentle += area;
        if (share >= kCovering) covered += area;
        shares.emplace_back(share, area);
    }
    if (!(all > 0.0)) return out;
    out.growsGently = gentle / all;
    out.covered = covered / all;
    std::sort(shares.begin(), shares.end());
    double sum = 0.0;
    for (const auto& [share, area] : shares) {
        sum += area;
        out.medianShare = share;
        if (sum >= 0.5 * all) break;
    }
    return out;
}

}  // namespace cvane::grid
