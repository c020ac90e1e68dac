#include "field/sheet.h"

#include <algorithm>
#include <boost/container/small_vector.hpp>
#include <cmath>
#include <unordered_map>

#include "base/errors.h"

namespace cvane::field {

namespace {
/// The polygons on which `height`, of a grid point, is zero. Crossings of a face come in pairs along its outline, which
/// both its cells follow in the same sense: neighbours agree on where the cut runs.
/// @param meets   of a block's box
/// @param shared  corners have one number in all the cells around them
template <class Height, class Meets>
Sheet zeroOf(const Mesh& mesh, const Height& height, const Meets& meets, bool shared) {
    Sheet out;
    const auto& grid = mesh.grid();
    struct Edge {
        grid::PointIndex a, b;
        std::int32_t corner;
        int links = 0;
        int link[2] = {-1, -1};
    };
    boost::container::small_vector<Edge, 48> edges;
    std::unordered_map<std::uint64_t, std::int32_t> known;
    const auto cornerOf = [&](grid::PointIndex a, grid::PointIndex b, double share) {
        const auto add = [&] {
            out.corners.push_back({a, b, share});
            const Vec3 &x = grid.points[static_cast<std::size_t>(a)], &y = grid.points[static_cast<std::size_t>(b)];
            out.places.push_back(x + share * (y - x));
            return static_cast<std::int32_t>(out.corners.size()) - 1;
        };
        if (!shared) return add();
        const auto key = static_cast<std::uint64_t>(a) << 32 | static_cast<std::uint32_t>(b);
        const auto [it, isNew] = known.try_emplace(key, 0);
        if (isNew) it->second = add();
        return it->second;
    };
    mesh.visit(meets, [&](CellIndex c) {
        edges.clear();
        const auto edgeOf = [&](grid::PointIndex a, grid::PointIndex b, double ha, double hb) {
            if (a > b) std::swap(a, b), std::swap(ha, hb);
            for (std::size_t i = 0; i < edges.size(); ++i)
                if (edges[i].a == a && edges[i].b == b) return static_cast<int>(i);
            edges.push_back({a, b, cornerOf(a, b, ha / (ha - hb))});
            return static_cast<int>(edges.size()) - 1;
        };
        for (const FaceIndex f : mesh.facesOf(c)) {
            const auto polygon = grid.polygon(f);
            int before = -1;
            auto a = polygon.back();
            double ha = height(a);
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
}  // namespace

Sheet slice(const Mesh& mesh, const Vec3& origin, const Vec3& asked) {
    if (!(asked.norm() > 0.0) || !asked.allFinite() || !origin.allFinite())
        throw base::InputError("is no direction.", "plane", "Give a normal that is not zero.");
    const Vec3 normal = asked.normalized();
    return zeroOf(
        mesh, [&](grid::PointIndex p) { return normal.dot(mesh.grid().points[static_cast<std::size_t>(p)] - origin); },
        [&](const Box& b) {
            return std::abs(normal.dot(b.centre() - origin)) <= normal.cwiseAbs().dot(0.5 * b.size());
        },
        false);
}

Sheet isoSurface(const Mesh& mesh, const std::vector<double>& atPoints, double value) {
    return zeroOf(
        mesh, [&](grid::PointIndex p) { return atPoints[static_cast<std::size_t>(p)] - value; },
        [](const Box&) { return true; }, true);
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
