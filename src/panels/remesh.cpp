#include "panels/remesh.h"

#include <algorithm>
#include <cmath>
#include <functional>
#include <optional>

#include "panels/curvature.h"
#include "panels/work_mesh.h"
#include "shape/triangle_tree.h"

namespace cvane::panels {
namespace {
using Index = WorkMesh::Index;
constexpr int kRounds = 8;
constexpr double kMore = 1.14;                 // triangles that come of one wanted: mean of sphere, ellipsoid and wing
constexpr double kLong = 1.38, kShort = 0.72;  // in the metric: about root 2 and its inverse
constexpr double kNarrow = 0.25;               // in the metric: of what is closed between two lines
constexpr double kNarrowest = 0.003;           // and in sizes of the model, however small panels are

std::size_t at(Index i) {
    return static_cast<std::size_t>(i);
}

// Edges that have a rank, by it. @param rankOf  of an edge and its length in the metric
std::vector<WorkMesh::Edge> inOrder(const WorkMesh& mesh,
                                    const std::function<std::optional<double>(const WorkMesh::Edge&, double)>& rankOf) {
    std::vector<std::pair<double, WorkMesh::Edge>> ranked;
    for (const auto& e : mesh.edges())
        if (const auto rank = rankOf(e, mesh.length(e.a, e.b))) ranked.emplace_back(*rank, e);
    std::stable_sort(ranked.begin(), ranked.end(), [](const auto& x, const auto& y) { return x.first < y.first; });
    std::vector<WorkMesh::Edge> out;
    for (const auto& [rank, e] : ranked) out.push_back(e);
    return out;
}
// The longest first.
std::vector<WorkMesh::Edge> longerThan(const WorkMesh& mesh, double length) {
    return inOrder(mesh, [length](const WorkMesh::Edge&, double l) -> std::optional<double> {
        return l > length ? std::optional(-l) : std::nullopt;
    });
}

// Facets of a coarse surface are cut until lengths can differ within them.
shape::Surface withoutLongEdges(const shape::Surface& s, double longest, double feature) {
    WorkMesh mesh(s, std::vector<Metric>(s.points.size(), Mat3::Identity() / (longest * longest)), feature);
    for (int round = 0; round < 12; ++round) {
        const auto tooLong = longerThan(mesh, 1.0);
        if (tooLong.empty()) break;
        for (const auto& e : tooLong) {
            const Vec3 middle = 0.5 * (mesh.points[at(e.a)] + mesh.points[at(e.b)]);
            const Metric m = mesh.metric[at(e.a)];
            mesh.split(e, middle, m);
        }
    }
    return mesh.surface(s.parts);
}

// The surface that points are kept on, with what its panels shall measure.
class Ground {
  public:
    Ground(const shape::Surface& s, std::vector<Metric> metric, const WorkMesh& lines)
        : surface_(s), tree_(s), metric_(std::move(metric)) {
        std::vector<std::array<Vec3, 3>> segments;
        for (const auto& e : lines.features())
            segments.push_back({lines.points[at(e.a)], lines.points[at(e.b)], lines.points[at(e.b)]});
        if (!segments.empty()) lines_ = shape::TriangleTree(std::move(segments));
    }
    struct Place {
        Vec3 point;
        Metric metric;
        Vec3 normal;
    };
    Place nearest(const Vec3& p) const {
        const auto n = tree_.nearest(p);
        const auto& f = surface_.facets[at(n.facet)];
        const Vec3 area = surface_.areaVector(at(n.facet));
        Metric m = Mat3::Zero();
        for (std::size_t k = 0; k < 3; ++k) {
            const Vec3 &b = surface_.corner(at(n.facet), static_cast<int>((k + 1) % 3)),
                       &c = surface_.corner(at(n.facet), static_cast<int>((k + 2) % 3));
            const double share = 0.5 * (b - n.point).cross(c - n.point).dot(area) / area.squaredNorm();
            m += std::clamp(share, 0.0, 1.0) * metric_[at(f[k])];
        }
        return {n.point, m, area.normalized()};
    }
    Vec3 nearestOnLine(const Vec3& p) const { return lines_.empty() ? p : lines_.nearest(p).point; }

