#include "grid/quality.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <iterator>

#include "base/units.h"

namespace cvane::grid {
namespace {

// Of the angle between a face's normal and the line d of its two cell centres; 1 where either has no length.
double cosineAt(const Vec3& S, const Vec3& d) {
    const double sl = S.norm() * d.norm();
    return sl > 0.0 ? S.dot(d) / sl : 1.0;
}

double cosineAt(const Grid& g, const Geometry& geo, std::size_t internalFace) {
    const auto P = static_cast<std::size_t>(g.owner[internalFace]),
               N = static_cast<std::size_t>(g.neighbour[internalFace]);
    return cosineAt(geo.faceArea[internalFace], geo.cellCentre[N] - geo.cellCentre[P]);
}
double degreesOf(double cosine) {
    return std::acos(std::clamp(cosine, -1.0, 1.0)) / base::degree;
}

// Cells on either side that are thinner than this share of their face are wall layers: along them values change little,
// and the face itself is the measure of how far off its centre they are taken.
constexpr double kThin = 0.05;

// How far the line between two cell centres, from P along d, passes by the face's centre, over its length.
double skewnessOf(const Vec3& P, const Vec3& d, const Vec3& face, const Vec3& S) {
    const double dn = d.dot(S);
    if (!(dn > 0.0)) return 0.0;
    return (face - P - d * ((face - P).dot(S) / dn)).norm() / std::max(d.norm(), kThin * std::sqrt(S.norm()));
}

}  // namespace

Quality qualityOf(const Grid& g, const Geometry& geo) {
    Quality q;
    const auto ni = static_cast<std::size_t>(g.internalFaces());
    double sum = 0.0;
    std::size_t above = 0;
    double worstCos = 2.0;
    for (std::size_t f = 0; f < ni; ++f) {
        const auto P = static_cast<std::size_t>(g.owner[f]), N = static_cast<std::size_t>(g.neighbour[f]);
        const Vec3 d = geo.cellCentre[N] - geo.cellCentre[P];
        const Vec3& S = geo.faceArea[f];
        const double s = S.norm(), l = d.norm();
        if (!(s > 0.0) || !(l > 0.0)) continue;
        const double c = cosineAt(S, d);
        if (c < worstCos) {
            worstCos = c;
            q.worstPlace = geo.faceCentre[f];
        }
        const double angle = degreesOf(c);
        sum += angle;
        above += angle > kOblique_deg;
        ++q.histogram[std::min<std::size_t>(9, static_cast<std::size_t>(angle / 10.0))];
        q.worstSkewness = std::max(q.worstSkewness, skewnessOf(geo.cellCentre[P], d, geo.faceCentre[f], S));
        const double a = geo.volume[P], b = geo.volume[N];
        if (a > 0.0 && b > 0.0) q.worstVolumeRatio = std::max(q.worstVolumeRatio, std::max(a / b, b / a));
    }
    q.worstNonOrthogonality_deg = ni > 0 ? degreesOf(worstCos) : 0.0;
    q.meanNonOrthogonality_deg = ni > 0 ? sum / static_cast<double>(ni) : 0.0;
    q.shareAbove65 = ni > 0 ? static_cast<double>(above) / static_cast<double>(ni) : 0.0;
    q.smallestVolume = *std::min_element(geo.volume.begin(), geo.volume.end());
    q.negativeCells = static_cast<std::size_t>(
        std::count_if(geo.volume.begin(), geo.volume.end(), [](double v) { return !(v > 0.0); }));
    q.foldedCells = foldedCells(g, geo).size();
    std::vector<std::pair<double, double>> transitions;  // ratio and area
    for (std::size_t f = 0; f < ni; ++f) {
        const auto P = static_cast<std::size_t>(g.owner[f]), N = static_cast<std::size_t>(g.neighbour[f]);
        if (g.layer.empty() || (g.layer[P] == 0) == (g.layer[N] == 0)) continue;
        transitions.push_back(
            {geo.volume[g.layer[P] == 0 ? P : N] / geo.volume[g.layer[P] == 0 ? N : P], geo.faceArea[f].norm()});
    }
    if (!transitions.empty()) {
        double wholeArea = 0.0, below3 = 0.0;
        for (const auto& [ratio, area] : transitions) {
            wholeArea += area;
            below3 += ratio < 3.0 && ratio > 1.0 / 3.0 ? area : 0.0;
        }
        q.shareTransitionBelow3 = below3 / wholeArea;
        const auto middle = transitions.begin() + static_cast<std::ptrdiff_t>(transitions.size() / 2);
        std::nth_element(transitions.begin(), middle, transitions.end());
        q.medianTransition = middle->first;
    }
    std::vector<Vec3> net(geo.volume.size(), Vec3::Zero());
    std::vector<double> all(geo.volume.size(), 0.0);
    for (std::size_t f = 0; f < g.owner.size(); ++f) {
        const auto P = static_cast<std::size_t>(g.owner[f]);
        net[P] += geo.faceArea[f];
        all[P] += geo.faceArea[f].norm();
        if (f < ni) {
            const auto N = static_cast<std::size_t>(g.neighbour[f]);
            net[N] -= geo.faceArea[f];
            all[N] += geo.faceArea[f].norm();
        }
    }
    for (std::size_t c = 0; c < net.size(); ++c) q.worstOpenness = std::max(q.worstOpenness, net[c].norm() / all[c]);
    for (FaceIndex f = 0; f < g.faces(); ++f) {
        const Vec3& S = geo.faceArea[static_cast<std::size_t>(f)];
        const double s = S.norm();
        // A wall face whose corners all lie on one sharp edge has no plane.
        double length2 = 0.0;
        for (const auto p : g.polygon(f))
            length2 = std::max(
                length2,
                (g.points[static_cast<std::size_t>(p)] - geo.faceCentre[static_cast<std::size_t>(f)]).squaredNorm());
        if (!(s > 1e-9 * length2)) continue;
        for (const auto p : g.polygon(f))
            q.worstPlanarity = std::max(
                q.worstPlanarity,
                std::abs((g.points[static_cast<std::size_t>(p)] - geo.faceCentre[static_cast<std::size_t>(f)]).dot(S)) /
                    std::pow(s, 1.5));
    }
    std::vector<double> heights;
    double near = 0.0;
    for (const Patch& p : g.patches) {
        if (p.kind != PatchKind::Wall) continue;
        for (FaceIndex f = p.first; f < p.first + p.count; ++f) {
            const auto i = static_cast<std::size_t>(f);
            const double s = geo.faceArea[i].norm();
            if (!(s > 0.0)) continue;
            ++q.wallFaces;
            q.wettedArea += s;
            const double height =
                2.0 * (geo.faceCentre[i] - geo.cellCentre[static_cast<std::size_t>(g.owner[i])]).dot(geo.faceArea[i]) /
                s;
            if (height >= 0.5 * g.firstHeight && height <= 1.5 * g.firstHeight) near += s;
            heights.push_back(height);
        }
    }
    if (!heights.empty()) {
        std::nth_element(heights.begin(), heights.begin() + static_cast<std::ptrdiff_t>(heights.size() / 2),
                         heights.end());
        q.medianFirstHeight = heights[heights.size() / 2];
        q.shareNearFirstHeight = near / q.wettedArea;
    }
    return q;
}

std::vector<double> faceAngles(const Grid& g, const Geometry& geo) {
    std::vector<double> angles(g.neighbour.size());
    for (std::size_t f = 0; f < angles.size(); ++f) angles[f] = degreesOf(cosineAt(g, geo, f));
    return angles;
}

std::vector<double> worstAngles(const Grid& g, const Geometry& geo) {
    std::vector<double> worst(geo.volume.size(), 0.0);
    const auto angles = faceAngles(g, geo);
    for (std::size_t f = 0; f < angles.size(); ++f)
        for (const auto c : {g.owner[f], g.neighbour[f]})
            worst[static_cast<std::size_t>(c)] = std::max(worst[static_cast<std::size_t>(c)], angles[f]);
    return worst;
}

namespace {
// Cells on the sides of faces that `badSides(face)` names: bit 0 the owner's, bit 1 the neighbour's. Sorted.
template <class BadSides>
std::vector<CellIndex> cellsWithBadSides(const Grid& g, FaceIndex faces, BadSides&& badSides) {
    std::vector<std::uint8_t> sides(static_cast<std::size_t>(faces));
#pragma omp parallel for schedule(static)
    for (FaceIndex f = 0; f < faces; ++f)
        sides[static_cast<std::size_t>(f)] = static_cast<std::uint8_t>(badSides(static_cast<std::size_t>(f)));
    std::vector<CellIndex> cells;
    for (std::size_t f = 0; f < sides.size(); ++f) {
        if (sides[f] & 1) cells.push_back(g.owner[f]);
        if (sides[f] & 2) cells.push_back(g.neighbour[f]);
    }
    std::sort(cells.begin(), cells.end());
    cells.erase(std::unique(cells.begin(), cells.end()), cells.end());
    return cells;
}

std::vector<CellIndex> united(const std::vector<CellIndex>& a, const std::vector<CellIndex>& b) {
    std::vector<CellIndex> out;
    std::set_union(a.begin(), a.end(), b.begin(), b.end(), std::back_inserter(out));
    return out;
}
}  // namespace

std::vector<CellIndex> foldedCells(const Grid& g, const Geometry& geo) {
    std::vector<CellIndex> empty;
    for (std::size_t c = 0; c < geo.volume.size(); ++c)
        if (!(geo.volume[c] > 0.0)) empty.push_back(static_cast<CellIndex>(c));
    return united(empty, cellsWithBadSides(g, g.faces(), [&](std::size_t f) {
                      const auto P = static_cast<std::size_t>(g.owner[f]);
                      const Vec3& S = geo.faceArea[f];
                      const double s2 = S.squaredNorm();
                      // A face drawn together to an edge (thin trailing edge) has no direction to judge: |S|^3 below
                      // 1e-18 V^2.
                      const double V2 = geo.volume[P] * geo.volume[P];
                      if (s2 * s2 * s2 <= 1e-36 * V2 * V2) return 0;
                      int bad = (geo.faceCentre[f] - geo.cellCentre[P]).dot(S) <= 0.0 ? 1 : 0;
                      if (f < g.neighbour.size()) {
                          const auto N = static_cast<std::size_t>(g.neighbour[f]);
                          if ((geo.cellCentre[N] - geo.faceCentre[f]).dot(S) <= 0.0) bad |= 2;
                          if ((geo.cellCentre[N] - geo.cellCentre[P]).dot(S) < 0.0) bad = 3;
                      }
                      return bad;
                  }));
}

std::vector<CellIndex> cellsBeyond(const Grid& g, const Geometry& geo, double nonOrthogonality_deg, double skewness) {
    const double least = std::cos(nonOrthogonality_deg * base::degree);
    return united(foldedCells(g, geo), cellsWithBadSides(g, g.internalFaces(), [&](std::size_t f) {
                      const Vec3& from = geo.cellCentre[static_cast<std::size_t>(g.owner[f])];
                      const Vec3 d = geo.cellCentre[static_cast<std::size_t>(g.neighbour[f])] - from;
                      const Vec3& S = geo.faceArea[f];
                      return cosineAt(S, d) >= least && skewnessOf(from, d, geo.faceCentre[f], S) <= skewness ? 0 : 3;
                  }));
}

double shareBeyond(const Grid& g, const Geometry& geo, double nonOrthogonality_deg) {
    const double least = std::cos(nonOrthogonality_deg * base::degree);
    std::size_t beyond = 0;
    const auto n = static_cast<std::ptrdiff_t>(g.neighbour.size());
#pragma omp parallel for schedule(static) reduction(+ : beyond)
    for (std::ptrdiff_t f = 0; f < n; ++f) beyond += cosineAt(g, geo, static_cast<std::size_t>(f)) < least;
    return g.neighbour.empty() ? 0.0 : static_cast<double>(beyond) / static_cast<double>(g.neighbour.size());
}

WallFit wallFitOf(const Grid& g, const Geometry& geo, const shape::TriangleTree& model) {
    std::vector<double> size(g.points.size(), 0.0);
    for (const Patch& patch : g.patches) {
        if (patch.kind != PatchKind::Wall) continue;
        for (auto f = patch.first; f < patch.first + patch.count; ++f)
            for (const auto p : g.polygon(f)) {
                const double own = std::sqrt(geo.faceArea[static_cast<std::size_t>(f)].norm());
                double& s = size[static_cast<std::size_t>(p)];
                s = s > 0.0 ? std::min(s, own) : own;
            }
    }
    std::vector<double> away(size.size(), 0.0);
    const auto count = static_cast<std::ptrdiff_t>(size.size());
#pragma omp parallel for schedule(dynamic, 4096)
    for (std::ptrdiff_t k = 0; k < count; ++k)
        if (const auto i = static_cast<std::size_t>(k); size[i] > 0.0) away[i] = model.nearest(g.points[i]).distance;
    WallFit fit;
    std::size_t points = 0, on = 0, far = 0;
    for (std::size_t i = 0; i < size.size(); ++i) {
        if (!(size[i] > 0.0)) continue;
        ++points;
        on += away[i] <= 0.01 * size[i];
        far += away[i] > size[i];
        fit.meanOff += away[i] / size[i];
        if (away[i] <= fit.farthest) continue;
        fit.farthest = away[i];
        fit.place = g.points[i];
    }
    fit.shareFar = static_cast<double>(far) / static_cast<double>(std::max<std::size_t>(points, 1));
    fit.meanOff /= static_cast<double>(std::max<std::size_t>(points, 1));
    fit.shareOn = points > 0 ? static_cast<double>(on) / static_cast<double>(points) : 1.0;
    return fit;
}

std::string verdictOf(const Grid& g, const Quality& q) {
    std::string out;
    if (!g.gaps.empty()) {
        const ClosedGap& gap = g.gaps.front();
        out += fmt::format(
            "not to be trusted: {} filled where the air should pass, the largest {:.2g} m wide at ({:.3g} {:.3g} "
            "{:.3g}); ",
            g.gaps.size() == 1 ? "a gap is" : fmt::format("{} gaps are", g.gaps.size()), gap.width, gap.place.x(),
            gap.place.y(), gap.place.z());
    }
    if (g.fit.shareFar > kMostFar)
        out += fmt::format(
            "not to be trusted: {:.2g} % of the wall's points stand off the model by more than a cell, {:.2g} m at "
            "most, at ({:.3g} {:.3g} {:.3g}); ",
            100.0 * g.fit.shareFar, g.fit.farthest, g.fit.place.x(), g.fit.place.y(), g.fit.place.z());
    return out + (out.empty() ? "" : "its cells are ") + q.verdict();
}

std::string Quality::verdict() const {
    const std::string figures = fmt::format(
        "non-orthogonality {:.0f} deg at worst, {:.0f} on average, {:.2f} % of faces above 65; skewness {:.1f}",
        worstNonOrthogonality_deg, meanNonOrthogonality_deg, 100.0 * shareAbove65, worstSkewness);
    if (negativeCells > 0) return fmt::format("unusable: {} cells without volume ({})", negativeCells, figures);
    if (foldedCells > 0)
        return fmt::format("poor: {} folded cell{} ({})", foldedCells, foldedCells == 1 ? "" : "s", figures);
    if (worstNonOrthogonality_deg > 85.0) return "poor: " + figures;
    if (worstNonOrthogonality_deg > kMostNonOrthogonality_deg || shareAbove65 > kMostOblique ||
        worstSkewness > kMostSkewness)
        return "usable: " + figures;
    return "good: " + figures;
}

}  // namespace cvane::grid
