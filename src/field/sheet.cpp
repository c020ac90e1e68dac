#include "field/sheet.h"

#include <algorithm>
#include <boost/container/small_vector.hpp>
#include <cmath>
#include <unordered_map>

#include "base/errors.h"

namespace cvane::field {

Sheet slice(const Mesh& mesh, const Vec3& origin, const Vec3& asked) {
    if (!(asked.norm() > 0.0) || !asked.allFinite() || !origin.allFinite())
        throw base::InputError("is no direction.", "plane", "Give a normal that is not zero.");
    const Vec3 normal = asked.normalized();
    const auto& grid = mesh.grid();
    Sheet out;
    const auto meets = [&](const Box& b) {
        const Vec3 half = 0.5 * b.size();
        return std::abs(normal.dot(b.centre() - origin)) <= normal.cwiseAbs().dot(half);
    };
    struct Edge {
        grid::PointIndex a, b;
        std::int32_t corner;
        int links = 0;
        int link[2] = {-1, -1};
    };
    boost::container::small_vector<Edge, 48> edges;
    const auto height = [&](grid::PointIndex p) {
        return normal.dot(grid.points[static_cast<std::size_t>(p)] - origin);
    };
    mesh.visit(meets, [&](CellIndex c) {
        edges.clear();
        const auto edgeOf = [&](grid::PointIndex a, grid::PointIndex b, double ha, double hb) {
            if (a > b) std::swap(a, b), std::swap(ha, hb);
            for (std::size_t i = 0; i < edges.size(); ++i)
                if (edges[i].a == a && edges[i].b == b) return static_cast<int>(i);
            const double share = ha / (ha - hb);
            edges.push_back({a, b, static_cast<std::int32_t>(out.corners.size())});
            out.corners.push_back({a, b, share});
            const Vec3 &x = grid.points[static_cast<std::size_t>(a)], &y = grid.points[static_cast<std::size_t>(b)];
            out.places.push_back(x + share * (y - x));
            return static_cast<int>(edges.size()) - 1;
        };
        for (const FaceIndex f : mesh.facesOf(c)) {
            const auto polygon = grid.polygon(f);
            // Crossings of a face come in pairs along its outline; the cut runs from the first to the second of each.
            int before = -1;
            double ha = height(polygon.back());
            auto a = polygon.back();
            for (const auto b : polygon) {
                const double hb = height(b);
                if ((ha < 0.0) != (hb < 0.0)) {
                    const int e = edgeOf(a, b, ha, hb);
                    if (before < 0) {
                        before = e;
                    } else {
                        for (const auto& [from, to] : {std::pair{before, e}, std::pair{e, before}}) {
                            auto& at = edges[static_cast<std::size_t>(from)];
                            if (at.links < 2) at.link[at.links++] = to;
                        }
                        before = -1;
                    }
                }
                a = b;
                ha = hb;
            }
        }
        for (std::size_t first = 0; first < edges.size(); ++first) {
            if (edges[first].links != 2) continue;
            const auto start = out.ofPolygon.size();
            int at = static_cast<int>(first), from = -1;
            while (edges[static_cast<std::size_t>(at)].links == 2) {
                auto& e = edges[static_cast<std::size_t>(at)];
                out.ofPolygon.push_back(e.corner);
                e.links = 0;
                const int next = e.link[0] == from ? e.link[1] : e.link[0];
                from = at;
                at = next;
            }
            if (out.ofPolygon.size() - start < 3) {
                out.ofPolygon.resize(start);
                continue;
            }
            out.start.push_back(static_cast<std::int32_t>(out.ofPolygon.size()));
            out.cell.push_back(c);
        }
    });
    return out;
}

Sheet isoSurface(const Mesh& mesh, const std::vector<double>& atPoints, double value) {
    Sheet out;
    const auto& grid = mesh.grid();
    std::unordered_map<std::uint64_t, std::int32_t> known;
    const auto nodes = static_cast<std::uint64_t>(mesh.ofCell(0)) + static_cast<std::uint64_t>(mesh.cells());
    const auto corner = [&](Node a, Node b, double va, double vb) {
        if (a > b) std::swap(a, b), std::swap(va, vb);
        const auto key = static_cast<std::uint64_t>(a) * nodes + static_cast<std::uint64_t>(b);
        const auto [it, isNew] = known.try_emplace(key, static_cast<std::int32_t>(out.corners.size()));
        if (isNew) {
            const double share = (value - va) / (vb - va);
            out.corners.push_back({a, b, share});
            const Vec3 x = mesh.place(a), y = mesh.place(b);
            out.places.push_back(x + share * (y - x));
        }
        return it->second;
    };
    const auto emit = [&](CellIndex c, std::int32_t i, std::int32_t j, std::int32_t k) {
        if (i == j || j == k || k == i) return;
        out.ofPolygon.insert(out.ofPolygon.end(), {i, j, k});
        out.start.push_back(static_cast<std::int32_t>(out.ofPolygon.size()));
        out.cell.push_back(c);
    };
    mesh.visit([](const Box&) { return true; },
               [&](CellIndex c) {
                   bool below = false, above = false;
                   for (const FaceIndex f : mesh.facesOf(c))
                       for (const auto p : grid.polygon(f)) {
                           const bool isBelow = atPoints[static_cast<std::size_t>(p)] < value;
                           (isBelow ? below : above) = true;
                       }
                   if (!below || !above) return;
                   const Node middle = mesh.ofCell(c);
                   const double vMiddle = mesh.at(atPoints, middle);
                   for (const FaceIndex f : mesh.facesOf(c)) {
                       const Node face = mesh.ofFace(f);
                       const double vFace = mesh.at(atPoints, face);
                       const auto polygon = grid.polygon(f);
                       for (std::size_t k = 0; k < polygon.size(); ++k) {
                           const Node n[4] = {polygon[k], polygon[(k + 1) % polygon.size()], face, middle};
                           const double v[4] = {atPoints[static_cast<std::size_t>(n[0])],
                                                atPoints[static_cast<std::size_t>(n[1])], vFace, vMiddle};
                           int low[4], high[4], lows = 0, highs = 0;
                           for (int i = 0; i < 4; ++i) (v[i] < value ? low[lows++] : high[highs++]) = i;
                           if (lows == 0 || highs == 0) continue;
                           const auto on = [&](int i, int j) { return corner(n[i], n[j], v[i], v[j]); };
                           if (lows == 2) {
                               const auto a = on(low[0], high[0]), b = on(low[0], high[1]), d = on(low[1], high[1]),
                                          e = on(low[1], high[0]);
                               emit(c, a, b, d);
                               emit(c, a, d, e);
                           } else {
                               const int alone = lows == 1 ? low[0] : high[0];
                               const int* others = lows == 1 ? high : low;
                               emit(c, on(alone, others[0]), on(alone, others[1]), on(alone, others[2]));
                           }
                       }
                   }
               });
    return out;
}

namespace {
// Calls take(i, j, k) for the triangles of all polygons, as fans about their first corners.
template <class Take>
void overTriangles(const Sheet& s, const Take& take) {
    for (std::size_t p = 0; p < s.polygons(); ++p)
        for (auto k = s.start[p] + 1; k + 1 < s.start[p + 1]; ++k)
            take(static_cast<std::size_t>(s.ofPolygon[static_cast<std::size_t>(s.start[p])]),
                 static_cast<std::size_t>(s.ofPolygon[static_cast<std::size_t>(k)]),
                 static_cast<std::size_t>(s.ofPolygon[static_cast<std::size_t>(k) + 1]));
}
double areaOf(const Sheet& s, std::size_t i, std::size_t j, std::size_t k) {
    return 0.5 * (s.places[j] - s.places[i]).cross(s.places[k] - s.places[i]).norm();
}
}  // namespace

double areaOf(const Sheet& s) {
    double sum = 0.0;
    overTriangles(s, [&](auto i, auto j, auto k) { sum += areaOf(s, i, j, k); });
    return sum;
}

double integralOver(const Sheet& s, const std::vector<double>& values) {
    double sum = 0.0;
    overTriangles(
        s, [&](auto i, auto j, auto k) { sum += areaOf(s, i, j, k) * (values[i] + values[j] + values[k]) / 3.0; });
    return sum;
}

}  // namespace cvane::field
