// Random placements, scales, tunnels and budgets over all bodies; none may crash, fold or miss the quality limits.
// grid_fuzz [how many] [first seed]
#include <fmt/format.h>

#include <chrono>
#include <map>
#include <random>

#include "base/errors.h"
#include "bench/setups.h"
#include "grid/quality.h"

using namespace cvane;

int main(int argc, char** argv) {
    const int count = argc > 1 ? std::stoi(argv[1]) : 100, first = argc > 2 ? std::stoi(argv[2]) : 1;
    std::map<std::string, int> faults;
    int failed = 0, refused = 0;
    double slowest = 0.0;
    for (int seed = first; seed < first + count; ++seed) {
        std::mt19937 random(static_cast<unsigned>(seed));
        const auto uniform = [&](double a, double b) { return std::uniform_real_distribution<double>(a, b)(random); };
        const std::string name =
            bench::kSetups[std::uniform_int_distribution<std::size_t>(0, bench::kTurnable - 1)(random)];
        auto [s, tunnel, settings] = bench::setupOf(name, CVANE_DEMO_FOLDER);
        const double scale = std::exp(uniform(std::log(0.01), std::log(30.0)));
        // A half model keeps its plane: it pitches only.
        const Mat3 turn = (Eigen::AngleAxisd(tunnel.halfModel ? 0.0 : uniform(-3.1, 3.1), Vec3::UnitZ()) *
                           Eigen::AngleAxisd(uniform(-3.1, 3.1), Vec3::UnitY()))
                              .toRotationMatrix();
        const Vec3 shift(uniform(-5, 5), tunnel.halfModel ? 0.0 : uniform(-5, 5), uniform(-5, 5));
        for (Vec3& p : s.points) p = scale * (turn * p + shift);
        tunnel.downstream = uniform(3, 12);
        tunnel.sideways = uniform(2, 6);
        if (!tunnel.halfModel && uniform(0, 1) < 0.4) {
            tunnel.floor = grid::Floor::Moving;
            tunnel.rideHeight = uniform(0, 1) < 0.4 ? -uniform(0.001, 0.05) * s.bounds().size().maxCoeff()
                                                    : uniform(0.0, 0.3) * s.bounds().size().maxCoeff();
        } else {
            tunnel.floor = grid::Floor::None;
        }
        settings.cellBudget = static_cast<int>(std::exp(uniform(std::log(8e3), std::log(1.5e5))));
        settings.curvatureLevels = std::uniform_int_distribution<int>(0, 3)(random);
        settings.firstHeight = 0.0;
        settings.wakeLength = uniform(0, 1);
        const auto t0 = std::chrono::steady_clock::now();
        std::string verdict;
        try {
            const auto g = grid::build(s, tunnel, settings, {});
            const auto q = grid::qualityOf(g, grid::geometryOf(g));
            if (q.negativeCells > 0) verdict += fmt::format(" volume({})", q.negativeCells);
            if (q.foldedCells > 0) verdict += fmt::format(" folded({})", q.foldedCells);
            if (q.worstOpenness > 1e-10) verdict += " openness";
            if (q.worstNonOrthogonality_deg > 75.0)
                verdict += fmt::format(" angle({:.0f})", q.worstNonOrthogonality_deg);
            if (q.shareAbove65 > 1e-3) verdict += fmt::format(" share65({:.2f}%)", 100 * q.shareAbove65);
            if (q.worstSkewness > 4.0) verdict += fmt::format(" skewness({:.1f})", q.worstSkewness);
            if (!verdict.empty()) verdict += fmt::format("  [{} cells, {}]", g.cells(), g.notes);
        } catch (const base::InputError& e) {
            ++refused;
            fmt::print("seed {} {}: refused: {}\n", seed, name, e.what());
        }
        const double seconds = std::chrono::duration<double>(std::chrono::steady_clock::now() - t0).count();
        slowest = std::max(slowest, seconds);
        if (!verdict.empty()) {
            ++failed;
            ++faults[name];
            fmt::print("seed {} {} scale {:.3g} budget {} levels {} floor {} {:.1f} s:{}\n", seed, name, scale,
                       settings.cellBudget, settings.curvatureLevels, tunnel.floor != grid::Floor::None, seconds,
                       verdict);
        }
        if ((seed - first + 1) % 50 == 0) fmt::print("{} done, {} beyond the limits\n", seed - first + 1, failed);
        std::fflush(stdout);
    }
    fmt::print("{} of {} beyond the limits, {} refused, slowest {:.1f} s\n", failed, count, refused, slowest);
    for (const auto& [name, n] : faults) fmt::print("  {}: {}\n", name, n);
    return failed > 0;
}
