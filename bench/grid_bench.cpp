// Grids around a sphere, a cube and a wing: time, memory and quality.  grid_bench [cells] [sphere|cube|wing] [cut.txt]
#include <fmt/format.h>
#include <sys/resource.h>

#include <chrono>
#include <fstream>
#include <string>

#include "bench/models.h"
#include "grid/build.h"
#include "grid/cut.h"
#include "grid/quality.h"

using namespace cvane;

int main(int argc, char** argv) {
    const int cells = argc > 1 ? std::stoi(argv[1]) : 150000;
    const std::string only = argc > 2 ? argv[2] : "";
    for (const std::string name : {"sphere", "cube", "wing"}) {
        if (!only.empty() && name != only) continue;
        const auto s = name == "sphere" ? bench::sphere(0.5, 200) : name == "cube" ? bench::cube(1.0) : bench::rectangularHalfWing(0.12, 3.0, 80, 60);
        grid::Tunnel tunnel;
        grid::GridSettings settings;
        settings.cellBudget = cells;
        if (name == "wing") {
            tunnel.halfModel = true;
            settings.firstHeight = 2e-3;
            settings.wakeLength = 0.0;
        }
        const auto t0 = std::chrono::steady_clock::now();
        const auto g = grid::build(s, tunnel, settings, {});
        const double seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - t0).count();
        const auto geo = grid::geometryOf(g);
        const auto q = grid::qualityOf(g, geo);
        rusage use{};
        getrusage(RUSAGE_SELF, &use);
        fmt::print("{}: {} facets, {} cells in {:.2f} s, peak {:.2f} GB; size {:.4g} first {:.3g} median {:.3g}; wetted {:.4f} (model {:.4f}); {}; {}\n  worst at {:.3f} {:.3f} {:.3f}, volume ratio {:.0f}, openness {:.1e}\n",
                   name, s.facets.size(), g.cells(), seconds, static_cast<double>(use.ru_maxrss) / 1e6, g.surfaceCell, g.firstHeight, q.medianFirstHeight, q.wettedArea, s.area(), g.notes, q.verdict(), q.worstPlace.x(), q.worstPlace.y(), q.worstPlace.z(), q.worstVolumeRatio, q.worstOpenness);
        if (argc > 3) {
            std::ofstream out(argv[3]);
            const auto cut = grid::cutAlongAxis(g, 1, name == "wing" ? 1.5 : 0.013);
            for (std::size_t i = 0; i < cut.cell.size(); ++i) {
                for (auto k = cut.start[i]; k < cut.start[i + 1]; ++k)
                    out << cut.points[static_cast<std::size_t>(k)].x() << ' ' << cut.points[static_cast<std::size_t>(k)].z() << ' ';
                out << '\n';
            }
        }
    }
}
