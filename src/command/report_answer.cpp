// The first page of a report: it answers.
#include <fmt/chrono.h>
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <ctime>

#include "base/errors.h"
#include "campaign/plan/points.h"
#include "command/report_content.h"
#include "readout/what_differs.h"
#include "view/item_shape.h"

namespace cvane::command {
using campaign::PointReport;
using report::Outline;

namespace {
constexpr std::size_t kMostRows = 8;

// What was asked: of which model, at what wind.
std::string question(const ReportMaterial& m) {
    const auto& s = m.c.settings;
    std::string builds;
    for (const auto& [list, word] : {std::pair{&s.configurations, "configurations"}, {&s.setUps, "set-ups"}})
        if (!list->empty()) builds += fmt::format(", {} {}", list->size() + 1, word);
    return fmt::format("Asked: forces on {} at {} m/s, alpha {} deg, beta {} deg{}.", s.name,
                       campaign::listText(s.schedule.speeds), campaign::listText(s.schedule.alphas_deg),
                       campaign::listText(s.schedule.betas_deg), builds);
}

// How far the numbers can be trusted, over all points.
std::string certainty(const ReportMaterial& m) {
    std::vector<double> bands;
    std::size_t settled = 0, unknown = 0, findings = 0;
    for (const auto& r : m.done) {
        settled += r.state == campaign::PointState::Settled;
        findings += r.result->findings.empty() ? 0 : 1;
        if (!r.result->gridBand())
            ++unknown;
        else if (const double CD = std::abs(r.result->coefficients.CD); CD > 0.0)
            bands.push_back(100.0 * r.result->trust().CD / CD);
    }
    std::sort(bands.begin(), bands.end());
    std::string out = fmt::format("How sure: {} of {} points have settled", settled, m.all.size());
    const auto percent = [](double v) { return fmt::format("{:.{}f} %", v, v < 10.0 ? 1 : 0); };
    if (bands.size() == 1) out += fmt::format("; the band of CD is {}", percent(bands[0]));
    if (bands.size() > 1)
        out += fmt::format("; bands of CD are {} to {}", percent(bands.front()), percent(bands.back()));
    if (bands.size() > 2) out += fmt::format(", {} in the middle", percent(bands[bands.size() / 2]));
    if (unknown > 0) out += fmt::format("; of {} the band is not known", unknown);
    if (findings > 0) out += fmt::format("; {} have warnings, which stand under Warnings", findings);
    return out + ". A band does not hold what the turbulence model gets wrong.";
}

// What configurations and set-ups change, at the first condition that they share with the base.
void differences(Outline& out, const ReportMaterial& m) {
    for (const auto& r : m.done) {
        if (r.point.configuration.empty() && r.point.setUp.empty()) continue;
        const auto base = std::find_if(m.done.begin(), m.done.end(), [&](const PointReport& b) {
            return b.point.configuration.empty() && b.point.setUp.empty() && b.point.condition == r.point.condition &&
                   b.point.method == r.point.method;
        });
        if (base == m.done.end()) continue;
        const bool first = std::find_if(m.done.begin(), m.done.end(), [&](const PointReport& q) {
                               return q.point.configuration == r.point.configuration && q.point.setUp == r.point.setUp;
                           })->point == r.point;
        if (!first) continue;
        std::string name;
        for (const auto& variant : {r.point.configuration, r.point.setUp})
            if (!variant.empty()) name += (name.empty() ? "" : ", ") + variant;
        out.text(fmt::format("At {:g} m/s, alpha {:g} deg: {}", r.point.condition.speed, r.point.condition.alpha_deg,
                             readout::sentenceOfDifference(name, "base", *base->result, *r.result, std::nullopt)));
    }
}
}  // namespace

void writeAnswer(Outline& out, ReportMaterial& m) {
    out.text(fmt::format("{:%Y-%m-%d}. {}", fmt::localtime(std::time(nullptr)), question(m)));
    std::vector<std::vector<std::string>> rows;
    for (const auto& r : m.done) {
        if (rows.size() == kMostRows) break;
        const auto& c = r.result->coefficients;
        const auto t = r.result->trust();
        const bool known = r.result->gridBand().has_value();
        rows.push_back({shownName(r), r.stateWords(), fmt::format("{:.4f}", c.CL),
                        known ? fmt::format("{:.4f}", t.CL) : "unknown", fmt::format("{:.5f}", c.CD),
                        known ? fmt::format("{:.5f}", t.CD) : "unknown",
                        c.CD != 0.0 ? fmt::format("{:.2f}", c.CL / c.CD) : "-"});
    }
    out.table({"point", "state", "CL", "+-", "CD", "+-", "L/D"}, rows);
    if (m.done.size() > kMostRows)
        out.text(fmt::format("The other {} points stand under Results.", m.done.size() - kMostRows));
    differences(out, m);
    out.text(certainty(m));
    addDragPolar(out, m);
    if (m.inField.empty()) return;
    const auto& r = m.inField.front();
    try {
        const auto flow = m.flowOf(r);
        view::PictureSettings p;
        const auto seen = m.c.of(r.point);
        p.ground = view::groundOf(*flow, seen.settings.tunnel);
        const auto& own = seen.settings.flowItems;
        out.picture(m.draw(*flow, own.empty() ? view::firstItems(*flow) : own, p), shownName(r) + ".");
    } catch (const base::InputError& e) {
        // Campaigns are handed on without their flows; the numbers answer without a picture.
        m.talk({{"warning", fmt::format("no picture of {}: {}", shownName(r), e.what())}});
    }
}

}  // namespace cvane::command
