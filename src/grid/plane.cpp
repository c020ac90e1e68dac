#include "grid/plane.h"

#include <fmt/format.h>

#include <algorithm>
#include <map>

#include "base/errors.h"
#include "grid/structured.h"

namespace cvane::grid {

Grid planeGrid(const PlaneCells& plane, double width, const std::function<Patch(int, int)>& patch) {
    const auto n = static_cast<int>(plane.points.size());
    Grid g;
    for (const double y : {0.0, width})
        for (const auto& p : plane.points) g.points.push_back(Vec3(p.x(), y, p.y()));
    g.cellCount = static_cast<CellIndex>(plane.quads.size());
    g.level.assign(plane.quads.size(), 0);
    g.layer.assign(plane.quads.size(), 0);
    std::vector<Patch> patches;
    std::vector<FaceDraft> faces;
    const auto numberOf = [&](const Patch& wanted) {
        const auto it =
            std::find_if(patches.begin(), patches.end(), [&](const Patch& p) { return p.name == wanted.name; });
        const auto number = static_cast<int>(it - patches.begin());
        if (it == patches.end()) patches.push_back(wanted);
        return number;
    };
    struct Edge {
        int a, b, cell;
    };
    std::map<std::pair<int, int>, Edge> open;  // edges seen once, by their points in order
    for (std::size_t c = 0; c < plane.quads.size(); ++c) {
        auto q = plane.quads[c];
        double area = 0.0;
        for (std::size_t k = 0; k < 4; ++k) {
            const auto &u = plane.points[static_cast<std::size_t>(q[k])],
                       &v = plane.points[static_cast<std::size_t>(q[(k + 1) % 4])];
            area += 0.5 * (u.x() * v.y() - v.x() * u.y());
        }
        if (!(std::abs(area) > 0.0))
            throw base::InputError(fmt::format("cell {} of the plane has no area.", c), "grid", "Move its points.");
        if (area < 0.0) std::reverse(q.begin(), q.end());  // counter-clockwise in x, z
        const auto cell = static_cast<CellIndex>(c);
        // Seen along y the plane's x and z turn left-handed: outward normals are those of the reversed order at y = 0.
        faces.push_back({{q[0], q[1], q[2], q[3]}, cell, -1, numberOf({"y-", PatchKind::Side, -1, 2, 0, 0})});
        faces.push_back(
            {{q[3] + n, q[2] + n, q[1] + n, q[0] + n}, cell, -1, numberOf({"y+", PatchKind::Side, -1, 3, 0, 0})});
        for (std::size_t k = 0; k < 4; ++k) {
            const int a = q[k], b = q[(k + 1) % 4];
            const auto key = std::minmax(a, b);
            if (const auto it = open.find(key); it == open.end()) {
                open[key] = {a, b, cell};
            } else {
                // Owner first: its edge runs a to b with the cell on the left, so outward is to the right.
                const Edge e = it->second;
                faces.push_back({{e.a, e.a + n, e.b + n, e.b}, e.cell, cell, -1});
                open.erase(it);
            }
        }
    }
    for (const auto& [key, e] : open)
        faces.push_back({{e.a, e.a + n, e.b + n, e.b}, e.cell, -1, numberOf(patch(e.a, e.b))});
    assemble(g, std::move(faces), std::move(patches));
    const auto geo = geometryOf(g);
    for (std::size_t c = 0; c < geo.volume.size(); ++c)
        if (!(geo.volume[c] > 0.0))
            throw base::InputError(fmt::format("cell {} of the plane is folded.", c), "grid", "Move its points.");
    measureWallDistance(g);
    return g;
}

}  // namespace cvane::grid