  private:
    const shape::Surface& surface_;
    shape::TriangleTree tree_, lines_;
    std::vector<Metric> metric_;
};

void splitLong(WorkMesh& mesh, const Ground& ground) {
    for (const auto& e : longerThan(mesh, kLong)) {
        const Vec3 middle = 0.5 * (mesh.points[at(e.a)] + mesh.points[at(e.b)]);
        const Vec3 normal = mesh.normalAt(e.a) + mesh.normalAt(e.b);
        const auto place = ground.nearest(middle);
        // A split keeps the surface as it is; the point is then moved onto the ground where nothing folds.
        const bool line = mesh.isFeature(e);
        mesh.split(e, middle, place.metric);
        const auto p = static_cast<Index>(mesh.points.size() - 1);
        if (line) {
            if (!mesh.closed(p)) mesh.move(p, ground.nearestOnLine(middle));
        } else if (place.normal.dot(normal) > 0.0) {
            mesh.move(p, place.point);
        }
    }
}

// @param narrow  what lies between two lines that are no further apart is closed [m]
void collapseShort(WorkMesh& mesh, double narrow) {
    const auto gap = [&](const WorkMesh::Edge& e) {
        return !mesh.isFeature(e) && (mesh.points[at(e.a)] - mesh.points[at(e.b)]).norm() < narrow &&
               !mesh.featuresOf(e.a).empty() && !mesh.featuresOf(e.b).empty();
    };
    const auto tooShort = inOrder(mesh, [&](const WorkMesh::Edge& e, double l) -> std::optional<double> {
        return l < kShort || gap(e) ? std::optional(l) : std::nullopt;
    });
    for (const auto& e : tooShort) {
        if (mesh.trianglesAt(e).empty()) continue;
        const double now = mesh.length(e.a, e.b);
        const auto weight = [&](Index p) { return mesh.isCorner(p) ? 2 : mesh.featuresOf(p).empty() ? 0 : 1; };
        const int a = weight(e.a), b = weight(e.b);
        const Index gone = a <= b ? e.a : e.b, kept = a <= b ? e.b : e.a;
        if (now < kShort && (mesh.collapse(gone, kept, kLong) || mesh.collapse(kept, gone, kLong))) continue;
        if (a > 0 && b > 0 && (gap(e) || now < kNarrow)) mesh.close(gone, kept, 2.0 * kLong);
    }
}

void flipAll(WorkMesh& mesh) {
    for (int sweep = 0; sweep < 3; ++sweep) {
        std::size_t turned = 0;
        for (const auto& e : mesh.edges()) turned += mesh.flip(e);
        if (turned == 0) break;
    }
}

void smooth(WorkMesh& mesh, const Ground& ground) {
    for (Index p = 0; p < static_cast<Index>(mesh.points.size()); ++p) {
        if (mesh.trianglesOf(p).empty() || mesh.isCorner(p) || mesh.closed(p)) continue;
        const auto lines = mesh.featuresOf(p);
        const Vec3 here = mesh.points[at(p)];
        if (!lines.empty()) {
            Vec3 pull = Vec3::Zero();
            double weight = 0.0;
            for (const auto& l : lines) {
                const Index q = l.a == p ? l.b : l.a;
                const double w = mesh.length(p, q) / std::max((mesh.points[at(q)] - here).norm(), 1e-300);
                pull += w * (mesh.points[at(q)] - here);
                weight += w;
            }
            mesh.move(p, ground.nearestOnLine(here + 0.5 * pull / weight));
            continue;
        }
        // To the middle of the triangles around it, weighted by their size in the metric.
        const Vec3 normal = mesh.normalAt(p);
        Vec3 middle = Vec3::Zero();
        double weight = 0.0;
        for (const auto t : mesh.trianglesOf(p)) {
            const auto& c = mesh.triangle(t);
            const double w = mesh.areaVector(t).norm() *
                             std::sqrt(std::max(mesh.metric[at(c[0])].trace(), 0.0) * mesh.metric[at(c[1])].trace());
            middle += w / 3.0 * (mesh.points[at(c[0])] + mesh.points[at(c[1])] + mesh.points[at(c[2])]);
            weight += w;
        }
        Vec3 way = middle / weight - here;
        way -= normal.dot(way) * normal;
        const auto place = ground.nearest(here + 0.7 * way);
        if (place.normal.dot(normal) > 0.3 && mesh.move(p, place.point)) mesh.metric[at(p)] = place.metric;
    }
}
}  // namespace

shape::Surface remeshed(const shape::Surface& given, const Panelling& panelling, const base::Progress& progress) {
    const double longest = 2.0 * std::sqrt(given.area() / (0.433 * static_cast<double>(panelling.count)));
    const auto cut = withoutLongEdges(given, longest, panelling.feature);
    auto metrics =
        panelMetrics(cut, static_cast<std::size_t>(static_cast<double>(panelling.count) / kMore), panelling.stretch);
    WorkMesh mesh(cut, metrics, panelling.feature);
    const Ground ground(cut, std::move(metrics), mesh);
    const double narrow = kNarrowest * given.bounds().size().norm();
    for (int round = 0; round < kRounds; ++round) {
        base::report(progress, static_cast<double>(round) / kRounds, "cutting the surface into panels");
        splitLong(mesh, ground);
        collapseShort(mesh, narrow);
        flipAll(mesh);
        smooth(mesh, ground);
        flipAll(mesh);
    }
    return mesh.surface(given.parts);
}

}  // namespace cvane::panels
