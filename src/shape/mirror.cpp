#include "shape/mirror.h"

#include <algorithm>
#include <utility>

#include "shape/triangle_tree.h"

namespace cvane::shape {

bool isMirrorImage(const Surface& s, double tolerance) {
    const Box b = s.bounds();
    if (std::abs(b.low.y() + b.high.y()) > tolerance) return false;
    const TriangleTree tree(s);
    std::vector<char> asked(s.points.size(), 0);  // facets share their corners
    return std::all_of(s.facets.begin(), s.facets.end(), [&](const auto& f) {
        return std::all_of(f.begin(), f.end(), [&](std::int32_t k) {
            if (std::exchange(asked[static_cast<std::size_t>(k)], 1)) return true;
            const Vec3& p = s.points[static_cast<std::size_t>(k)];
            return tree.closerThan(Vec3(p.x(), -p.y(), p.z()), tolerance);
        });
    });
}

std::vector<int> mirroredParts(const Surface& s, double tolerance) {
    std::vector<Box> boxes(s.parts.size());
    for (std::size_t f = 0; f < s.facets.size(); ++f)
        for (int k = 0; k < 3; ++k) boxes[static_cast<std::size_t>(s.partOf[f])].add(s.corner(f, k));
    std::vector<int> out;
    for (const Box& b : boxes) {
        int best = -1;
        double off = tolerance;
        for (std::size_t j = 0; j < boxes.size() && !b.empty(); ++j) {
            if (boxes[j].empty()) continue;
            const Vec3 low(boxes[j].low.x(), -boxes[j].high.y(), boxes[j].low.z());
            const Vec3 high(boxes[j].high.x(), -boxes[j].low.y(), boxes[j].high.z());
            const double here = std::max((b.low - low).cwiseAbs().maxCoeff(), (b.high - high).cwiseAbs().maxCoeff());
            if (here > off) continue;
            off = here;
            best = static_cast<int>(j);
        }
        out.push_back(best);
    }
    return out;
}

}  // namespace cvane::shape
