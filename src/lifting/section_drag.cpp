#include "lifting/section_drag.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <numbers>

#include "base/errors.h"
#include "base/files.h"
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
constexpr double kTurn_deg = 5.0;                       // between turns of a control

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

namespace {
constexpr int kShelfSchema = 1;
// Another one when sections give other figures for the same key.
constexpr int kShelfVersion = 1;

// Ends of a polar's lift, between which it is read.
void markEnds(PolarShelf::Polar& p) {
    p.low = static_cast<std::size_t>(std::min_element(p.cl.begin(), p.cl.end()) - p.cl.begin());
    p.high = static_cast<std::size_t>(std::max_element(p.cl.begin(), p.cl.end()) - p.cl.begin());
    if (p.low >= p.high) p.low = 0, p.high = p.cl.size() - 1;
}
}  // namespace

std::filesystem::path PolarShelf::fileOf(const Key& k) const {
    const auto& t = k.transition;
    return folder_ / (base::settingsKey(fmt::format("{}\n{}\n{} {} {}\n{} {} {}", kShelfVersion, k.section, t.nCritical,
                                                    t.tripUpper, t.tripLower, k.hinge, k.angle_deg, k.step)) +
                      ".json");
}

std::shared_ptr<const PolarShelf::Polar> PolarShelf::of(const Key& key) const {
    const std::lock_guard lock(mutex_);
    if (const auto it = known_.find(key); it != known_.end()) return it->second;
    std::error_code ec;
    if (folder_.empty() || !std::filesystem::exists(fileOf(key), ec)) return nullptr;
    try {
        const auto j = base::readCheckedJson(fileOf(key), kShelfSchema);
        Polar p{j.at("alpha_rad"), j.at("cl"), j.at("cd")};
        if (p.cl.empty() || p.cl.size() != p.alpha.size() || p.cd.size() != p.alpha.size()) return nullptr;
        markEnds(p);
        return known_[key] = std::make_shared<const Polar>(std::move(p));
    } catch (const std::exception&) {
        return nullptr;  // it is computed again
    }
}

void PolarShelf::put(const Key& key, Polar polar) {
    const std::lock_guard lock(mutex_);
    markEnds(polar);
    if (!folder_.empty()) {
        std::filesystem::create_directories(folder_);
        base::replaceJson(fileOf(key), {{"schema", kShelfSchema},
                                        {"section", key.section.substr(0, key.section.find('\n'))},
                                        {"reynolds", reynoldsOf(key.step)},
                                        {"turn_deg", key.angle_deg},
                                        {"alpha_rad", polar.alpha},
                                        {"cl", polar.cl},
                                        {"cd", polar.cd}});
    }
    known_[key] = std::make_shared<const Polar>(std::move(polar));
}

PolarBook::Turns PolarBook::turnsOf(const wing::Strip& strip) const {
    Turns t;
    if (!strip.control) return t;
    const auto& c = aircraft_.surfaces[strip.surface].controls[*strip.control];
    t.angle_deg = strip.port && c.against ? -c.angle_deg : c.angle_deg;
    t.first_deg = kTurn_deg * std::floor(t.angle_deg / kTurn_deg + 1e-9);
    t.share = (t.angle_deg - t.first_deg) / kTurn_deg;
    if (t.share < 1e-9) t.share = 0.0;
    t.second_deg = t.share > 0.0 ? t.first_deg + kTurn_deg : t.first_deg;
    if (t.first_deg != 0.0 || t.second_deg != 0.0) t.hinge = c.hinge;
    return t;
}

PolarBook::PolarBook(const wing::Aircraft& aircraft, const Transition& transition, std::shared_ptr<PolarShelf> shelf)
    : aircraft_(aircraft), transition_(transition), shelf_(std::move(shelf)) {
    for (const auto& [name, outline] : aircraft_.sections) {
        std::string& key = ownOutlines_[name] = name + "\n";
        for (const auto& p : outline.points) key += fmt::format("{} {} ", p.x(), p.y());
    }
}

const std::string& PolarBook::outlineKey(const std::string& section) const {
    const auto own = ownOutlines_.find(section);
    return own == ownOutlines_.end() ? section : own->second;
}

void PolarBook::prepare(const wing::Lattice& lattice, double speed, double viscosity, const base::Progress& progress) {
    std::map<Key, std::string> wanted;  // and the section's name
    for (const auto& strip : lattice.strips) {
        const int from = static_cast<int>(std::floor(stepOf(speed * strip.chord / viscosity)));
        const auto turns = turnsOf(strip);
        for (const int step : {from, from + 1})
            for (const auto& name : {strip.inner, strip.outer})
                for (const double turn : {turns.first_deg, turns.second_deg}) {
                    const Key key{outlineKey(name), transition_, turn == 0.0 ? 0.0 : turns.hinge, turn, step};
                    if (!wanted.contains(key) && !shelf_->of(key)) wanted[key] = name;
                }
    }
    if (wanted.empty()) return;
    std::vector<std::shared_ptr<const section::PanelFlow>> flows;
    std::vector<section::BatchJob> jobs;
    for (const auto& [key, name] : wanted) {
        auto outline = wing::outlineOf(aircraft_, name);
        if (key.angle_deg != 0.0) outline = section::withFlap(outline, key.hinge, key.angle_deg * degree);
        flows.push_back(std::make_shared<const section::PanelFlow>(section::panelsOf(outline, {})));
        section::BatchJob job;
        job.section = flows.size() - 1;
        job.what.flow.air.reynolds = reynoldsOf(key.step);
        job.what.flow.nCritical = transition_.nCritical;
        job.what.flow.tripUpper = transition_.tripUpper;
        job.what.flow.tripLower = transition_.tripLower;
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
    for (const auto& [key, name] : wanted) {
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
        shelf_->put(key, std::move(p));
    }
}

template <class Value>
double PolarBook::between(const wing::Strip& strip, double reynolds, Value&& value) const {
    const double at = stepOf(reynolds);
    const int step = static_cast<int>(std::floor(at));
    const auto turns = turnsOf(strip);
    const auto turned = [&](const std::string& name, double turn, int k) {
        const auto polar = shelf_->of({outlineKey(name), transition_, turn == 0.0 ? 0.0 : turns.hinge, turn, k});
        if (!polar)
            throw base::InputError(fmt::format("has no polar at Re {:.3g}.", reynolds), fmt::format("section {}", name),
                                   "Compute the sections' polars for this speed first.");
        return value(*polar);
    };
    const auto of = [&](const std::string& name, int k) {
        const double first = turned(name, turns.first_deg, k);
        return turns.share > 0.0 ? (1.0 - turns.share) * first + turns.share * turned(name, turns.second_deg, k)
                                 : first;
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
        const auto turns = turnsOf(strip);
        constexpr int kPlaces = 400;
        double sum = 0.0;
        for (int k = 0; k < kPlaces; ++k) {
            const double angle = std::numbers::pi * (k + 0.5) / kPlaces, x = 0.5 * (1.0 - std::cos(angle)),
                         d = 0.5 * std::min({1e-3, x, 1.0 - x});
            const auto a = profile.mean(x - d), b = profile.mean(x + d);
            double slope = (b.y() - a.y()) / (b.x() - a.x());
            if (turns.angle_deg != 0.0 && x > turns.hinge) slope -= std::tan(turns.angle_deg * degree);
            sum += slope * (std::cos(angle) - 1.0) / kPlaces;
        }
        return -sum;
    };
    const double inner = of(strip.inner);
    return strip.inner == strip.outer ? inner : (1.0 - strip.share) * inner + strip.share * of(strip.outer);
}

}  // namespace cvane::lifting
