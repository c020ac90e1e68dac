#include "grid/gaps.h"

#include <algorithm>
#include <cmath>

#include "shape/triangle.h"

namespace cvane::grid {
namespace {
// Cells of the staircase keep clear of the wall on either side by a third of their size: from this many sizes on one
// fits, wherever the lattice lies.
constexpr double kSureCell = 3.5;
constexpr double kAcross[] = {0.2, 0.35, 0.5, 0.65, 0.8};  // where a cell is looked for between the walls
// Of the cells of a gap, the share beside places where it closes to nothing, above which it is the edge of a wedge.
constexpr double kWedge = 0.1;
}  // namespace

AirGap narrowestGap(const Octree& tree, std::int32_t node, const Sizing& sizing, double reachInCells) {
    constexpr std::size_t kTried = 6;  // facets of a cell say much the same
    const Octree::Node& n = tree.node(node);
    const shape::TriangleTree& model = tree.surface();
    const Vec3 middle = tree.boxOf(n).centre();
    const double size = tree.cellSize(n.level).minCoeff(), reach = reachInCells * size;
    const auto facets = tree.facetsIn(node);
    const std::size_t step = std::max<std::size_t>(1, facets.size() / kTried);
    AirGap least;
    for (std::size_t k = 0; k < facets.size(); k += step) {
        const auto& c = model.corners(facets[k]);
        const Vec3 a = model.areaVector(facets[k]);
        if (!(a.norm() > 0.0)) continue;
        const Vec3 out = a.normalized(), from = shape::closestPointOnTriangle(middle, c[0], c[1], c[2]),
                   to = from + reach * out;
        for (const auto& plane : sizing.planes) {
            const double d = plane.at - from[plane.axis];
            if (out[plane.axis] * d > 0.3 * std::abs(d) && std::abs(d) < std::min(reach, least.width)) {
                least = {std::abs(d), from, Vec3::Zero()};
                least.across[plane.axis] = d;
            }
        }
        Box way;
        way.add(from);
        way.add(to);
        model.forEachNear(way, [&](std::int32_t f) {
            if (f == facets[k]) return;
            const Vec3 b = model.areaVector(f);
            if (b.dot(out) > -0.3 * b.norm()) return;
            const auto& t = model.corners(f);
            if (!shape::pierces(from + 0.02 * size * out, to, t[0], t[1], t[2])) return;
            if (const double d = b.dot(t[0] - from) / b.dot(out); std::abs(d) < least.width)
                least = {std::abs(d), from, d * out};
        });
    }
    return least;
}

std::vector<ClosedGap> closedGaps(const Octree& tree, const KeptCells& kept, const Sizing& sizing) {
    enum : char { Open, Narrow, Touching };
    const auto count = static_cast<std::size_t>(tree.nodes());
    std::vector<char> state(count, Open);
    std::vector<float> width(count, 0.0f);
    double whole = 0.0;
    const auto n = static_cast<std::ptrdiff_t>(count);
    const auto areaIn = [&](std::size_t i) {
        const double h = tree.cellSize(tree.node(static_cast<std::int32_t>(i)).level).minCoeff();
        return h * h;
    };
#pragma omp parallel for schedule(dynamic, 1024) reduction(+ : whole)
    for (std::ptrdiff_t k = 0; k < n; ++k) {
        const auto i = static_cast<std::size_t>(k);
        const auto& node = tree.node(static_cast<std::int32_t>(k));
        if (node.child >= 0 || !node.cut) continue;
        whole += areaIn(i);
        const AirGap gap = narrowestGap(tree, static_cast<std::int32_t>(k), sizing, kSureCell);
        if (gap.width > 1e299) continue;
        const bool open = std::any_of(std::begin(kAcross), std::end(kAcross), [&](double share) {
            const auto there = tree.leafAt(gap.from + share * gap.across);
            return there >= 0 && kept.cellOf[static_cast<std::size_t>(there)] >= 0;
        });
        if (open) continue;
        state[i] = gap.width < sizing.narrowestGap ? Touching : Narrow;
        width[i] = static_cast<float>(gap.width);
    }
    std::vector<ClosedGap> out;
    std::vector<char> seen(count, 0);
    for (std::size_t first = 0; first < count; ++first) {
        if (state[first] != Narrow || seen[first]) continue;
        // The cells of one gap: those next to each other.
        std::vector<std::int32_t> cells{static_cast<std::int32_t>(first)};
        seen[first] = 1;
        ClosedGap gap;
        double besideTouching = 0.0, sum = 0.0;
        bool air = false;
        for (std::size_t k = 0; k < cells.size(); ++k) {
            const auto i = static_cast<std::size_t>(cells[k]);
            gap.area += areaIn(i);
            sum += width[i];
            bool touches = false;
            tree.forEachFaceNeighbour(cells[k], [&](std::int32_t m, int) {
                const auto j = static_cast<std::size_t>(m);
                touches = touches || state[j] == Touching;
                air = air || kept.cellOf[j] >= 0;
                if (state[j] != Narrow || seen[j]) return;
                seen[j] = 1;
                cells.push_back(m);
            });
            besideTouching += touches;
        }
        const double number = static_cast<double>(cells.size());
        if (besideTouching > kWedge * number || gap.area < kLeastOfModel * whole) continue;
        // Air stands beside the cells of its mouth, or beside those next to them.
        for (std::size_t k = 0; k < cells.size() && !air; ++k)
            tree.forEachFaceNeighbour(cells[k], [&](std::int32_t m, int) {
                tree.forEachFaceNeighbour(
                    m, [&](std::int32_t o, int) { air = air || kept.cellOf[static_cast<std::size_t>(o)] >= 0; });
            });
        if (!air) continue;
        gap.width = sum / number;
        gap.place = tree.boxOf(tree.node(cells[cells.size() / 2])).centre();
        // Both walls' cells are counted in the area; a buffer of the same cells lies around the mouth.
        const double fine = gap.width / Sizing::kOpenCells;
        gap.cells = 0.5 * gap.area / (fine * fine) * (Sizing::kOpenCells + 2.0 * sizing.bufferCells);
        out.push_back(gap);
    }
    std::sort(out.begin(), out.end(), [](const auto& a, const auto& b) { return a.area > b.area; });
    return out;
}

}  // namespace cvane::grid
