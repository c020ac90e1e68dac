// The sections of a report.
#include "command/report_content.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <set>

#include "campaign/plan/points.h"
#include "campaign/plan/propellers.h"
#include "campaign/settings/fields.h"
#include "campaign/settings/variants.h"
#include "campaign/store/monitor.h"
#include "campaign/store/run_order.h"
#include "campaign/store/run_standing.h"
#include "campaign/store/stored_flow.h"
#include "command/report_wing.h"
#include "flow/version.h"
#include "readout/loading.h"
#include "readout/pressure_station.h"
#include "readout/quantities.h"
#include "readout/slopes.h"
#include "view/item_shape.h"

namespace cvane::command {
using campaign::PointReport;
using report::Outline;

constexpr int kStrips = 60;

namespace {
std::string nameOf(const campaign::Point& p) {
    std::string out = fmt::format("{:g} m/s, alpha {:g} deg", p.condition.speed, p.condition.alpha_deg);
    if (p.condition.beta_deg != 0.0) out += fmt::format(", beta {:g} deg", p.condition.beta_deg);
    for (const auto& variant : {p.configuration, p.setUp})
        if (!variant.empty()) out += ", " + variant;
    if (p.method != campaign::Method::Field) out += fmt::format(", {}", campaign::nameOf(p.method).shown);
    return out;
}

std::string number(double v, const char* form = "{:.5g}") {
    return std::isfinite(v) ? fmt::format(fmt::runtime(form), v + 0.0) : "-";
}

std::string inWords(const nlohmann::json& v) {
    if (v.is_null()) return "as computed";
    if (v.is_boolean()) return v.get<bool>() ? "yes" : "no";
    if (v.is_string()) return v.get<std::string>();
    if (v.is_number()) return fmt::format("{:g}", v.get<double>());
    if (!v.is_array()) return v.dump();
    std::string out;
    for (const auto& one : v) out += (out.empty() ? "" : ", ") + inWords(one);
    return out;
}

// Those settings of groups that differ from their defaults, each once in a report.
void settingsTable(Outline& out, ReportMaterial& m, const std::set<std::string>& groups) {
    const campaign::Settings defaults;
    std::vector<std::vector<std::string>> rows;
    bool any = false;
    for (const auto& g : campaign::settingGroups()) {
        if (!groups.contains(g.name) || !m.told.insert(g.name).second) continue;
        any = true;
        for (const auto& r : g.rows) {
            const auto now = r.get(m.c.settings);
            if (now == r.get(defaults)) continue;
            auto meaning = r.help;
            if (const auto at = meaning.find("null"); at != std::string::npos) meaning.replace(at, 4, "left out");
            rows.push_back(
                {r.label.empty() ? r.name : r.label, inWords(now) + (r.unit.empty() ? "" : " " + r.unit), meaning});
        }
    }
    if (!rows.empty()) out.table({"setting", "value", "meaning"}, rows, false);
    if (any) out.text(rows.empty() ? "All settings are at their defaults." : "Other settings are at their defaults.");
}

void asked(Outline& out, ReportMaterial& m) {
    const auto& s = m.c.settings;
    out.text(fmt::format("{} points: speeds {} m/s, alpha {} deg, beta {} deg; configurations: {}, set-ups: {}.",
                         m.all.size(), campaign::listText(s.schedule.speeds), campaign::listText(s.schedule.alphas_deg),
                         campaign::listText(s.schedule.betas_deg), s.configurations.size() + 1, s.setUps.size() + 1));
    std::map<campaign::PointState, int> states;
    for (const auto& r : m.all) ++states[r.state];
    std::string text;
    for (const auto& [state, count] : states)
        text += fmt::format("{}{} {}", text.empty() ? "" : ", ", count, campaign::nameOf(state));
    out.text("How they stand: " + text + ".");
    settingsTable(out, m, {"air", "reference"});
}

void model(Outline& out, ReportMaterial& m) {
    if (m.inField.empty()) {
        out.text("No point has been computed in the field.");
        return;
    }
    const auto& r = m.inField.front();
    const auto flow = m.flowOf(r);
    const auto size = view::wallsOf(*flow).size();
    const auto& ref = r.result->reference;
    out.text(
        fmt::format("{:.4g} m long, {:.4g} m wide, {:.4g} m high{}. Reference area {:.5g} m2, length {:.5g} m, span "
                    "{:.5g} m, moments about {:.4g} {:.4g} {:.4g} m.",
                    size.x(), size.y(), size.z(), r.result->halfModel ? ", a half model" : "", ref.area, ref.length,
                    ref.span, ref.momentCentre.x(), ref.momentCentre.y(), ref.momentCentre.z()));
    campaign::FlowItem walls;
    walls.kind = campaign::FlowItem::Kind::Wall;
    walls.quantity.clear();
    for (const auto& [look, caption] : {std::pair{view::Look::Oblique, "obliquely from ahead"},
                                        {view::Look::Side, "from port"},
                                        {view::Look::Above, "from above"}}) {
        view::PictureSettings p;
        p.look = look;
        p.ground = view::groundOf(*flow, m.c.of(r.point).settings.tunnel);
        out.picture(m.draw(*flow, {walls}, p), fmt::format("The model {}.", caption));
    }
}

void tunnel(Outline& out, ReportMaterial& m) {
    settingsTable(out, m, {"tunnel"});
    std::vector<std::vector<std::string>> rows;
    for (const auto& w : m.c.settings.devices.wheels)
        rows.push_back({"wheel " + w.part, w.rolling ? "rolls with the ground" : fmt::format("{:g} 1/min", w.rpm)});
    for (const auto& d : campaign::discsOf(m.c.settings))
        rows.push_back({"disc " + d.name, fmt::format("{:g} N", d.thrust)});
    for (const auto& b : m.c.settings.devices.blocks) rows.push_back({"porous block " + b.name, "resists the air"});
    if (!rows.empty()) out.table({"device", "what it does"}, rows, false);
}

void gridSection(Outline& out, ReportMaterial& m) {
    if (m.inField.empty()) {
        out.text("No point has been computed in the field.");
        return;
    }
    std::set<std::filesystem::path> seen;
    std::vector<std::vector<std::string>> rows;
    for (const auto& r : m.inField) {
        const auto grid = campaign::valueFilesOf(r.folder).grid;
        if (!seen.insert(grid).second) continue;
        rows.push_back({grid.parent_path().filename().string(), std::to_string(r.result->cells),
                        number(r.result->readings().yPlusLow, "{:.2g}"),
                        number(r.result->readings().yPlusMedian, "{:.3g}"),
                        number(r.result->readings().yPlusHigh, "{:.3g}")});
    }
    out.table({"grid", "cells", "y+ least", "median", "most"}, rows);
    const auto& r = m.inField.front();
    const auto flow = m.flowOf(r);
    const Box b = view::wallsOf(*flow);
    campaign::FlowItem walls, cells;
    walls.kind = campaign::FlowItem::Kind::Wall;
    walls.quantity.clear();
    cells.kind = campaign::FlowItem::Kind::Cells;
    cells.through = b.centre() + 0.0137 * b.size();
    view::PictureSettings p;
    p.look = view::Look::Side;
    p.zoom = 0.8;
    out.picture(m.draw(*flow, {walls, cells}, p), "Cells along the plane through the middle.");
    settingsTable(out, m, {"grid"});
}

void method(Outline& out, ReportMaterial& m) {
    settingsTable(out, m, {"flow"});
}

void results(Outline& out, ReportMaterial& m) {
    std::vector<std::vector<std::string>> rows;
    for (const auto& r : m.done) {
        const auto& x = *r.result;
        const auto t = x.trust();
        const auto& c = x.coefficients;
        rows.push_back({shownName(r), r.stateWords(), number(c.CL, "{:.4f}"), number(t.CL, "{:.4f}"),
                        number(c.CD, "{:.5f}"), number(t.CD, "{:.5f}"), number(c.CY, "{:.4f}"), number(c.Cm, "{:.4f}"),
                        number(t.Cm, "{:.4f}"), number(c.Cl, "{:.4f}"), number(c.Cn, "{:.4f}"),
                        c.CD != 0.0 ? number(c.CL / c.CD, "{:.2f}") : "-"});
    }
    out.table({"point", "state", "CL", "+-", "CD", "+-", "CY", "Cm", "+-", "Cl", "Cn", "L/D"}, rows);
    out.text(
        "+- is how far a value may lie from that of many more iterations and cells; where there was no coarser grid "
        "to compare with, what a finer grid would change is not in it.");
    for (const auto& r : m.done) {
        if (r.result->parts.size() < 2) continue;
        out.heading(2, "By part, " + shownName(r));
        std::vector<std::vector<std::string>> parts;
        for (const auto& p : r.result->parts)
            parts.push_back({p.name, number(p.coefficients.CL, "{:.4f}"), number(p.coefficients.CD, "{:.5f}"),
                             number(p.coefficients.CY, "{:.4f}"), number(p.coefficients.Cm, "{:.4f}")});
        out.table({"part", "CL", "CD", "CY", "Cm"}, parts);
    }
}

// Points that differ in alpha alone, a curve each.
using Series = std::map<std::string, std::vector<const PointReport*>>;
Series overAlpha(const ReportMaterial& m) {
    Series out;
    for (const auto& r : m.done) {
        auto rest = r.point;
        std::string name = fmt::format("{:g} m/s", rest.condition.speed);
        if (rest.condition.beta_deg != 0.0) name += fmt::format(", beta {:g}", rest.condition.beta_deg);
        for (const auto& variant : {rest.configuration, rest.setUp})
            if (!variant.empty()) name += ", " + variant;
        if (rest.method != campaign::Method::Field) name += fmt::format(", {}", campaign::nameOf(rest.method).shown);
        out[name].push_back(&r);
    }
    return out;
}

void polars(Outline& out, ReportMaterial& m) {
    const auto series = overAlpha(m);
    const auto plot = [&](const char* title, const char* y, double air::Coefficients::*which) {
        std::vector<Outline::Curve> curves;
        for (const auto& [name, points] : series) {
            Outline::Curve c{name, {}, {}, {}, true};
            for (const auto* r : points) {
                c.x.push_back(r->point.condition.alpha_deg);
                c.y.push_back(r->result->coefficients.*which);
                c.band.push_back(r->result->trust().*which);
            }
            curves.push_back(std::move(c));
        }
        out.plot(title, "alpha [deg]", y, curves);
    };
    plot("Lift", "CL", &air::Coefficients::CL);
    plot("Drag", "CD", &air::Coefficients::CD);
    plot("Pitching moment", "Cm", &air::Coefficients::Cm);
    addDragPolar(out, m);
    std::vector<std::vector<std::string>> rows;
    for (const auto& [name, points] : series) {
        if (points.size() < 2) continue;
        std::vector<readout::Result> of;
        for (const auto* r : points) of.push_back(*r->result);
        readout::Slopes found;
        try {
            found = readout::slopesOf(of, true);
        } catch (const base::InputError&) {
            continue;  // no two settled points
        }
        for (const auto& d : found.values)
            if (d.id == "CL_alpha" || d.id == "Cm_alpha" || d.id == "alpha_0" || d.id == "Cm_0" ||
                d.id == "neutral_point_x")
                rows.push_back({name, d.name, number(d.value), number(d.error, "{:.2g}"), d.unit});
    }
    if (!rows.empty()) out.table({"points", "value", "", "+-", "unit"}, rows);
}

void loadings(Outline& out, ReportMaterial& m) {
    std::vector<Outline::Curve> span, nose;
    for (const auto& r : m.inField) {
        if (span.size() == 6) break;
        const auto flow = m.flowOf(r);
        const auto& mesh = flow->mesh();
        const readout::WallField wall{flow->wall().face, flow->wall().Cp, flow->wall().Cf, flow->wall().yPlus};
        const double q = flow->wind().dynamicPressure();
        const auto along = [&](const Vec3& axis) {
            return readout::loadingAlong(mesh.grid(), mesh.geometry(), wall, flow->wind(), axis, kStrips);
        };
        Outline::Curve lift{shownName(r), {}, {}, {}, false};
        Outline::Curve drag{shownName(r), {}, {}, {}, false};
        for (const auto& s : along(Vec3::UnitY()).strips) {
            lift.x.push_back(s.middle());
            lift.y.push_back(s.force().dot(flow->wind().liftAxis()) / q / (s.to - s.from));
        }
        const double whole = r.result->halfModel ? 2.0 : 1.0;
        double sum = 0.0;
        for (const auto& s : along(Vec3::UnitX()).strips) {
            sum += whole * s.force().dot(flow->wind().dragAxis()) / q;
            drag.x.push_back(s.to);
            drag.y.push_back(sum);
        }
        span.push_back(std::move(lift));
        nose.push_back(std::move(drag));
    }
    out.plot("Lift along the span", "y [m]", "lift per span over q [m]", span);
    out.plot("Drag from nose to tail", "x [m]", "cumulative drag over q [m2]", nose);
}

void stations(Outline& out, ReportMaterial& m) {
    if (m.inField.empty()) {
        out.text("No point has been computed in the field.");
        return;
    }
    auto planes = m.c.settings.pressurePlanes;
    const auto& first = m.inField.front();
    if (planes.empty()) {
        const Box b = view::wallsOf(*m.flowOf(first));
        planes.push_back({campaign::PressurePlane::Axis::Y, b.centre().y() + 1e-4 * b.size().norm()});
    }
    for (const auto& p : planes) {
        std::vector<Outline::Curve> curves;
        for (const auto& r : m.inField) {
            if (curves.size() == 6) break;
            const auto flow = m.flowOf(r);
            const readout::WallField wall{flow->wall().face, flow->wall().Cp, flow->wall().Cf, flow->wall().yPlus};
            const auto station =
                readout::cutStation(flow->mesh().grid(), flow->mesh().geometry(), wall, static_cast<int>(p.axis), p.at);
            Outline::Curve c{shownName(r), {}, {}, {}, false};
            // The longest piece of the outline: a line may not leap from one body to the next.
            const auto piece = std::max_element(station.outlines.begin(), station.outlines.end(),
                                                [](const auto& a, const auto& b) { return a.size() < b.size(); });
            if (piece == station.outlines.end()) continue;
            for (const auto& s : *piece) {
                c.x.push_back(s.fraction);
                c.y.push_back(s.Cp);
            }
            curves.push_back(std::move(c));
        }
        if (!curves.empty())
            out.plot(fmt::format("Pressure along {} = {:.4g} m", "xyz"[static_cast<int>(p.axis)], p.at), "x/c", "Cp",
                     curves, true);
    }
}

void views(Outline& out, ReportMaterial& m) {
    // The kept views of every third of the points at most: pictures are pages.
    const std::size_t step = std::max<std::size_t>(1, m.inField.size() / 3);
    for (std::size_t i = 0; i < m.inField.size(); i += step) {
        const auto& r = m.inField[i];
        const auto flow = m.flowOf(r);
        const auto seen = m.c.of(r.point);
        view::PictureSettings p;
        p.ground = view::groundOf(*flow, seen.settings.tunnel);
        if (m.c.settings.views.empty()) {
            const auto& own = seen.settings.flowItems;
            out.picture(m.draw(*flow, own.empty() ? view::firstItems(*flow) : own, p), shownName(r) + ".");
        }
        for (const auto& v : m.c.settings.views) {
            p.camera = view::Camera{v.eye, v.focus, v.up, v.height, v.perspective};
            p.dark = v.dark;
            out.picture(m.draw(*flow, v.items, p), fmt::format("{}: {}.", v.name, shownName(r)));
        }
    }
}

void convergence(Outline& out, ReportMaterial& m) {
    for (const auto& r : m.done) {
        const auto& x = *r.result;
        out.heading(2, shownName(r));
        const auto remark = readout::remarkOf(x);
        out.text(fmt::format("{} after {} iterations on {} cells in {:.0f} s on {} ranks{}.{}{}",
                             flow::nameOf(x.verdict), x.iterations, x.cells, x.seconds, x.ranks,
                             x.averagedOver > 0 ? fmt::format(", means over the last {}", x.averagedOver) : "",
                             remark.empty() ? "" : " ", remark));
        if (x.readings().forceFromOutside)
            out.text(fmt::format("The far-field momentum balance gives CD {:.5f}, {:+.2f} % from the balance.",
                                 x.total.coefficients.CD + x.outsideCD(),
                                 100.0 * x.outsideCD() / std::max(std::abs(x.total.coefficients.CD), 1e-12)));
        const auto monitor = campaign::readMonitor(r.folder, r.reference);
        const auto* at = monitor.column("iteration");
        std::vector<Outline::Curve> curves;
        // Each coefficient less its end, over its band or size, so that they share one axis.
        for (const char* name : {"CL", "CD"})
            if (const auto* y = monitor.column(name); at && y && !y->empty()) {
                const double end = y->back(), size = std::max(std::abs(end), 1e-9);
                Outline::Curve c{fmt::format("{} less {:.5g}, in % of it", name, end), {}, {}, {}, false};
                const std::size_t from = y->size() / 10;  // the start would hide the rest
                for (std::size_t k = from; k < y->size(); ++k) {
                    c.x.push_back((*at)[k]);
                    c.y.push_back(std::clamp(100.0 * ((*y)[k] - end) / size, -50.0, 50.0));
                }
                curves.push_back(std::move(c));
            }
        if (!curves.empty()) out.plot("How the coefficients came to rest", "iteration", "%", curves);
    }
}

void warnings(Outline& out, ReportMaterial& m) {
    int count = 0;
    for (const auto& r : m.done) {
        if (r.state == campaign::PointState::OutOfDate) {
            out.text(fmt::format("{}: out of date, settings have changed since.", shownName(r)));
            ++count;
        }
        for (const auto& f : r.result->findings) {
            out.text(fmt::format("{}: {}", shownName(r), f.what));
            ++count;
        }
    }
    for (const auto& r : m.all)
        if (!r.result) {
            out.text(fmt::format("{}: {}, without a result. {}", shownName(r), campaign::nameOf(r.state), r.message));
            ++count;
        }
    if (count == 0) out.text("None.");
}

void settings(Outline& out, ReportMaterial& m) {
    out.text(fmt::format("Solver version {}.", flow::kSolverVersion));
    std::set<std::string> groups;
    for (const auto& g : campaign::settingGroups())
        if (g.name != "sections" && g.name != "shown_units") groups.insert(g.name);
    settingsTable(out, m, groups);
}

const ReportWriter kWriters[] = {{"answer", "In short", writeAnswer},
                                 {"asked", "What was asked", asked},
                                 {"model", "Model", model},
                                 {"wing", "Wing and lifting surface", writeWing},
                                 {"tunnel", "Tunnel and devices", tunnel},
                                 {"grid", "Grid", gridSection},
                                 {"method", "Method", method},
                                 {"results", "Results", results},
                                 {"polars", "Polars", polars},
                                 {"loadings", "Loadings", loadings},
                                 {"stations", "Pressures", stations},
                                 {"views", "Flow", views},
                                 {"convergence", "How the points came to rest", convergence},
                                 {"warnings", "Warnings", warnings},
                                 {"settings", "Settings and versions", settings}};
}  // namespace

std::string shownName(const PointReport& r) {
    return nameOf(r.point) + (r.provisional() ? " (provisional)" : "");
}

void addDragPolar(Outline& out, const ReportMaterial& m) {
    std::vector<Outline::Curve> polar;
    for (const auto& [name, points] : overAlpha(m)) {
        if (points.size() < 2) continue;
        Outline::Curve c{name, {}, {}, {}, true};
        for (const auto* r : points) {
            c.x.push_back(r->result->coefficients.CD);
            c.y.push_back(r->result->coefficients.CL);
        }
        polar.push_back(std::move(c));
    }
    if (!polar.empty()) out.plot("Drag polar", "CD", "CL", polar);
}

std::shared_ptr<const field::FlowField> ReportMaterial::flowOf(const PointReport& r) {
    auto& f = flows[r.folder];
    if (f) return f;
    auto opened = campaign::openFlow(r.folder);
    flows.clear();
    return flows[r.folder] = opened;
}

std::string ReportMaterial::draw(const field::FlowField& flow, const std::vector<campaign::FlowItem>& items,
                                 view::PictureSettings s) {
    s.width = 1500;
    s.height = 850;
    const auto file = folder / fmt::format("picture-{}.png", ++pictures);
    for (const auto& trouble : view::writePicture(flow, items, s, file)) talk({{"warning", trouble}});
    return file.string();
}

std::span<const ReportWriter> reportWriters() {
    return kWriters;
}

}  // namespace cvane::command
