#include "grid/brick.h"

#include "grid/kept_cells.h"
#include "grid/staircase.h"
#include "grid/wall_layers.h"

namespace cvane::grid {

Grid brick(const Box& box, const std::array<int, 3>& cells) {
    return refinedBrick(box, cells, {});
}

Grid refinedBrick(const Box& box, const std::array<int, 3>& roots, const std::vector<Sizing::Region>& regions) {
    const shape::Surface nothing;
    const shape::TriangleTree noFacets;
    Octree tree(box, {roots[0], roots[1], roots[2]}, noFacets);
    Sizing sizing;
    sizing.regions = regions;
    refine(tree, nothing, sizing);
    const auto kept = keepCells(tree, noFacets, 0.0);
    const auto stairs = makeStaircase(tree, kept);
    std::vector<std::uint8_t> levels;
    for (const auto l : kept.leaves) levels.push_back(tree.node(l).level);
    Grid g = addWallLayers(
        stairs, WallImage{{}, std::vector<std::int32_t>(stairs.points.size(), -1), {}, {}, {}, {}, {}}, stairs.points,
        Layers{1, 0.0, {}, {}, {}}, {}, [](const Vec3&) { return 0; }, levels);
    g.wallDistance.assign(static_cast<std::size_t>(g.cells()), 1e30);
    return g;
}

}  // namespace cvane::grid
