#include "grid/grid.h"

#include <algorithm>
#include <cassert>
#include <numeric>

namespace cvane::grid {

namespace {
void measureFace(const Grid& g, FaceIndex face, Geometry& geo) {
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

// Centres and volumes of the cells for which `wanted` holds.
template <class Wanted>
void measureCells(const Grid& g, Wanted&& wanted, Geometry& geo) {
    const auto nc = static_cast<std::size_t>(g.cells());
    std::vector<Vec3> about(nc, Vec3::Zero());
    std::vector<int> count(nc, 0);
    const auto eachSide = [&](auto&& visit) {
        for (std::size_t f = 0; f < g.owner.size(); ++f) {
            if (const auto P = static_cast<std::size_t>(g.owner[f]); wanted(P)) visit(P, f, 1.0);
            if (f >= g.neighbour.size()) continue;
            if (const auto N = static_cast<std::size_t>(g.neighbour[f]); wanted(N)) visit(N, f, -1.0);
        }
    };
    eachSide([&](std::size_t c, std::size_t f, double) {
        about[c] += geo.faceCentre[f];
        ++count[c];
    });
    for (std::size_t c = 0; c < nc; ++c) {
        if (!wanted(c)) continue;
        about[c] /= std::max(count[c], 1);
        geo.volume[c] = 0.0;
        geo.cellCentre[c] = Vec3::Zero();
    }
    eachSide([&](std::size_t c, std::size_t f, double sign) {
        // Pyramid over the face: V = S.(x_f - a) / 3, centroid at 3/4 of the way from the apex to the face's centre.
        const double v = sign * geo.faceArea[f].dot(geo.faceCentre[f] - about[c]) / 3.0;
        geo.volume[c] += v;
        geo.cellCentre[c] += v * (0.75 * geo.faceCentre[f] + 0.25 * about[c]);
    });
    for (std::size_t c = 0; c < nc; ++c)
        if (wanted(c)) geo.cellCentre[c] = geo.volume[c] > 0.0 ? (geo.cellCentre[c] / geo.volume[c]).eval() : about[c];
}
}  // namespace

Geometry geometryOf(const Grid& g) {
    Geometry geo;
    const auto nf = static_cast<std::size_t>(g.faces());
    const auto nc = static_cast<std::size_t>(g.cells());
    geo.faceArea.resize(nf);
    geo.faceCentre.resize(nf);
    geo.volume.resize(nc);
    geo.cellCentre.resize(nc);
#pragma omp parallel for schedule(static)
    for (FaceIndex face = 0; face < g.faces(); ++face) measureFace(g, face, geo);
    measureCells(g, [](std::size_t) { return true; }, geo);
    return geo;
}

void updateGeometry(const Grid& g, std::span<const Vec3> before, Geometry& geo) {
    assert(before.size() == g.points.size());
    std::vector<char> changed(static_cast<std::size_t>(g.cells()), 0);
    for (FaceIndex face = 0; face < g.faces(); ++face) {
        const auto poly = g.polygon(face);
        if (std::all_of(poly.begin(), poly.end(), [&](auto p) { return g.points[static_cast<std::size_t>(p)] == before[static_cast<std::size_t>(p)]; })) continue;
        measureFace(g, face, geo);
        changed[static_cast<std::size_t>(g.owner[static_cast<std::size_t>(face)])] = 1;
        if (face < g.internalFaces()) changed[static_cast<std::size_t>(g.neighbour[static_cast<std::size_t>(face)])] = 1;
    }
    measureCells(g, [&](std::size_t c) { return changed[c] != 0; }, geo);
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
