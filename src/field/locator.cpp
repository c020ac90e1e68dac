#include "field/locator.h"

#include <Eigen/Dense>
#include <algorithm>

namespace cvane::field {
namespace {
constexpr double kInside = -1e-9;  // weights of a place on the boundary of two tetrahedra
constexpr double kSliver = -0.3;   // weights of a place in a sliver of a cell that is not convex
constexpr int kMostSteps = 60;     // from cell to cell until the place is searched for everywhere
}  // namespace

Locator::Best Locator::bestIn(CellIndex c, const Vec3& x) const {
    Best best;
    const auto& grid = mesh_.grid();
    const Node middleNode = mesh_.ofCell(c);
    const Vec3 middle = mesh_.place(middleNode), d = x - middle;
    for (const FaceIndex f : mesh_.facesOf(c)) {
        const Node faceNode = mesh_.ofFace(f);
        const Vec3 w = mesh_.place(faceNode) - middle;
        const auto polygon = grid.polygon(f);
        Vec3 u = grid.points[static_cast<std::size_t>(polygon.back())] - middle;
        auto a = polygon.back();
        for (const auto b : polygon) {
            const Vec3 v = grid.points[static_cast<std::size_t>(b)] - middle;
            const Vec3 vw = v.cross(w);
            const double det = u.dot(vw);
            if (std::abs(det) > 1e-300) {
                const double wa = d.dot(vw) / det, wb = u.dot(d.cross(w)) / det, wf = u.dot(v.cross(d)) / det,
                             wm = 1.0 - wa - wb - wf, least = std::min({wa, wb, wf, wm});
                if (least > best.least) {
                    best.least = least;
                    best.spot = {c, {a, b, faceNode, middleNode}, {wa, wb, wf, wm}};
                    if (least >= 0.0) return best;
                }
            }
            u = v;
            a = b;
        }
    }
    return best;
}

std::optional<Spot> Locator::search(const Vec3& x) {
    cell_ = mesh_.cellAt(x);
    if (cell_ < 0) return std::nullopt;
    const Best best = bestIn(cell_, x);
    return best.least > kSliver ? std::optional(best.spot) : std::nullopt;
}

std::optional<Spot> Locator::find(const Vec3& x) {
    if (auto spot = follow(x)) return spot;
    return search(x);
}

std::optional<Spot> Locator::follow(const Vec3& x) {
    left_ = -1;
    if (cell_ < 0) return search(x);
    CellIndex before = -1;
    Best last;
    for (int step = 0; step < kMostSteps; ++step) {
        const Best best = bestIn(cell_, x);
        if (best.least >= kInside) return best.spot;
        const auto [face, beyond] = mesh_.farthestBeyond(cell_, x);
        // In a sliver between the tetrahedra of a cell that is not quite convex, or a hair beyond a face that is not
        // plane.
        if ((beyond <= 0.0 && best.least > kSliver) || best.least > -1e-6) return best.spot;
        if (beyond <= 0.0) break;
        const CellIndex next = mesh_.across(face, cell_);
        if (next < 0) {
            left_ = face;
            return std::nullopt;
        }
        // Each of two cells takes it for the other's: it lies in a sliver between them.
        if (next == before) {
            const Best& nearer = best.least > last.least ? best : last;
            if (nearer.least > kSliver) return nearer.spot;
            break;
        }
        before = cell_;
        last = best;
        cell_ = next;
    }
    return search(x);
}

}  // namespace cvane::field
