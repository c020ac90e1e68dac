#include "campaign/store/section_tables.h"

#include <fmt/format.h>

#include <algorithm>

#include "base/errors.h"
#include "base/text.h"
#include "base/units.h"
#include "section/outline/contour.h"
#include "section/polar/table.h"

namespace cvane::campaign {
using base::degree;

namespace {
/// What every row of a polar begins with.
struct Beginning {
    std::string name, thickness, camber;
    double flap_deg = 0.0;
};

Beginning beginningOf(const Campaign& c, const ShownOutline& of) {
    const auto& all = c.settings.sections.sections;
    const auto entry = std::find_if(all.begin(), all.end(), [&](const auto& e) { return e.name == of.section; });
    if (entry == all.end()) return {of.section, {}, {}, of.flapTurn_deg};
    Beginning out{nameWithChanges(*entry, of.flapTurn_deg), {}, {}, entry->flapAngle_deg + of.flapTurn_deg};
    try {
        auto atRest = *entry;
        atRest.flapAngle_deg = 0.0;
        const auto measures = section::measure(outlineOf(c, atRest));
        out.thickness = fmt::format("{:.3f}", 100.0 * measures.thickness);
        out.camber = fmt::format("{:.3f}", 100.0 * measures.camber);
    } catch (const base::InputError&) {
        // A section that can no longer be made keeps its polars, without its measures.
    }
    return out;
}

std::string columns(const Beginning& b, bool field) {
    return fmt::format("{},{},{},{},{:g},", base::csvWord(b.name), field ? "field" : "panels", b.thickness, b.camber,
                       b.flap_deg);
}

constexpr const char* kColumns = "section,method,thickness [%],camber [%],flap [deg],";
}  // namespace

std::string nameWithChanges(const SectionEntry& e, double flapTurn_deg) {
    std::string out = e.name;
    const auto add = [&](const char* what, const std::optional<double>& share) {
        if (share) out += fmt::format(", {} {:.4g} %", what, 100.0 * *share);
    };
    add("thickness", e.thickness);
    add("at", e.thicknessAt);
    add("camber", e.camber);
    add("camber at", e.camberAt);
    add("nose radius", e.noseRadius);
    if (const double flap = e.flapAngle_deg + flapTurn_deg; flap != 0.0) out += fmt::format(", flap {:g} deg", flap);
    return out;
}

NamedTable polarTable(const Campaign& c, std::span<const PolarRows> polars) {
    NamedTable out{"Polars", kColumns + section::csvHead(), 2};
    for (const auto& p : polars) {
        const auto begin = columns(beginningOf(c, *p.of), p.field);
        for (const auto& q : p.points) out.csv += begin + section::csvRow(q.figures, p.field);
    }
    return out;
}

NamedTable polarFiguresTable(const Campaign& c, std::span<const PolarRows> polars) {
    NamedTable out{"Figures",
                   std::string(kColumns) +
                       "Reynolds,Mach,n,lift slope [1/deg],zero-lift angle [deg],cl max,at alpha [deg],cl max is a "
                       "stall,cd min,at cl,best cl/cd,at cl,zero-lift cm\n",
                   2};
    for (const auto& p : polars) {
        const auto f = section::figuresOfPolar(p.points);
        if (!f) continue;
        const auto& first = p.points.front().figures;
        out.csv += columns(beginningOf(c, *p.of), p.field) +
                   fmt::format("{:.6g},{:g},{:g},{:.5f},{:.3f},{:.4f},{:.2f},{},{:.6f},{:.3f},{:.2f},{:.3f},{:.5f}\n",
                               first.reynolds, first.mach, first.nCritical, f->slope * degree, f->zeroLift / degree,
                               f->clMax, f->clMaxAt / degree, f->stalls ? "yes" : "no, the polar ends", f->cdMin,
                               f->cdMinAt, f->bestRatio, f->bestRatioAt, f->momentAtZeroLift);
    }
    return out;
}

NamedTable pressureTable(const section::PointFigures& at, const section::Distribution& along) {
    return {fmt::format("Pressures at {:.4g} deg", at.alpha / degree), section::csvOf(along), 1};
}

NamedTable columnsExplained() {
    const std::pair<const char*, const char*> rows[] = {
        {"section", "its name, and what has been changed of it"},
        {"method", "panels: panels with boundary layers; field: solved on cells"},
        {"thickness, camber", "of the chord, with the flap at rest"},
        {"flap", "its angle, trailing edge down positive"},
        {"Reynolds, Mach", "of the wind, on the chord"},
        {"n",
         "amplification exponent e^n at which a laminar layer turns turbulent: 9 in quiet air, less in a noisy "
         "tunnel or behind a propeller"},
        {"cl, cd, cm", "on the chord, per span; cm about the quarter chord, nose up positive"},
        {"transition", "x/c at which the layer turns turbulent; 1: nowhere"},
        {"separation", "x/c from which it is separated to the trailing edge; empty: nowhere"},
        {"converged", "no: the row holds no figures of the section"},
        {"cl max is a stall", "no: the greatest lift is at the polar's last angle; more angles are needed"}};
    NamedTable out{"Columns", "column,meaning\n", 2};
    for (const auto& [name, meaning] : rows)
        out.csv += fmt::format("{},{}\n", base::csvWord(name), base::csvWord(meaning));
    return out;
}

}  // namespace cvane::campaign
