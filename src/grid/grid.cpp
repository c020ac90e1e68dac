#include "grid/grid.h"

#include <omp.h>

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

// Centres and volumes of the cells for which `wanted` holds. Each thread goes through all faces and sums for a range of
// cells of its own: no two touch the same cell, and every sum is taken in the order of the faces.
template <class Wanted>
void measureCells(const Grid& g, Wanted&& wanted, Geometry& geo) {
    constexpr int kMostThreads = 8;  // each reads all faces
    const auto nc = static_cast<std::size_t>(g.cells());
    std::vector<Vec3> about(nc, Vec3::Zero());
    std::vector<int> count(nc, 0);
    const int ranges = std::min(omp_get_max_threads(), kMostThreads);
#pragma omp parallel for schedule(static, 1) num_threads(ranges)
    for (int r = 0; r < ranges; ++r) {
        const auto n = static_cast<std::size_t>(ranges), first = nc * static_cast<std::size_t>(r) / n,
                   last = nc * static_cast<std::size_t>(r + 1) / n;
        const auto mine = [&](std::size_t c) { return c >= first && c < last && wanted(c); };
        const auto eachSide = [&](auto&& visit) {
            for (std::size_t f = 0; f < g.owner.size(); ++f) {
                if (const auto P = static_cast<std::size_t>(g.owner[f]); mine(P)) visit(P, f, 1.0);
                if (f >= g.neighbour.size()) continue;
                if (const auto N = static_cast<std::size_t>(g.neighbour[f]); mine(N)) visit(N, f, -1.0);
            }
        };
        eachSide([&](std::size_t c, std::size_t f, double) {
            about[c] += geo.faceCentre[f];
            ++count[c];
        });
        for (std::size_t c = first; c < last; ++c) {
            if (!wanted(c)) continue;
            about[c] /= std::max(count[c], 1);
            geo.volume[c] = 0.0;
            geo.cellCentre[c] = Vec3::Zero();
        }
        eachSide([&](std::size_t c, std::size_t f, double sign) {
            // Pyramid over the face: V = S.(x_f - a) / 3, centroid at 3/4 of the way from the apex to the face's
            // centre.
            const double v = sign * geo.faceArea[f].dot(geo.faceCentre[f] - about[c]) / 3.0;
            geo.volume[c] += v;
            geo.cellCentre[c] += v * (0.75 * geo.faceCentre[f] + 0.25 * about[c]);
        });
        for (std::size_t c = first; c < last; ++c)
            if (wanted(c))
                geo.cellCentre[c] = geo.volume[c] > 0.0 ? (geo.cellCentre[c] / geo.volume[c]).eval() : about[c];
    }
}
}  // namespace

Geometry measuredFaces(const Grid& g) {
    Geometry geo;
    geo.faceArea.resize(static_cast<std::size_t>(g.faces()));
    geo.faceCentre.resize(static_cast<std::size_t>(g.faces()));
#pragma omp parallel for schedule(static)
    for (FaceIndex face = 0; face < g.faces(); ++face) measureFace(g, face, geo);
    return geo;
}

void measureFirstCells(const Grid& g, std::size_t cells, Geometry& geo) {
    geo.volume.resize(static_cast<std::size_t>(g.cells()));
    geo.cellCentre.resize(static_cast<std::size_t>(g.cells()));
    measureCells(
        g, [cells](std::size_t c) { return c < cells; }, geo);
}

Geometry geometryOf(const Grid& g) {
    auto geo = measuredFaces(g);
    measureFirstCells(g, static_cast<std::size_t>(g.cells()), geo);
    return geo;
}

