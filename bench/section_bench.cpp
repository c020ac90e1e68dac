// Sections against exact and published answers.
//   section_bench potential                 Karman-Trefftz section: Cp, cl, order
//   section_bench plate                     turbulent plate
//   section_bench report824                 six sections of NACA Report 824
//   section_bench converge                  share of converged points, ten sections at five Reynolds numbers
//   section_bench speed                     one polar, eleven polars, first point
//   section_bench field CODE RE ALPHA [level 0..2] [iterations]   a C grid and the field solver beside the panels
#include <fmt/format.h>

#include <chrono>
#include <cmath>
#include <string>

#include "base/units.h"
#include "bench/karman_trefftz.h"
#include "campaign/steps/section_field.h"
#include "section/outline/families.h"
#include "section/polar/batch.h"

using namespace cvane;
using namespace cvane::section;
using base::degree;
using Clock = std::chrono::steady_clock;

namespace {

double since(Clock::time_point t) {
    return std::chrono::duration<double>(Clock::now() - t).count();
}

void potential() {
    for (const auto& [forward, upward] : {std::pair{0.055, 0.0}, std::pair{0.055, 0.02}}) {
        const bench::KarmanTrefftz exact(forward, upward, 10.0 * degree);
        const auto contour = exact.contour(400);
        fmt::print("thickness {:.3f}, camber by {}\n", exact.thickness(), upward);
        for (const int n : {80, 160, 320}) {
            const PanelFlow flow(panelsOf(contour, {n, 1.0, 0.3}));
            for (const double alpha : {0.0, 4.0, 8.0}) {
                const auto q = flow.speedAt(alpha * degree);
                double worst = 0.0, at = 0.0;
                for (std::size_t i = 1; i + 1 < flow.count(); ++i) {
                    const double e = exact.speed(exact.nearest(flow.nodes()[i]), alpha * degree);
                    const double u = q[static_cast<Eigen::Index>(i)];
                    if (std::abs(u * u - e * e) > worst) worst = std::abs(u * u - e * e), at = flow.nodes()[i].x();
                }
                fmt::print("  {} panels, alpha {}: Cp within {:.5f} (worst at x/c {:.4f}), cl {:.5f}, exact {:.5f}\n",
                           n, alpha, worst, at, liftOf(flow, {}, q, alpha * degree), exact.lift(alpha * degree));
            }
        }
    }
}

void plate() {
    std::vector<double> s, u;
    for (int i = 0; i <= 300; ++i) s.push_back(1e-4 * std::pow(1e4, i / 300.0)), u.push_back(1.0);
    const LayerAir air{1e8, 0.0};
    const auto layer = marchLayer(s, u, air, {9.0, 1.01e-4}, false);
    for (const double want : {1e6, 2e6, 3e6, 5e6, 1e7, 3e7, 1e8}) {
        std::size_t k = 0;
        while (k + 1 < s.size() && 1e8 * s[k] < want * 0.999) ++k;
        const auto c = closureOf(layer.stations[k], air, Regime::Turbulent, 0.0);
        const double Rx = 1e8 * s[k], white = 0.455 / std::pow(std::log(0.06 * Rx), 2), l = std::log10(c.Rt);
        // T. von Karman and K. E. Schoenherr, by the momentum thickness.
        const double schoenherr = 1.0 / (17.08 * l * l + 25.11 * l + 6.012);
        fmt::print("Re_x {:.2e}  Re_theta {:6.0f}  H {:.3f}  cf {:.5f}  White {:+.1f} %  Karman-Schoenherr {:+.1f} %\n",
                   Rx, c.Rt, c.H, c.cf, 100.0 * (c.cf / white - 1.0), 100.0 * (c.cf / schoenherr - 1.0));
    }
}

PolarCase sweep(double re, double from, double to) {
    PolarCase c;
    c.flow.air.reynolds = re;
    for (double a = from; a <= to + 1e-9; a += 1.0) c.values.push_back(a * degree);
    return c;
}

void report824() {
    for (const char* code : {"4412", "23012", "0012", "2412", "4415", "0009"})
        for (const double re : {3e6, 6e6, 9e6}) {
            const PanelFlow flow(panelsOf(sectionFromCode(code), {}));
            const auto p = computePolar(flow, sweep(re, -6.0, 20.0));
            if (const auto f = figuresOfPolar(p))
                fmt::print(
                    "{:6} Re {:.0e}: slope {:.4f} zero lift {:6.2f} cm {:7.4f} cd min {:.5f} cl max {:.3f} at {:.1f}\n",
                    code, re, f->slope * degree, f->zeroLift / degree, f->momentAtZeroLift, f->cdMin, f->clMax,
                    f->clMaxAt / degree);
        }
}

void converge() {
    int all = 0, good = 0;
    for (const char* code : {"0009", "0012", "0018", "2412", "4412", "4415", "23012", "laminar:12,40,0.2",
                             "laminar:15,50,0.4,0.8", "4409"}) {
        const PanelFlow flow(panelsOf(sectionFromCode(code), {}));
        for (const double re : {1e5, 5e5, 1e6, 3e6, 9e6}) {
            const auto p = computePolar(flow, sweep(re, -6.0, 22.0));
            const auto f = figuresOfPolar(p);
            const double until = f ? f->clMaxAt + 2.01 * degree : 30.0 * degree;
            int asked = 0, there = 0;
            for (const auto& q : p)
                if (q.asked <= until) ++asked, there += q.figures.converged;
            fmt::print("{:22} Re {:.0e}: {}/{}, cl max {:.3f} at {:.1f}\n", code, re, there, asked, f ? f->clMax : 0.0,
                       f ? f->clMaxAt / degree : 0.0);
            all += asked, good += there;
        }
    }
    fmt::print("{} of {} converge: {:.2f} %\n", good, all, 100.0 * good / all);
}

void speed() {
    for (const char* code : {"4412", "0012", "23012"}) {
        const auto t0 = Clock::now();
        const auto flow = std::make_shared<const PanelFlow>(panelsOf(sectionFromCode(code), {}));
        double first = 0.0;
        computePolar(*flow, sweep(3e6, -4.0, 14.0), [&](const PolarPoint&) {
            if (first == 0.0) first = since(t0);
            return true;
        });
        const double one = since(t0);
        std::vector<BatchJob> jobs;
        for (int i = 0; i < 11; ++i) jobs.push_back({0, sweep(2e5 * std::pow(1.5, i), -4.0, 14.0)});
        const auto t1 = Clock::now();
        computeBatch({flow}, jobs);
        fmt::print("{}: 19 angles {:.2f} s, first point {:.3f} s, 11 x 19 {:.2f} s\n", code, one, first, since(t1));
    }
}

void field(const std::string& code, double re, double alphaDeg, int level, int most) {
    const auto contour = sectionFromCode(code);
    campaign::SectionField what;
    what.reynolds = re, what.level = level, what.mostIterations = most;
    const auto p = campaign::solveSectionField(contour, what, {alphaDeg * degree})[0];
    fmt::print(
        "{} Re {:.2e} alpha {}: {} cells, {} iterations in {:.1f} s; cl {:.4f} cd {:.5f} cm {:.4f}, y+ to {:.2f}{}\n",
        code, re, alphaDeg, p.cells, p.iterations, p.seconds, p.cl, p.cd, p.cm, p.highestYPlus,
        p.blewUp    ? ", blew up"
        : p.settled ? ""
                    : ", not settled");
    PolarCase c;
    c.flow.air.reynolds = re;
    c.flow.tripUpper = c.flow.tripLower = 0.02;
    for (double a = 0.0; a < alphaDeg; a += 2.0) c.values.push_back(a * degree);
    c.values.push_back(alphaDeg * degree);
    const auto q = computePolar(PanelFlow(panelsOf(contour, {})), c).back().figures;
    fmt::print("panels, tripped at 2 %: cl {:.4f} cd {:.5f} cm {:.4f} {}\n", q.cl, q.cd, q.cm,
               q.converged ? "" : "not converged");
}

}  // namespace

int main(int argc, char** argv) {
    const std::string what = argc > 1 ? argv[1] : "";
    const auto number = [&](int i, double otherwise) { return argc > i ? std::stod(argv[i]) : otherwise; };
    if (what == "potential")
        potential();
    else if (what == "plate")
        plate();
    else if (what == "report824")
        report824();
    else if (what == "converge")
        converge();
    else if (what == "speed")
        speed();
    else if (what == "field" && argc > 4)
        field(argv[2], number(3, 3e6), number(4, 0.0), static_cast<int>(number(5, 1)),
              static_cast<int>(number(6, 1500)));
    else
        fmt::print("See the head of bench/section_bench.cpp.\n");
    return 0;
}
