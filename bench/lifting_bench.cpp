// The lifting surface against cases that are known, and how long it takes.
//
//   lifting_bench            the known cases
//   lifting_bench times      how long it takes
#include <fmt/format.h>

#include <chrono>
#include <cmath>
#include <numbers>
#include <string>
#include <utility>

#include "base/units.h"
#include "bench/wings.h"
#include "lifting/runs.h"

using namespace cvane;
using namespace cvane::bench;
using base::degree;

namespace {
void cases() {
    const double swept = liftSlope(flatWing(2.5, 45.0, 1.0, 1, 4));
    fmt::print(
        "swept 45 deg, aspect 5, one row of four vortices: CL_alpha {:.4f} per rad; 3.443 in the textbook ({:+.2f} "
        "%)\n",
        swept, 100.0 * (swept / 3.443 - 1.0));
    fmt::print("flat rectangle, aspect 6, rows x strips of the half: CL_alpha\n");
    double last = 0.0;
    for (const int n : {4, 8, 16, 32}) {
        const double slope = liftSlope(flatWing(3.0, 0.0, 1.0, n, 3 * n, wing::Spacing::Outer));
        fmt::print("  {:2} x {:2}  {:.5f}  {:+.5f}\n", n, 3 * n, slope, slope - last);
        last = slope;
    }
    for (const int panels : {10, 20, 40}) {
        const auto a = ellipticWing(8.0, panels, 8);
        const auto l = loadsOf(a, symmetric(Vec3(std::cos(3.0 * degree), 0.0, std::sin(3.0 * degree))), 3.0 * degree);
        fmt::print(
            "elliptic, aspect 8, {:2} strips: e {:.4f}, CD far {:.6f}, near {:.6f} ({:+.2f} %), CL_alpha {:.4f}\n",
            panels, l.efficiency, l.inducedFar, l.coefficients.CD, 100.0 * (l.coefficients.CD / l.inducedFar - 1.0),
            liftSlope(a));
    }
    for (const int panels : {20, 40}) {
        const double slope = liftSlope(ellipticWing(4.0 / std::numbers::pi, panels, 20, 0.5));
        fmt::print("circle, {} strips: CL_alpha {:.4f}; exact 1.7900 ({:+.2f} %)\n", panels, slope,
                   100.0 * (slope / 1.7900 - 1.0));
    }
    for (const double aspect : {8.0, 20.0, 40.0}) {
        const double damping = dampingInRoll(ellipticWing(aspect, 40, 4)),
                     line = -std::numbers::pi * aspect / (4.0 * (aspect + 4.0));
        fmt::print("elliptic, aspect {}: damping in roll {:.4f}, lifting line {:.4f} ({:+.2f} %)\n", aspect, damping,
                   line, 100.0 * (damping / line - 1.0));
    }
}

double seconds(const auto& what) {
    const auto began = std::chrono::steady_clock::now();
    what();
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - began).count();
}

void times() {
    for (const auto& [rows, strips] : {std::pair{10, 30}, {10, 100}, {20, 250}}) {
        const auto a = flatWing(5.0, 10.0, 0.5, rows, strips);
        const auto reference = wing::referenceOf(a);
        const double t = seconds([&] {
            const lifting::VortexLattice lattice(wing::latticeOf(a, true), {Vec3::UnitX(), 0.0, {}, true});
            for (const double alpha : {0.0, 2.0, 4.0})
                lattice.at({{20.0, alpha * degree, 0.0, {}}, Vec3::Zero(), reference.momentCentre}, reference);
        });
        fmt::print("{} vortices, three angles, symmetric: {:.3f} s\n", 2 * rows * strips, t);
    }
    const auto a = flatWing(5.0, 10.0, 0.5, 10, 100);
    const auto reference = wing::referenceOf(a);
    fmt::print("2000 vortices, three angles with sideslip: {:.3f} s\n", seconds([&] {
                   const lifting::VortexLattice lattice(wing::latticeOf(a, false), {});
                   for (const double alpha : {0.0, 2.0, 4.0})
                       lattice.at({{20.0, alpha * degree, 0.1, {}}, Vec3::Zero(), reference.momentCentre}, reference);
               }));
    lifting::Asked asked;
    for (int k = -4; k <= 14; ++k) asked.alphas.push_back(k * degree);
    asked.sectionDrag = asked.derivatives = false;
    const auto dragged = flatWing(2.0, 5.0, 0.6, 10, 30, wing::Spacing::Outer);
    fmt::print("600 vortices, 19 angles without the sections' drag, as a station is dragged: {:.3f} s\n",
               seconds([&] { lifting::run(dragged, asked); }));
    auto glider = flatWing(2.0, 5.0, 0.6, 10, 30, wing::Spacing::Outer);
    for (auto& t : glider.surfaces[0].stations) t.section = "2412";
    glider.mass = 8.0;
    asked.alphas.resize(15);
    for (std::size_t k = 0; k < 15; ++k) asked.alphas[k] = static_cast<double>(k) * degree;
    asked.sectionDrag = asked.derivatives = true;
    asked.holdMass = glider.mass;
    const auto shelf = std::make_shared<lifting::PolarShelf>();
    fmt::print("level flight, 15 angles, polars to be computed: {:.2f} s\n",
               seconds([&] { lifting::run(glider, asked, {}, shelf); }));
    fmt::print("level flight, 15 angles, polars at hand: {:.2f} s\n",
               seconds([&] { lifting::run(glider, asked, {}, shelf); }));
}
}  // namespace

int main(int argc, char** argv) {
    if (argc > 1 && std::string(argv[1]) == "times")
        times();
    else
        cases();
}
