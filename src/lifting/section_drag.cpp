#include "lifting/section_drag.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>
#include <set>

#include "base/errors.h"
#include "base/units.h"
#include "section/outline/edit.h"
#include "section/polar/batch.h"
#include "section/potential/panelling.h"
#include "wing/layout.h"

namespace cvane::lifting {
using base::degree;

namespace {
constexpr double kFirst_deg = -12.0, kLast_deg = 20.0;  // of a polar's angles, a degree apart
constexpr double kStep = 2.0;                           // between Reynolds numbers

double stepOf(double reynolds) {
    return std::log(reynolds / 1e5) / std::log(kStep);
}
double reynoldsOf(int step) {
    return 1e5 * std::pow(kStep, step);
}

double onLine(const std::vector<double>& x, const std::vector<double>& y, std::size_t first, std::size_t last,
              double at) {
    for (std::size_t k = first; k < last; ++k)
        if (at <= x[k + 1]) {
            const double share = x[k + 1] > x[k] ? std::clamp((at - x[k]) / (x[k + 1] - x[k]), 0.0, 1.0) : 0.0;
            return y[k] + share * (y[k + 1] - y[k]);
        }
    return y[last];
}
}  // namespace

PolarBook::Key PolarBook::keyOf(const wing::Strip& strip, const std::string& section, int step) const {
    if (!strip.control) return {section, 0.0, 0.0, step};
    const auto& c = aircraft_.surfaces[strip.surface].controls[*strip.control];
    const double angle = strip.port && c.against ? -c.angle_deg : c.angle_deg;
    if (angle == 0.0) return {section, 0.0, 0.0, step};
    return {section, c.hinge, angle, step};
}

void PolarBook::prepare(const wing::Lattice& lattice, double slowest, double fastest, double viscosity,
                        const base::Progress& progress) {
    std::set<Key> wanted;
    for (const auto& strip : lattice.strips) {
        const int from = static_cast<int>(std::floor(stepOf(slowest * strip.chord / viscosity))),
                  to = static_cast<int>(std::floor(stepOf(fastest * strip.chord / viscosity))) + 1;
        for (int step = from; step <= to; ++step)
            for (const auto& name : {strip.inner, strip.outer})
                if (const auto key = keyOf(strip, name, step); !known_.contains(key)) wanted.insert(key);
    }
    if (wanted.empty()) return;
    std::vector<std::shared_ptr<const section::PanelFlow>> flows;
    std::vector<section::BatchJob> jobs;
    for (const auto& key : wanted) {
        auto outline = wing::outlineOf(aircraft_, key.section);
        if (key.angle_deg != 0.0) outline = section::withFlap(outline, key.hinge, key.angle_deg * degree);
        flows.push_back(std::make_shared<const section::PanelFlow>(section::panelsOf(outline, {})));
        section::BatchJob job;
        job.section = flows.size() - 1;
        job.what.flow.air.reynolds = reynoldsOf(key.step);
        for (double a = kFirst_deg; a <= kLast_deg + 1e-9; a += 1.0) job.what.values.push_back(a * degree);
        jobs.push_back(std::move(job));
    }
    const double all = static_cast<double>(jobs.size()) * static_cast<double>(jobs.front().what.values.size());
    double done = 0.0;
    const auto polars = section::computeBatch(flows, jobs, [&](std::size_t, const section::PolarPoint&) {
        done += 1.0;
        base::report(progress, std::min(1.0, done / all), "polars of the sections");
        return true;
    });
    std::size_t k = 0;
    for (const auto& key : wanted) {
        Polar p;
        for (const auto& point : polars[k++]) {
            if (!point.figures.converged) continue;
            p.alpha.push_back(point.figures.alpha);
            p.cl.push_back(point.figures.cl);
            p.cd.push_back(point.figures.cd);
        }
        if (p.alpha.size() < 5)
            throw base::InputError(fmt::format("its polar at Re {:.3g} has {} points that converge.",
                                               reynoldsOf(key.step), p.alpha.size()),
                                   fmt::format("section {}", key.section),
                                   "Take another section, or do without the sections' drag.");
        p.low = static_cast<std::size_t>(std::min_element(p.cl.begin(), p.cl.end()) - p.cl.begin());
        p.high = static_cast<std::size_t>(std::max_element(p.cl.begin(), p.cl.end()) - p.cl.begin());
        if (p.low >= p.high) p.low = 0, p.high = p.cl.size() - 1;
        known_.emplace(key, std::move(p));
    }
}

template <class Value>
double PolarBook::between(const wing::Strip& strip, double reynolds, Value&& value) const {
    const double at = stepOf(reynolds);
    const int step = static_cast<int>(std::floor(at));
    const auto of = [&](const std::string& name, int k) {
        const auto it = known_.find(keyOf(strip, name, k));
        if (it == known_.end())
            throw base::InputError(fmt::format("has no polar at Re {:.3g}.", reynolds), fmt::format("section {}", name),
                                   "Compute the sections' polars for this speed first.");
        return value(it->second);
    };
    const auto sectionAt = [&](int k) {
        if (strip.inner == strip.outer) return of(strip.inner, k);
        return (1.0 - strip.share) * of(strip.inner, k) + strip.share * of(strip.outer, k);
    };
    const double share = at - step;
    return (1.0 - share) * sectionAt(step) + share * sectionAt(step + 1);
}

SectionSays PolarBook::of(const wing::Strip& strip, double cl, double reynolds) const {
    SectionSays out;
    out.cd = between(strip, reynolds, [&](const Polar& p) { return onLine(p.cl, p.cd, p.low, p.high, cl); });
    out.stalled = cl > between(strip, reynolds, [](const Polar& p) { return p.cl[p.high]; }) ||
                  cl < between(
                           strip, reynolds, [](const Polar& p) { return p.cl[p.low]; });
    return out;
}

double PolarBook::liftAt(const wing::Strip& strip, double alpha, double reynolds) const {
    return between(strip, reynolds,
                   [&](const Polar& p) { return onLine(p.alpha, p.cl, 0, p.alpha.size() - 1, alpha); });
}

double PolarBook::thinZeroLift(const wing::Strip& strip) const {
    const auto of = [&](const std::string& name) {
        const wing::Profile profile(wing::outlineOf(aircraft_, name));
        const auto key = keyOf(strip, name, 0);
        constexpr int kPlaces = 400;
        double sum = 0.0;
        for (int k = 0; k < kPlaces; ++k) {
            const double angle = std::numbers::pi * (k + 0.5) / kPlaces, x = 0.5 * (1.0 - std::cos(angle)),
                         d = 0.5 * std::min({1e-3, x, 1.0 - x});
            const auto a = profile.mean(x - d), b = profile.mean(x + d);
            double slope = (b.y() - a.y()) / (b.x() - a.x());
            if (key.angle_deg != 0.0 && x > key.hinge) slope -= std::tan(key.angle_deg * degree);
            sum += slope * (std::cos(angle) - 1.0) / kPlaces;
        }
        return -sum;
    };
    const double inner = of(strip.inner);
    return strip.inner == strip.outer ? inner : (1.0 - strip.share) * inner + strip.share * of(strip.outer);
}

}  // namespace cvane::lifting
