#include "lifting/tables.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/units.h"
#include "wing/measures.h"

namespace cvane::lifting {
using base::degree;
using nlohmann::json;

namespace {
std::string numbers(std::initializer_list<double> values) {
    std::string out;
    for (const double v : values) out += fmt::format("{}{:.7g}", out.empty() ? "" : ",", v);
    return out;
}
json finite(double v) {
    return std::isfinite(v) ? json(v) : json(nullptr);
}
json sixOf(const air::Coefficients& c) {
    json out;
    for (const auto& [name, member] : air::kNamedCoefficients) out[name] = finite(c.*member);
    return out;
}
// As a part's name stands in a table whose columns commas part.
std::string word(const std::string& name) {
    return name.find_first_of(",\"\n") == std::string::npos ? name : fmt::format("\"{}\"", name);
}
}  // namespace

std::vector<SpanLoad> spanLoads(const Row& row, const air::Reference& reference) {
    std::vector<SpanLoad> out(row.strips.size());
    for (std::size_t i = 0; i < row.strips.size(); ++i) {
        const StripRow& s = row.strips[i];
        out[i].strip = &s;
        out[i].loading = s.load.cl * s.strip.chord / reference.length;
    }
    // From each tip inwards.
    for (std::size_t i = 0; i < out.size(); ++i) {
        const auto& mine = row.strips[i].strip;
        for (const auto& other : row.strips) {
            if (other.strip.surface != mine.surface || other.strip.port != mine.port || other.strip.along < mine.along)
                continue;
            const Vec3 across = mine.port ? Vec3(-mine.across) : mine.across;
            const double force = other.load.force.dot(mine.chordwise.cross(across).normalized());
            out[i].shear += force;
            out[i].bending += force * (other.strip.along - mine.along + 0.5 * mine.width);
        }
    }
    return out;
}

Flight flightOf(const Row& row, const air::Reference& reference) {
    Flight f;
    f.drag = row.coefficients.CD * row.wind.dynamicPressure() * reference.area;
    f.power = f.drag * row.wind.speed;
    f.sink = row.coefficients.CL > 0.0 ? row.wind.speed * row.coefficients.CD / row.coefficients.CL : std::nan("");
    return f;
}

std::optional<double> stallSpeed(const Outcome& o, double mass, const air::Air& air) {
    if (!o.greatestLift || !(mass > 0.0)) return std::nullopt;
    return std::sqrt(2.0 * mass * kGravity / (air.density * o.reference.area * *o.greatestLift));
}

std::string csvOf(const wing::Aircraft&, const Outcome& o) {
    std::string out =
        "alpha_deg,beta_deg,speed_m_s,CL,CD,CY,Cl,Cm,Cn,CD_induced,CD_induced_at_the_surface,CD_profile,e,CL_over_CD,"
        "trim_deg,stalled_share,drag_N,power_W,sink_m_s,reached\n";
    for (const auto& r : o.rows) {
        const auto& c = r.coefficients;
        const auto f = flightOf(r, o.reference);
        out += numbers({r.wind.alpha / degree, r.wind.beta / degree, r.wind.speed, c.CL, c.CD, c.CY, c.Cl, c.Cm, c.Cn,
                        r.inducedFar, r.inducedNear, r.profile, r.efficiency, r.liftOverDrag(), r.trimAngle_deg,
                        r.stalledShare, f.drag, f.power, f.sink}) +
               (r.reached ? ",yes\n" : ",no\n");
    }
    return out;
}

std::string stripsCsvOf(const wing::Aircraft& a, const Outcome& o) {
    std::string out =
        "alpha_deg,surface,half,along_m,x_m,y_m,z_m,chord_m,width_m,cl,cl_c_over_reference,circulation_m2_s,downwash_m_"
        "s,"
        "reynolds,cd,stalled,shear_N,bending_Nm\n";
    for (const auto& r : o.rows)
        for (const auto& l : spanLoads(r, o.reference)) {
            const auto& s = *l.strip;
            out +=
                fmt::format("{:.7g},{},{},", r.wind.alpha / degree, word(a.surfaces[s.strip.surface].name),
                            s.strip.port ? "port" : "starboard") +
                numbers({s.strip.along, s.strip.quarter.x(), s.strip.quarter.y(), s.strip.quarter.z(), s.strip.chord,
                         s.strip.width, s.load.cl, l.loading, s.load.circulation, s.load.downwash, s.reynolds, s.cd}) +
                fmt::format(",{},", s.stalled ? "yes" : "no") + numbers({l.shear, l.bending}) + "\n";
        }
    return out;
}

std::string textOf(const wing::Aircraft& a, const Asked& asked, const Outcome& o) {
    const auto m = wing::measure(a, a.surfaces.front());
    std::string out = fmt::format("{}: area {:.5g} m2, span {:.5g} m, aspect ratio {:.4g}, mean chord {:.4g} m\n",
                                  a.name.empty() ? "aircraft" : a.name, m.area, m.span, m.aspect, m.meanChord);
    for (std::size_t k = 1; k < a.surfaces.size(); ++k)
        out += fmt::format("{}: area {:.5g} m2, tail volume {:.3f}\n", a.surfaces[k].name,
                           wing::measure(a, a.surfaces[k]).area, wing::tailVolume(a, k).value_or(0.0));
    out += fmt::format("{:>7} {:>8} {:>8} {:>8} {:>8} {:>8} {:>8} {:>7} {:>7}{}{}\n", "alpha", "V m/s", "CL", "CD",
                       "CDi", "CDp", "Cm", "e", "L/D", asked.trimBy.empty() ? "" : "   trim",
                       asked.holdStrips ? "  stalled" : "");
    for (const auto& r : o.rows) {
        const auto& c = r.coefficients;
        out += fmt::format("{:7.2f} {:8.2f} {:8.4f} {:8.5f} {:8.5f} {:8.5f} {:8.4f} {:7.3f} {:7.2f}{}{}{}\n",
                           r.wind.alpha / degree, r.wind.speed, c.CL, c.CD, r.inducedFar, r.profile, c.Cm, r.efficiency,
                           r.liftOverDrag(), asked.trimBy.empty() ? "" : fmt::format("{:7.2f}", r.trimAngle_deg),
                           asked.holdStrips ? fmt::format("{:8.0f} %", 100.0 * r.stalledShare) : "",
                           r.reached ? "" : fmt::format("  {}", r.why));
    }
    if (const auto& d = o.derivatives) {
        out += fmt::format("neutral point at x {:.4f} m, static margin {:.1f} % of the mean chord\n",
                           d->neutralPoint.x(), 100.0 * d->staticMargin);
        const auto line = [&](const char* by, const air::Coefficients& c) {
            out += fmt::format("  by {:<10} CL {:8.4f}  CY {:8.4f}  Cl {:8.4f}  Cm {:8.4f}  Cn {:8.4f}\n", by, c.CL,
                               c.CY, c.Cl, c.Cm, c.Cn);
        };
        out += "derivatives per rad, rates by p b / 2V, q c / 2V, r b / 2V\n";
        line("alpha", d->alpha);
        line("beta", d->beta);
        line("roll", d->roll);
        line("pitch", d->pitch);
        line("yaw", d->yaw);
        for (const auto& [name, c] : d->controls) line(name.c_str(), c);
    }
    if (o.greatestLift) out += fmt::format("greatest lift {:.3f}\n", *o.greatestLift);
    if (const auto v = stallSpeed(o, asked.holdMass.value_or(a.mass), asked.air))
        out += fmt::format("stall speed {:.2f} m/s\n", *v);
    for (const auto& r : o.remarks) out += r + "\n";
    return out;
}

json jsonOf(const wing::Aircraft& a, const Asked& asked, const Outcome& o) {
    json rows = json::array();
    for (const auto& r : o.rows) {
        json strips = json::array();
        for (const auto& l : spanLoads(r, o.reference)) {
            const auto& s = *l.strip;
            strips.push_back({{"surface", a.surfaces[s.strip.surface].name},
                              {"half", s.strip.port ? "port" : "starboard"},
                              {"along_m", s.strip.along},
                              {"chord_m", s.strip.chord},
                              {"cl", finite(s.load.cl)},
                              {"cl_c_over_reference", finite(l.loading)},
                              {"downwash_m_s", finite(s.load.downwash)},
                              {"reynolds", s.reynolds},
                              {"cd", s.cd},
                              {"stalled", s.stalled},
                              {"shear_N", finite(l.shear)},
                              {"bending_Nm", finite(l.bending)}});
        }
        const auto f = flightOf(r, o.reference);
        rows.push_back({{"alpha_deg", r.wind.alpha / degree},
                        {"beta_deg", r.wind.beta / degree},
                        {"speed_m_s", r.wind.speed},
                        {"coefficients", sixOf(r.coefficients)},
                        {"CD_induced", finite(r.inducedFar)},
                        {"CD_induced_at_the_surface", finite(r.inducedNear)},
                        {"CD_profile", finite(r.profile)},
                        {"efficiency", finite(r.efficiency)},
                        {"trim_deg", r.trimAngle_deg},
                        {"stalled_share", r.stalledShare},
                        {"drag_N", finite(f.drag)},
                        {"power_W", finite(f.power)},
                        {"sink_m_s", finite(f.sink)},
                        {"hinge_moments_Nm", r.hinge},
                        {"reached", r.reached},
                        {"why_not", r.why},
                        {"strips", strips}});
    }
    json derivatives = nullptr;
    if (const auto& d = o.derivatives) {
        derivatives = {{"alpha", sixOf(d->alpha)},        {"beta", sixOf(d->beta)},
                       {"roll_rate", sixOf(d->roll)},     {"pitch_rate", sixOf(d->pitch)},
                       {"yaw_rate", sixOf(d->yaw)},       {"neutral_point_x_m", d->neutralPoint.x()},
                       {"static_margin", d->staticMargin}};
        for (const auto& [name, c] : d->controls) derivatives["controls"][name] = sixOf(c);
    }
    const auto stall = stallSpeed(o, asked.holdMass.value_or(a.mass), asked.air);
    return {{"aircraft", a.name},
            {"reference",
             {{"area_m2", o.reference.area},
              {"length_m", o.reference.length},
              {"span_m", o.reference.span},
              {"moment_centre_m",
               {o.reference.momentCentre.x(), o.reference.momentCentre.y(), o.reference.momentCentre.z()}}}},
            {"points", rows},
            {"derivatives", derivatives},
            {"greatest_lift", o.greatestLift ? json(*o.greatestLift) : json(nullptr)},
            {"stall_speed_m_s", stall ? json(*stall) : json(nullptr)},
            {"remarks", o.remarks}};
}

}  // namespace cvane::lifting
