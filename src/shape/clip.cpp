#include "shape/clip.h"

namespace cvane::shape {

Surface beyondPlane(const Surface& s, int axis, double at) {
    Surface out;
    out.parts = s.parts;
    out.points = s.points;
    for (std::size_t f = 0; f < s.facets.size(); ++f) {
        // The corners of what is left, in their order: three or four.
        std::vector<std::int32_t> left;
        for (std::size_t k = 0; k < 3; ++k) {
            const auto i = s.facets[f][k], j = s.facets[f][(k + 1) % 3];
            const Vec3 &a = s.points[static_cast<std::size_t>(i)], &b = s.points[static_cast<std::size_t>(j)];
            const double da = a[axis] - at, db = b[axis] - at;
            if (da >= 0.0) left.push_back(i);
            if ((da < 0.0) == (db < 0.0)) continue;
            // From the same end for both facets of an edge, so that they share the point to the last bit.
            Vec3 cut = i < j ? Vec3(a + da / (da - db) * (b - a)) : Vec3(b + db / (db - da) * (a - b));
            cut[axis] = at;
            left.push_back(static_cast<std::int32_t>(out.points.size()));
            out.points.push_back(cut);
        }
        for (std::size_t k = 2; k < left.size(); ++k) {
            out.facets.push_back({left[0], left[k - 1], left[k]});
            out.partOf.push_back(s.partOf[f]);
        }
    }
    return out;
}

}  // namespace cvane::shape
