// Grids around bodies: time, memory and quality.  grid_bench [cells] [name] [cut.txt axis place] [out.stl]
#include <fmt/format.h>

#include <chrono>
#include <cmath>
#include <fstream>
#include <map>
#include <string>

#include "bench/setups.h"
#include "grid/cut.h"
#include "grid/memory.h"
#include "grid/quality.h"
#include "shape/triangle_tree.h"

using namespace cvane;

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
        fmt::print("{}: {} facets, {} cells in {:.2f} s, peak {:.2f} GB; size {:.4g} first {:.3g} median {:.3g}; wetted {:.4f} (model {:.4f})\n  {}\n  {}\n  worst at {:.3f} {:.3f} {:.3f}, volume ratio {:.0f}, openness {:.1e}, folded {}\n  ",
                   name, s.facets.size(), g.cells(), seconds, 1e-9 * static_cast<double>(grid::peakMemory()), g.surfaceCell, g.firstHeight, q.medianFirstHeight, q.wettedArea, s.area(), g.notes, q.verdict(), q.worstPlace.x(), q.worstPlace.y(), q.worstPlace.z(), q.worstVolumeRatio, q.worstOpenness,
                   q.foldedCells);
        // How far wall points are from the model, against the cells there; and the body's volume as the grid sees it.
        const shape::TriangleTree tree(s);
        std::size_t near = 0, wallPoints = 0;
        double farthest = 0.0, volume = 0.0;
        for (const auto& patch : g.patches) {
            if (patch.kind != grid::PatchKind::Wall) continue;
            for (auto f = patch.first; f < patch.first + patch.count; ++f) {
                const double size = std::sqrt(geo.faceArea[static_cast<std::size_t>(f)].norm());
                volume -= geo.faceArea[static_cast<std::size_t>(f)].dot(geo.faceCentre[static_cast<std::size_t>(f)]) / 3.0;
                for (const auto p : g.polygon(f)) {
                    const double d = tree.nearest(g.points[static_cast<std::size_t>(p)]).distance / std::max(size, 1e-3 * g.surfaceCell);
                    ++wallPoints;
                    near += d < 0.01;
                    farthest = std::max(farthest, d);
                }
            }
        }
        fmt::print("wall points within 1 % of a cell of the model: {:.3f} %, farthest {:.2f} cells; wall within half of the first height {:.1f} %; body volume {:.6f} (model's closed parts {:.6f}); planarity {:.2f}\n  ",
                   100.0 * static_cast<double>(near) / static_cast<double>(wallPoints), farthest, 100.0 * q.shareNearFirstHeight, volume, s.volume(), q.worstPlanarity);
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
                        for (const auto p : g.polygon(f)) out << g.points[static_cast<std::size_t>(p)].transpose() << ' ';
                        out << '\n';
                    }
        }
    }
}
