#include "panels/mirrored.h"

#include <cmath>

#include "shape/clip.h"
#include "shape/edges.h"
#include "shape/mirror.h"

namespace cvane::panels {
namespace {
constexpr double kAlike = 1e-4;    // of the surface's size
constexpr double kInPlane = 1e-9;  // and what lies in the plane but for rounding

shape::Surface withoutWhatLiesInPlane(shape::Surface s) {
    std::size_t kept = 0;
    for (std::size_t f = 0; f < s.facets.size(); ++f) {
        bool inPlane = true;
        for (int k = 0; k < 3; ++k) inPlane = inPlane && s.corner(f, k).y() == 0.0;
        if (inPlane) continue;
        s.facets[kept] = s.facets[f];
        s.partOf[kept++] = s.partOf[f];
    }
    s.facets.resize(kept);
    s.partOf.resize(kept);
    return s;
}

// A half with its rim in the plane, to the last bit.
shape::Surface halfOf(shape::Surface s) {
    const double near = kInPlane * s.bounds().size().norm();
    const auto laid = [near](shape::Surface& of) {
        for (auto& p : of.points)
            if (std::abs(p.y()) < near) p.y() = 0.0;
    };
    laid(s);  // else a corner on the plane would be cut off from one facet and not from the next
    auto half = shape::beyondPlane(s, 1, 0.0);
    laid(half);
    return withoutWhatLiesInPlane(half);
}

// Whether it is open nowhere but in the plane, where it may be.
bool isClosed(const shape::Surface& s, bool inPlaneToo) {
    for (const auto& e : shape::edgesOf(s)) {
        const auto off = [&](std::int32_t p) { return s.points[static_cast<std::size_t>(p)].y() != 0.0; };
        if (e.uses.size() > 2 || (e.uses.size() < 2 && (inPlaneToo || off(e.a) || off(e.b)))) return false;
    }
    return true;
}

shape::Surface withImage(const shape::Surface& given, const std::vector<int>& imageOf) {
    const auto half = withoutWhatLiesInPlane(given);  // it would lie there twice
    shape::Surface s = half;
    const auto first = static_cast<std::int32_t>(s.points.size());
    for (const auto& p : half.points) s.points.emplace_back(p.x(), -p.y(), p.z());
    s.facets.clear();
    s.partOf.clear();
    for (std::size_t f = 0; f < half.facets.size(); ++f) {
        const auto& t = half.facets[f];
        const auto part = half.partOf[f];
        const int image = imageOf.empty() ? -1 : imageOf[static_cast<std::size_t>(part)];
        s.facets.push_back(t);
        s.partOf.push_back(part);
        s.facets.push_back({t[0] + first, t[2] + first, t[1] + first});
        s.partOf.push_back(image < 0 ? part : image);
    }
    for (auto& p : s.points) p.y() += 0.0;  // no -0
    shape::weld(s);
    return s;
}
}  // namespace

shape::Surface wholeOf(const shape::Surface& s) {
    return withImage(halfOf(s), {});
}

shape::Surface remeshedAlike(const shape::Surface& s, const Panelling& panelling, const base::Progress& progress) {
    const double near = kAlike * s.bounds().size().norm();
    if (s.bounds().low.y() > -near || !shape::isMirrorImage(s, near)) return remeshed(s, panelling, progress);
    auto ofHalf = panelling;
    ofHalf.count /= 2;
    auto half = halfOf(s);
    shape::weld(half);
    if (!isClosed(half, false)) return remeshed(s, panelling, progress);
    auto cut = remeshed(half, ofHalf, progress);
    // The rim has been moved along itself, in the plane but for rounding.
    const double inPlane = kInPlane * s.bounds().size().norm();
    for (auto& p : cut.points)
        if (std::abs(p.y()) < inPlane) p.y() = 0.0;
    auto whole = withImage(cut, shape::mirroredParts(s, 10.0 * near));
    return isClosed(whole, true) ? whole : remeshed(s, panelling, progress);
}

}  // namespace cvane::panels
