#include "grid/grid.h"

#include <algorithm>
#include <cassert>
#include <numeric>

namespace cvane::grid {

Geometry geometryOf(const Grid& g) {
    Geometry geo;
    const auto nf = static_cast<std::size_t>(g.faces());
    const auto nc = static_cast<std::size_t>(g.cells());
    geo.faceArea.resize(nf);
    geo.faceCentre.resize(nf);
#pragma omp parallel for schedule(static)
    for (FaceIndex face = 0; face < g.faces(); ++face) {
        const auto f = static_cast<std::size_t>(face);
        const auto poly = g.polygon(face);
        Vec3 mean = Vec3::Zero();
        for (const auto p : poly) mean += g.points[static_cast<std::size_t>(p)];
        mean /= static_cast<double>(poly.size());
        Vec3 S = Vec3::Zero(), moment = Vec3::Zero();
        double weight = 0.0;
        for (std::size_t k = 0; k < poly.size(); ++k) {
            const Vec3& a = g.points[static_cast<std::size_t>(poly[k])];
            const Vec3& b = g.points[static_cast<std::size_t>(poly[(k + 1) % poly.size()])];
            const Vec3 s = 0.5 * (a - mean).cross(b - mean);
            const double w = s.norm();
            S += s;
            moment += w * (a + b + mean) / 3.0;
            weight += w;
        }
        geo.faceArea[f] = S;
        geo.faceCentre[f] = weight > 0.0 ? (moment / weight).eval() : mean;
    }
    std::vector<Vec3> about(nc, Vec3::Zero());
    std::vector<int> count(nc, 0);
    const auto eachSide = [&](auto&& visit) {
        for (std::size_t f = 0; f < nf; ++f) {
            visit(static_cast<std::size_t>(g.owner[f]), f, 1.0);
            if (f < g.neighbour.size()) visit(static_cast<std::size_t>(g.neighbour[f]), f, -1.0);
        }
    };
    eachSide([&](std::size_t c, std::size_t f, double) {
        about[c] += geo.faceCentre[f];
        ++count[c];
    });
    for (std::size_t c = 0; c < nc; ++c) about[c] /= std::max(count[c], 1);
    geo.volume.assign(nc, 0.0);
    geo.cellCentre.assign(nc, Vec3::Zero());
    eachSide([&](std::size_t c, std::size_t f, double sign) {
        // Pyramid over the face: V = S.(x_f - a) / 3, centroid at 3/4 of the way from the apex to the face's centre.
        const double v = sign * geo.faceArea[f].dot(geo.faceCentre[f] - about[c]) / 3.0;
        geo.volume[c] += v;
        geo.cellCentre[c] += v * (0.75 * geo.faceCentre[f] + 0.25 * about[c]);
    });
    for (std::size_t c = 0; c < nc; ++c)
        geo.cellCentre[c] = geo.volume[c] > 0.0 ? (geo.cellCentre[c] / geo.volume[c]).eval() : about[c];
    return geo;
}

void assemble(Grid& g, std::vector<FaceDraft>&& faces, std::vector<Patch> patches) {
    for (FaceDraft& f : faces)
        if (f.neighbour >= 0 && f.neighbour < f.owner) {
            std::swap(f.owner, f.neighbour);
            std::reverse(f.points.begin(), f.points.end());
        }
    std::vector<std::int32_t> order(faces.size());
    std::iota(order.begin(), order.end(), 0);
    std::sort(order.begin(), order.end(), [&](auto i, auto j) {
        const FaceDraft &a = faces[static_cast<std::size_t>(i)], &b = faces[static_cast<std::size_t>(j)];
        if (a.patch != b.patch) return a.patch < b.patch;  // internal faces carry -1 and come first
        if (a.owner != b.owner) return a.owner < b.owner;
        if (a.neighbour != b.neighbour) return a.neighbour < b.neighbour;
        return i < j;
    });
    g.faceStart.assign(1, 0);
    g.facePoints.clear();
    g.owner.clear();
    g.neighbour.clear();
    for (Patch& p : patches) p.first = p.count = 0;
    for (const auto i : order) {
        const FaceDraft& f = faces[static_cast<std::size_t>(i)];
        if (f.patch >= 0) {
            Patch& p = patches[static_cast<std::size_t>(f.patch)];
            if (p.count++ == 0) p.first = static_cast<FaceIndex>(g.owner.size());
        } else {
            g.neighbour.push_back(f.neighbour);
        }
        g.facePoints.insert(g.facePoints.end(), f.points.begin(), f.points.end());
        g.faceStart.push_back(static_cast<std::int64_t>(g.facePoints.size()));
        g.owner.push_back(f.owner);
    }
    std::erase_if(patches, [](const Patch& p) { return p.count == 0; });
    g.patches = std::move(patches);
}

void dropLoosePoints(Grid& g) {
    std::vector<PointIndex> number(g.points.size(), -1);
    for (const auto p : g.facePoints) number[static_cast<std::size_t>(p)] = 0;
    PointIndex next = 0;
    for (std::size_t i = 0; i < number.size(); ++i) {
        if (number[i] < 0) continue;
        g.points[static_cast<std::size_t>(next)] = g.points[i];
        number[i] = next++;
    }
    g.points.resize(static_cast<std::size_t>(next));
    for (auto& p : g.facePoints) p = number[static_cast<std::size_t>(p)];
}

}  // namespace cvane::grid