void updateGeometry(const Grid& g, std::span<const Vec3> before, Geometry& geo) {
    assert(before.size() == g.points.size());
    std::vector<char> moved(static_cast<std::size_t>(g.faces()), 0), changed(static_cast<std::size_t>(g.cells()), 0);
#pragma omp parallel for schedule(static)
    for (FaceIndex face = 0; face < g.faces(); ++face) {
        const auto poly = g.polygon(face);
        if (std::all_of(poly.begin(), poly.end(), [&](auto p) {
                return g.points[static_cast<std::size_t>(p)] == before[static_cast<std::size_t>(p)];
            }))
            continue;
        measureFace(g, face, geo);
        moved[static_cast<std::size_t>(face)] = 1;
    }
    for (std::size_t f = 0; f < moved.size(); ++f) {
        if (!moved[f]) continue;
        changed[static_cast<std::size_t>(g.owner[f])] = 1;
        if (f < g.neighbour.size()) changed[static_cast<std::size_t>(g.neighbour[f])] = 1;
    }
    measureCells(
        g, [&](std::size_t c) { return changed[c] != 0; }, geo);
}

void assemble(Grid& g, std::vector<FaceDraft>&& faces, std::vector<Patch> patches) {
    for (FaceDraft& f : faces)
        if (f.neighbour >= 0 && f.neighbour < f.owner) {
            std::swap(f.owner, f.neighbour);
            std::reverse(f.points.begin(), f.points.end());
        }
    // Internal faces first, by owner and neighbour: each cell's own are few and are sorted by themselves.
    const auto nf = static_cast<std::ptrdiff_t>(faces.size());
    const auto cells = static_cast<std::ptrdiff_t>(g.cellCount);
    const auto face = [&](std::int32_t i) -> const FaceDraft& { return faces[static_cast<std::size_t>(i)]; };
    std::vector<std::int32_t> start(static_cast<std::size_t>(cells) + 1, 0), boundary;
    for (std::int32_t i = 0; i < static_cast<std::int32_t>(nf); ++i)
        if (face(i).patch < 0)
            ++start[static_cast<std::size_t>(face(i).owner) + 1];
        else
            boundary.push_back(i);
    std::partial_sum(start.begin(), start.end(), start.begin());
    const auto internal = static_cast<std::size_t>(start.back());
    std::vector<std::int32_t> order(internal);
    auto next = start;
    for (std::int32_t i = 0; i < static_cast<std::int32_t>(nf); ++i)
        if (face(i).patch < 0) order[static_cast<std::size_t>(next[static_cast<std::size_t>(face(i).owner)]++)] = i;
#pragma omp parallel for schedule(static)
    for (std::ptrdiff_t c = 0; c < cells; ++c)
        std::sort(order.begin() + start[static_cast<std::size_t>(c)],
                  order.begin() + start[static_cast<std::size_t>(c) + 1], [&](auto i, auto j) {
                      return face(i).neighbour != face(j).neighbour ? face(i).neighbour < face(j).neighbour : i < j;
                  });
    // Then patch by patch.
    std::sort(boundary.begin(), boundary.end(), [&](auto i, auto j) {
        const FaceDraft &a = face(i), &b = face(j);
        if (a.patch != b.patch) return a.patch < b.patch;
        return a.owner != b.owner ? a.owner < b.owner : i < j;
    });
    for (Patch& p : patches) p.first = p.count = 0;
    for (std::size_t k = 0; k < boundary.size(); ++k) {
        Patch& p = patches[static_cast<std::size_t>(face(boundary[k]).patch)];
        if (p.count++ == 0) p.first = static_cast<FaceIndex>(internal + k);
    }
    order.insert(order.end(), boundary.begin(), boundary.end());
    g.faceStart.resize(faces.size() + 1);
    g.faceStart[0] = 0;
    for (std::size_t k = 0; k < order.size(); ++k)
        g.faceStart[k + 1] = g.faceStart[k] + static_cast<std::int64_t>(face(order[k]).points.size());
    g.facePoints.resize(static_cast<std::size_t>(g.faceStart.back()));
    g.owner.resize(faces.size());
    g.neighbour.resize(internal);
#pragma omp parallel for schedule(static)
    for (std::ptrdiff_t j = 0; j < nf; ++j) {
        const auto k = static_cast<std::size_t>(j);
        const FaceDraft& f = face(order[k]);
        std::copy(f.points.begin(), f.points.end(), g.facePoints.begin() + g.faceStart[k]);
        g.owner[k] = f.owner;
        if (k < internal) g.neighbour[k] = f.neighbour;
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
