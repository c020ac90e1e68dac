// Grids around bodies: time, memory and quality.  grid_bench [cells] [name] [cut.txt axis place] [out.stl]; with
// "union" as third: parts united
#include <fmt/format.h>

#include <chrono>
#include <cmath>
#include <fstream>
#include <map>
#include <string>

#include "air/plate_layer.h"
#include "bench/setups.h"
#include "grid/cut.h"
#include "grid/layer_coverage.h"
#include "grid/memory.h"
#include "grid/quality.h"
#include "shape/triangle_tree.h"

using namespace cvane;

namespace {

struct Union {
    double area = 0.0, volume = 0.0;
};

// Wetted area and volume of overlapping parts together, in the air of the tunnel, by winding number: facets in small
// pieces with air before them, and a lattice of 300 points along the longest side. Only for closed parts.
Union unionOf(shape::Surface s, const Box& air) {
    shape::orientFacets(s);
    const shape::TriangleTree tree(s);
    const Box box = s.bounds();
    const double L = box.size().maxCoeff(), piece = L / 600.0, aside = 1e-5 * L;
    Union u;
    double area = 0.0, volume = 0.0;
    const auto facets = static_cast<std::ptrdiff_t>(s.facets.size());
#pragma omp parallel for schedule(dynamic, 64) reduction(+ : area)
    for (std::ptrdiff_t i = 0; i < facets; ++i) {
        const auto f = static_cast<std::size_t>(i);
        const Vec3 a = s.corner(f, 0), b = s.corner(f, 1), c = s.corner(f, 2), S = s.areaVector(f);
        if (!(S.norm() > 0.0)) continue;
        const int n = std::max(
            1, static_cast<int>(std::ceil(std::max({(b - a).norm(), (c - b).norm(), (a - c).norm()}) / piece)));
        for (int j = 0; j < n; ++j)
            for (int k = 0; j + k < n; ++k)
                for (int up = 0; up < (j + k + 1 < n ? 2 : 1); ++up) {
                    const double v = (j + (up ? 2.0 : 1.0) / 3.0) / n, w = (k + (up ? 2.0 : 1.0) / 3.0) / n;
                    const Vec3 x = a + v * (b - a) + w * (c - a) + aside * S.normalized();
                    if (air.contains(x) && tree.winding(x) < 0.5) area += S.norm() / (n * n);
                }
    }
    const Box in{box.low.cwiseMax(air.low), box.high.cwiseMin(air.high)};
    const double h = L / 300.0;
    const Vec3 count = (in.size() / h).array().ceil();
    const auto planes = static_cast<std::ptrdiff_t>(count.x());
#pragma omp parallel for schedule(dynamic, 1) reduction(+ : volume)
    for (std::ptrdiff_t i = 0; i < planes; ++i)
        for (int j = 0; j < static_cast<int>(count.y()); ++j)
            for (int k = 0; k < static_cast<int>(count.z()); ++k)
                volume += tree.winding(in.low + in.size().cwiseProduct(Vec3((static_cast<double>(i) + 0.5) / count.x(),
                                                                            (j + 0.5) / count.y(),
                                                                            (k + 0.5) / count.z()))) > 0.5;
    u.area = area;
    u.volume = volume * in.size().prod() / count.prod();
    return u;
}

}  // namespace

