// Panels on closed bodies against exact flows, against the lifting surface, and what they cost.
//   panels_bench bodies          sphere and 6:1 ellipsoid on 500, 2,000 and 8,000 panels
//   panels_bench wing            12 % thick, aspect ratio 6, against the lattice
//   panels_bench time            10,000 to 80,000 triangles and the exponent
#include <fmt/format.h>
#include <sys/resource.h>

#include <chrono>
#include <cmath>
#include <string>

#include "bench/wings.h"
#include "panels/mirrored.h"
#include "panels/panel_flow.h"
#include "section/coupled/point.h"
#include "section/outline/families.h"
#include "shape/loft.h"
#include "wing/skin.h"

using namespace cvane;
using base::degree;

namespace {
double seconds(const std::chrono::steady_clock::time_point& from) {
    return std::chrono::duration<double>(std::chrono::steady_clock::now() - from).count();
}

shape::Surface ellipsoid(double length, double width, int n) {
    shape::Surface s;
    shape::addSphere(s, "body", Vec3::Zero(), 0.5, n);
    for (auto& p : s.points) p = Vec3(length * p.x(), width * p.y(), width * p.z());
    shape::weld(s);
    return s;
}

// Share by which a wind along an axis is quickened: (1 + k) V along the tangent (H. Lamb, Hydrodynamics, art. 114).
Vec3 quickened(double length, double width) {
    if (length == width) return Vec3::Constant(0.5);
    const double e = std::sqrt(1.0 - width * width / (length * length));
    const double l = std::log((1.0 + e) / (1.0 - e));
    const double a = 2.0 * (1.0 - e * e) / (e * e * e) * (0.5 * l - e);
    const double b = 1.0 / (e * e) - (1.0 - e * e) / (2.0 * e * e * e) * l;
    return {a / (2.0 - a), b / (2.0 - b), b / (2.0 - b)};
}

void bodies() {
    for (const auto& [length, alpha] : {std::pair{1.0, 0.0}, std::pair{6.0, 0.0}, std::pair{6.0, 10.0}}) {
        const Vec3 k = quickened(length, 1.0);
        const auto given = ellipsoid(length, 1.0, 400);
        double last = 0.0, lastCount = 0.0;
        for (const std::size_t count : {500, 2000, 8000}) {
            const panels::Panels p(panels::remeshedAlike(given, {count}));
            const air::FreeStream wind{20.0, alpha * degree, 0.0, {}};
            const auto flow = panels::flowPast(p, wind, Vec3::Zero(), {});
            double most = 0.0, sum = 0.0, area = 0.0;
            for (std::size_t i = 0; i < p.size(); ++i) {
                const Vec3& m = p.middle[i];
                const Vec3 n = Vec3(m.x() / (length * length), m.y(), m.z()).normalized();
                const Vec3 u = wind.dragAxis().cwiseProduct(Vec3::Ones() + k);
                const double exact = 1.0 - (u - u.dot(n) * n).squaredNorm();
                most = std::max(most, std::abs(flow.cp[i] - exact));
                sum += p.area[i] * std::pow(flow.cp[i] - exact, 2);
                area += p.area[i];
            }
            const double rms = std::sqrt(sum / area), n = static_cast<double>(p.size());
            const double frontal = 0.25 * std::numbers::pi;
            fmt::print(
                "{}:1 at {} deg, {} panels: Cp rms {:.5f} worst {:.4f}, order {:.2f}; CD {:.2e} of the frontal area, "
                "{} iterations, {} edges\n",
                length, alpha, p.size(), rms, most,
                last > 0.0 ? 2.0 * std::log(last / rms) / std::log(n / lastCount) : 0.0,
                flow.force.dot(wind.dragAxis()) / (wind.dynamicPressure() * frontal), flow.iterations,
                flow.edges.size());
            last = rms;
            lastCount = n;
        }
    }
}

void thickWing() {
    auto aircraft = bench::flatWing(3.0, 0.0, 1.0, 24, 48, wing::Spacing::Outer);
    for (auto& s : aircraft.surfaces.front().stations) s.section = "0012";
    const double alpha = 5.0 * degree;
    const auto loads = bench::loadsOf(aircraft, bench::symmetric(), alpha);
    const auto reference = wing::referenceOf(aircraft);
    // The lattice is flat. A lifting line with its slope, but the section's own in place of 2 pi, is as thick as the
    // wing.
    const section::PanelFlow section(section::panelsOf(section::sectionFromCode("0012"), {}));
    const double own = section::potentialFigures(section, {}, 4.0 * degree).cl / (4.0 * degree);
    const double thick = alpha / (alpha / loads.coefficients.CL + 1.0 / own - 0.5 / std::numbers::pi);
    fmt::print(
        "lattice: CL {:.4f} CDi {:.5f} far CL {:.4f} CDi {:.5f}; as thick as the section, of slope {:.3f}: {:.4f}\n",
        loads.coefficients.CL, loads.coefficients.CD, loads.liftFar, loads.inducedFar, own, thick);
    auto skin = wing::skinOf(aircraft);
    shape::weld(skin);
    for (const std::size_t count : {1000, 2000, 4000, 8000, 16000}) {
        const auto began = std::chrono::steady_clock::now();
        const panels::Panels p(panels::remeshedAlike(skin, {count}));
        const double cut = seconds(began);
        const air::FreeStream wind{20.0, alpha, 0.0, {}};
        const auto flow = panels::flowPast(p, wind, Vec3::Zero(), {});
        const double qS = wind.dynamicPressure() * reference.area;
        double least = 0.0, greatest = -9.0;
        for (const double c : flow.cp) {
            least = std::min(least, c);
            greatest = std::max(greatest, c);
        }
        fmt::print(
            "{} panels: CL {:.4f} far {:.4f}, CD {:.5f} far {:.5f}, CY {:.5f}, Cp {:.2f} to {:.3f}, {} edges, {} "
            "iterations, cut {:.1f} s, all {:.1f} s\n",
            p.size(), flow.force.dot(wind.liftAxis()) / qS, flow.farForce.dot(wind.liftAxis()) / qS,
            flow.force.dot(wind.dragAxis()) / qS, flow.inducedDrag / qS, flow.force.y() / qS, least, greatest,
            flow.edges.size(), flow.iterations, cut, seconds(began));
    }
}

void time() {
    auto aircraft = bench::flatWing(3.0, 0.0, 1.0, 24, 48, wing::Spacing::Outer);
    auto skin = wing::skinOf(aircraft);
    shape::weld(skin);
    double first = 0.0, firstCount = 0.0;
    for (const std::size_t count : {10000, 20000, 40000, 80000}) {
        const auto began = std::chrono::steady_clock::now();
        const panels::Panels p(panels::remeshedAlike(skin, {count}));
        const double cut = seconds(began);
        const auto flow = panels::flowPast(p, {20.0, 0.08, 0.0, {}}, Vec3::Zero(), {});
        const double all = seconds(began), n = static_cast<double>(p.size());
        if (first == 0.0) {
            first = all;
            firstCount = n;
        }
        rusage used{};
        getrusage(RUSAGE_SELF, &used);
        fmt::print("{} triangles: {:.1f} s, of which {:.1f} to cut them; {} iterations; {:.2f} GB; exponent {:.2f}\n",
                   p.size(), all, cut, flow.iterations, static_cast<double>(used.ru_maxrss) / 1048576.0,
                   n > firstCount ? std::log(all / first) / std::log(n / firstCount) : 0.0);
    }
}
}  // namespace

int main(int argc, char** argv) {
    setvbuf(stdout, nullptr, _IOLBF, 0);
    const std::string what = argc > 1 ? argv[1] : "bodies";
    if (what == "bodies")
        bodies();
    else if (what == "wing")
        thickWing();
    else if (what == "time")
        time();
    else {
        fmt::print("bodies, wing or time\n");
        return 1;
    }
}
