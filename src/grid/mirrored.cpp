#include "grid/mirrored.h"

#include <algorithm>
#include <map>

#include "grid/tunnel_sides.h"
#include "shape/triangle_tree.h"

namespace cvane::grid {
namespace {

Vec3 image(const Vec3& p) {
    return {p.x(), -p.y(), p.z()};
}

bool isMirrorPlane(const Patch& p) {
    return p.kind == PatchKind::Side && p.side == kLowY;
}

// Of each wall patch the part that most of its image belongs to: asked face by face, the rims of parts would fray.
std::vector<int> partsAtPort(const Grid& g, const shape::Surface& surface) {
    const shape::TriangleTree tree(surface);
    const Geometry faces = measuredFaces(g);
    std::vector<int> out;
    for (const Patch& p : g.patches) {
        std::map<int, double> area;
        if (p.kind == PatchKind::Wall)
            for (auto f = p.first; f < p.first + p.count; ++f) {
                const auto i = static_cast<std::size_t>(f);
                const auto hit = tree.nearest(image(faces.faceCentre[i]));
                area[surface.partOf[static_cast<std::size_t>(hit.facet)]] += faces.faceArea[i].norm();
            }
        const auto most = std::max_element(area.begin(), area.end(),
                                           [](const auto& a, const auto& b) { return a.second < b.second; });
        out.push_back(most == area.end() ? -1 : most->first);
    }
    return out;
}

}  // namespace

Grid mirrored(const Grid& half, const shape::Surface& surface) {
    Grid g;
    const CellIndex n = half.cells();
    g.cellCount = 2 * n;
    std::vector<char> inPlane(half.points.size(), 0);
    for (const Patch& p : half.patches)
        if (isMirrorPlane(p))
            for (auto f = p.first; f < p.first + p.count; ++f)
                for (const auto k : half.polygon(f)) inPlane[static_cast<std::size_t>(k)] = 1;
    g.points = half.points;
    std::vector<PointIndex> imageOf(half.points.size());
    for (std::size_t k = 0; k < half.points.size(); ++k) {
        imageOf[k] = static_cast<PointIndex>(inPlane[k] ? k : g.points.size());
        if (!inPlane[k]) g.points.push_back(image(half.points[k]));
    }

    std::vector<Patch> patches;
    for (std::size_t p = 0; p < surface.parts.size(); ++p)
        patches.push_back({surface.parts[p].name, PatchKind::Wall, static_cast<int>(p), -1, 0, 0});
    const char* const sides[6] = {"x-", "x+", "y-", "y+", "z-", "z+"};
    for (int d = 0; d < 6; ++d) patches.push_back({sides[d], PatchKind::Side, -1, d, 0, 0});
    const auto sidePatch = [&](int d) { return static_cast<int>(surface.parts.size()) + d; };

    std::vector<FaceDraft> faces;
    faces.reserve(2 * half.owner.size());
    const auto addBoth = [&](FaceIndex f, int patch, int patchAtPort) {
        const auto polygon = half.polygon(f);
        const auto i = static_cast<std::size_t>(f);
        FaceDraft here, there;
        here.points.assign(polygon.begin(), polygon.end());
        for (auto k = polygon.rbegin(); k != polygon.rend(); ++k)
            there.points.push_back(imageOf[static_cast<std::size_t>(*k)]);
        here.owner = half.owner[i];
        there.owner = n + here.owner;
        if (f < half.internalFaces()) {
            here.neighbour = half.neighbour[i];
            there.neighbour = n + here.neighbour;
        }
        here.patch = patch;
        there.patch = patchAtPort;
        faces.push_back(std::move(here));
        faces.push_back(std::move(there));
    };
    for (FaceIndex f = 0; f < half.internalFaces(); ++f) addBoth(f, -1, -1);
    const auto atPort = partsAtPort(half, surface);
    for (std::size_t k = 0; k < half.patches.size(); ++k) {
        const Patch& p = half.patches[k];
        for (auto f = p.first; f < p.first + p.count; ++f) {
            if (p.kind == PatchKind::Wall) {
                addBoth(f, p.part, atPort[k]);
            } else if (!isMirrorPlane(p)) {
                addBoth(f, sidePatch(p.side), sidePatch(p.side == kHighY ? static_cast<int>(kLowY) : p.side));
            } else {
                FaceDraft between;
                const auto polygon = half.polygon(f);
                between.points.assign(polygon.begin(), polygon.end());
                between.owner = half.owner[static_cast<std::size_t>(f)];
                between.neighbour = n + between.owner;
                faces.push_back(std::move(between));
            }
        }
    }
    assemble(g, std::move(faces), std::move(patches));

    const auto twice = [](const auto& of) {
        auto out = of;
        out.insert(out.end(), of.begin(), of.end());
        return out;
    };
    g.wallDistance = twice(half.wallDistance);
    g.level = twice(half.level);
    g.layer = twice(half.layer);
    g.surfaceCell = half.surfaceCell;
    g.firstHeight = half.firstHeight;
    g.fit = half.fit;
    g.leaks = twice(half.leaks);
    for (auto l = half.leaks.size(); l < g.leaks.size(); ++l) {
        g.leaks[l].place = image(g.leaks[l].place);
        for (Vec3& x : g.leaks[l].path) x = image(x);
    }
    g.gaps = twice(half.gaps);
    for (auto k = half.gaps.size(); k < g.gaps.size(); ++k) g.gaps[k].place = image(g.gaps[k].place);
    g.notes = half.notes + "; the port half is the image of the starboard one";
    return g;
}

}  // namespace cvane::grid