int main(int argc, char** argv) {
    const int cells = argc > 1 ? std::stoi(argv[1]) : 150000;
    const std::string only = argc > 2 ? argv[2] : "";
    const std::string demo = CVANE_DEMO_FOLDER;
    for (const std::string name : bench::kSetups) {
        if (!only.empty() && name != only) continue;
        auto [s, tunnel, settings] = bench::setupOf(name, demo);
        settings.cellBudget = cells;
        const auto t0 = std::chrono::steady_clock::now();
        std::string last;
        double lastAt = 0.0;
        std::map<std::string, double> spent;
        const auto now = [&] { return std::chrono::duration<double>(std::chrono::steady_clock::now() - t0).count(); };
        const auto g = grid::build(s, tunnel, settings, [&](double, std::string_view what) {
            const double t = now();
            spent[last] += t - lastAt;
            lastAt = t;
            last = what;
            return true;
        });
        const double seconds = now();
        const auto geo = grid::geometryOf(g);
        const auto q = grid::qualityOf(g, geo);
        fmt::print(
            "{}: {} facets, {} cells in {:.2f} s, peak {:.2f} GB; size {:.4g} first {:.3g} median {:.3g}; wetted "
            "{:.4f} (model {:.4f})\n  {}\n  {}\n  worst at {:.3f} {:.3f} {:.3f}, volume ratio {:.0f} (from layers to "
            "outer cells {:.1f} in the middle, below 3 on {:.1f} %), openness {:.1e}, folded {}\n  ",
            name, s.facets.size(), g.cells(), seconds, 1e-9 * static_cast<double>(grid::peakMemory()), g.surfaceCell,
            g.firstHeight, q.medianFirstHeight, q.wettedArea, s.area(), g.notes, grid::verdictOf(g, q),
            q.worstPlace.x(), q.worstPlace.y(), q.worstPlace.z(), q.worstVolumeRatio, q.medianTransition,
            100.0 * q.shareTransitionBelow3, q.worstOpenness, q.foldedCells);
        if (argc > 3 && argc < 6) {
            const Union u = unionOf(s, grid::tunnelBox(tunnel, s.bounds()));
            fmt::print("union of the parts in the air: wetted {:.4f}, volume {:.6f}\n  ", u.area, u.volume);
        }
        double volume = 0.0;  // of the body as the grid sees it
        for (const auto& patch : g.patches)
            if (patch.kind == grid::PatchKind::Wall)
                for (auto f = patch.first; f < patch.first + patch.count; ++f)
                    volume -=
                        geo.faceArea[static_cast<std::size_t>(f)].dot(geo.faceCentre[static_cast<std::size_t>(f)]) /
                        3.0;
        fmt::print(
            "wall points within 1 % of the cells there of the model: {:.3f} %, farthest {:.2g} m; wall within half of "
            "the first height {:.1f} %; body volume {:.6f} (model's closed parts {:.6f}); planarity {:.2f}\n  ",
            100.0 * g.fit.shareOn, g.fit.farthest, 100.0 * q.shareNearFirstHeight, volume, s.volume(),
            q.worstPlanarity);
        {
            constexpr double V = 20.0;
            double nose = 1e300;
            for (const auto& point : s.points) nose = std::min(nose, point.x());
            const auto layers = grid::coverageOf(
                g, geo, [&](const Vec3& x) { return air::plateLayerThickness(x.x() - nose, V, 1.46e-5); });
            fmt::print(
                "layers grow by 1.3 at most on {:.0f} % of the wall, cover 0.9 of a plate's layer at {} m/s on {:.0f} "
                "%, {:.2f} of it in the middle\n  ",
                100.0 * layers.growsGently, V, 100.0 * layers.covered, layers.medianShare);
        }
        for (const auto& [what, t] : spent)
            if (t > 0.02 * seconds) fmt::print("{} {:.2f} s; ", what, t);
        fmt::print("\n");
        if (argc > 5) {
            const int axis = std::stoi(argv[4]);
            std::ofstream out(argv[3]);
            const auto cut = grid::cutAlongAxis(g, axis, std::stod(argv[5]));
            for (std::size_t i = 0; i < cut.cell.size(); ++i) {
                for (auto k = cut.start[i]; k < cut.start[i + 1]; ++k) {
                    const Vec3& p = cut.points[static_cast<std::size_t>(k)];
                    out << p[axis == 0 ? 1 : 0] << ' ' << p[axis == 2 ? 1 : 2] << ' ';
                }
                out << '\n';
            }
        }
        if (argc > 6) {
            std::ofstream out(argv[6]);
            for (const auto& patch : g.patches)
                if (patch.kind == grid::PatchKind::Wall)
                    for (auto f = patch.first; f < patch.first + patch.count; ++f) {
                        for (const auto p : g.polygon(f))
                            out << g.points[static_cast<std::size_t>(p)].transpose() << ' ';
                        out << '\n';
                    }
        }
    }
}
