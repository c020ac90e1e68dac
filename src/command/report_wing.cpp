#include "command/report_wing.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/units.h"
#include "campaign/plan/points.h"
#include "lifting/tables.h"
#include "wing/measures.h"
#include "wing/skin.h"

namespace cvane::command {
using base::degree;
using report::Outline;

namespace {
constexpr std::size_t kMostLoadings = 5;  // in one plot

std::string num(double v, int digits = 4) {
    return fmt::format("{:.{}g}", v + 0.0, digits);
}

void shape(Outline& out, const wing::Aircraft& a) {
    const auto reference = wing::referenceOf(a);
    out.text(fmt::format(
        "Reference area {} m2, mean aerodynamic chord {} m, span {} m, wetted area {} m2; moments about "
        "{} {} {} m{}.",
        num(reference.area, 5), num(reference.length, 5), num(reference.span, 5), num(wing::skinOf(a).area(), 5),
        num(reference.momentCentre.x()), num(reference.momentCentre.y()), num(reference.momentCentre.z()),
        a.mass > 0.0 ? fmt::format(", the centre of gravity of {} kg", num(a.mass)) : ""));
    std::vector<std::vector<std::string>> surfaces, stations;
    for (std::size_t k = 0; k < a.surfaces.size(); ++k) {
        const auto& s = a.surfaces[k];
        const auto m = wing::measure(a, s);
        const auto tail = wing::tailVolume(a, k);
        surfaces.push_back({s.name, num(m.area), num(m.span), num(m.aspect, 3), num(m.taper, 3), num(m.sweep_deg, 3),
                            num(m.meanChord), num(s.incidence_deg, 3), tail ? fmt::format("{:.3f}", *tail) : ""});
        for (const auto& t : s.stations)
            stations.push_back({s.name, num(t.along), num(t.leading), num(t.chord), t.section, num(t.twist_deg, 3),
                                &t == &s.stations.back() ? "" : num(t.dihedral_deg, 3)});
    }
    out.table({"surface", "area m2", "span m", "aspect", "taper", "sweep deg", "mean chord m", "incidence deg",
               "tail volume"},
              surfaces);
    out.table({"surface", "along m", "edge m", "chord m", "section", "twist deg", "dihedral deg"}, stations);
    std::vector<std::vector<std::string>> others;
    for (const auto& b : a.bodies)
        others.push_back({b.name, fmt::format("body of {} frames, {} m long", b.stations.size(),
                                              num(b.stations.back().x - b.stations.front().x))});
    for (const auto& p : wing::propellersOf(a))
        others.push_back({p.name, fmt::format("propeller of {} m at {} {} {} m, {} N", num(p.diameter),
                                              num(p.centre.x()), num(p.centre.y()), num(p.centre.z()), num(p.thrust))});
    for (const auto& s : a.surfaces)
        for (const auto& c : s.controls)
            others.push_back(
                {c.name, fmt::format("control of the {} from {} to {} m, hinge at {} chords, at {} deg", s.name,
                                     num(c.from), num(c.to), num(c.hinge, 3), num(c.angle_deg, 3))});
    if (!others.empty()) out.table({"part", "what it is"}, others, false);
}

void flight(Outline& out, const campaign::Campaign& c, const wing::Aircraft& a) {
    lifting::Asked asked;
    for (const double alpha : c.settings.schedule.alphas_deg)
        if (std::abs(alpha) <= 30.0) asked.alphas.push_back(alpha * degree);
    std::sort(asked.alphas.begin(), asked.alphas.end());
    if (asked.alphas.empty() || c.settings.schedule.speeds.empty()) return;
    asked.speed = c.settings.schedule.speeds.front();
    asked.air = campaign::airOf(c.settings.air);
    asked.sectionDrag = false;
    const auto found = lifting::run(a, asked);
    std::vector<std::vector<std::string>> rows;
    Outline::Curve lift{"CL", {}, {}, {}, true}, moment{"Cm", {}, {}, {}, true};
    for (const auto& r : found.rows) {
        const double alpha = r.wind.alpha / degree;
        rows.push_back(
            {num(alpha), num(r.coefficients.CL), num(r.inducedFar), num(r.coefficients.Cm), num(r.efficiency)});
        lift.x.push_back(alpha), lift.y.push_back(r.coefficients.CL);
        moment.x.push_back(alpha), moment.y.push_back(r.coefficients.Cm);
    }
    out.text(fmt::format("The lifting surface at {} m/s, without profile drag:", num(asked.speed)));
    out.table({"alpha deg", "CL", "induced CD", "Cm", "e"}, rows);
    if (found.derivatives) {
        const auto& d = *found.derivatives;
        out.text(
            fmt::format("Neutral point at x {} m, static margin {:.1f} % of the mean chord. Per rad: CL {} and Cm {} "
                        "by alpha, Cn {} and Cl {} by beta; Cl {} by roll, Cm {} by pitch, Cn {} by yaw rate.",
                        num(d.neutralPoint.x()), 100.0 * d.staticMargin, num(d.alpha.CL), num(d.alpha.Cm, 3),
                        num(d.beta.Cn, 3), num(d.beta.Cl, 3), num(d.roll.Cl, 3), num(d.pitch.Cm, 3), num(d.yaw.Cn, 3)));
    }
    for (const auto& remark : found.remarks) out.text(remark);
    if (found.rows.size() > 1) {
        out.plot("Lift, lifting surface", "alpha [deg]", "CL", {lift});
        out.plot("Pitching moment, lifting surface", "alpha [deg]", "Cm", {moment});
    }
    std::vector<Outline::Curve> loadings;
    const std::size_t step = (found.rows.size() + kMostLoadings - 1) / kMostLoadings;
    for (std::size_t k = 0; k < found.rows.size(); k += step) {
        Outline::Curve curve{fmt::format("alpha {:g} deg", found.rows[k].wind.alpha / degree), {}, {}, {}, false};
        std::vector<std::pair<double, double>> points;
        for (const auto& l : lifting::spanLoads(found.rows[k], found.reference))
            if (l.strip->strip.surface == 0 && !l.strip->strip.port)
                points.emplace_back(l.strip->strip.along, l.loading);
        std::sort(points.begin(), points.end());
        for (const auto& [y, load] : points) curve.x.push_back(y), curve.y.push_back(load);
        loadings.push_back(std::move(curve));
    }
    out.plot(fmt::format("Span loading of the {}", a.surfaces.front().name), "along the surface [m]",
             "cl c / mean chord", loadings);
}
}  // namespace

void writeWing(Outline& out, ReportMaterial& m) {
    std::vector<wing::Aircraft> told;
    std::vector<std::string> names{""};
    for (const auto& v : m.c.settings.configurations) names.push_back(v.name);
    for (const auto& name : names) {
        const auto c = m.c.of(name, "");
        const auto& a = c.settings.model.aircraft;
        if (!a || std::find(told.begin(), told.end(), *a) != told.end()) continue;
        if (!told.empty() || names.size() > 1) out.heading(2, campaign::shownName(name));
        told.push_back(*a);
        shape(out, *a);
        flight(out, c, *a);
    }
    if (told.empty()) out.text("The model came from a file; no wing was built from numbers.");
}

}  // namespace cvane::command
