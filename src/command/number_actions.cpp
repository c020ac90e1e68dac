// What results say: quantities of points, slopes over them, comparisons, loadings, surveys of the wake.
#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <map>

#include "base/errors.h"
#include "base/files.h"
#include "base/text.h"
#include "base/units.h"
#include "campaign/settings/difference.h"
#include "campaign/settings/variants.h"
#include "campaign/steps/axles.h"
#include "campaign/steps/model_stage.h"
#include "campaign/steps/reports.h"
#include "campaign/store/run_standing.h"
#include "campaign/store/stored_flow.h"
#include "campaign/store/stored_grid.h"
#include "campaign/store/table.h"
#include "command/edit.h"
#include "command/groups.h"
#include "readout/loading.h"
#include "readout/quantities.h"
#include "readout/slopes.h"
#include "readout/wake_survey.h"
#include "readout/wall_field.h"

namespace cvane::command {
using nlohmann::json;
using enum Argument::Kind;

namespace {
using campaign::PointReport;
using readout::Value;

/// Points with results, and where the axles of each one's model are.
struct Read {
    std::vector<PointReport> reports;
    std::map<std::pair<std::string, std::string>, std::optional<readout::Axles>> axles;  ///< by variants

    const std::optional<readout::Axles>& axlesOf(const PointReport& r) const {
        return axles.at({r.point.configuration, r.point.setUp});
    }
    Value of(const readout::ResultQuantity& q, const PointReport& r, const std::string& part) const {
        return q.of(part.empty() ? *r.result : readout::ofPart(*r.result, part), axlesOf(r));
    }
};

/// @param names  of points; empty: all that have a result
Read readPoints(const campaign::Campaign& c, const std::vector<std::string>& names) {
    Read out;
    campaign::MeasureBook book;
    const auto all = campaign::reportsOf(c, book);
    const auto take = [&](const PointReport& r) {
        const auto key = std::pair(r.point.configuration, r.point.setUp);
        if (!out.axles.contains(key)) {
            const auto seen = c.of(r.point);
            out.axles[key] = campaign::axlesOf(seen.settings, campaign::placedModel(seen), r.result->reference);
        }
        out.reports.push_back(r);
    };
    for (const auto& name : names) {
        const auto point = campaign::pointNamed(c.settings, name);
        for (const auto& r : all)
            if (r.point == point) {
                if (!r.result) throw base::InputError("has no result.", name, "Run it first.");
                take(r);
            }
    }
    if (names.empty())
        for (const auto& r : all)
            if (r.result) take(r);
    if (out.reports.empty())
        throw base::InputError("no point has a result.", c.settings.name, "Run the schedule first.");
    if (names.empty()) campaign::sortByAngle(out.reports);
    return out;
}

/// Names that are given one by one, or with commas between.
std::vector<std::string> namesIn(const json& a, const char* name) {
    std::vector<std::string> out;
    for (const auto& text : textsIn(a, name)) {
        std::size_t from = 0;
        for (auto to = text.find(','); from <= text.size(); to = text.find(',', from)) {
            const auto word = text.substr(from, to == std::string::npos ? to : to - from);
            if (!word.empty()) out.push_back(word);
            if (to == std::string::npos) break;
            from = to + 1;
        }
    }
    return out;
}

std::vector<const readout::ResultQuantity*> quantitiesIn(const json& a, const std::vector<std::string>& otherwise) {
    auto ids = namesIn(a, "quantity");
    if (ids.empty()) ids = otherwise;
    std::vector<const readout::ResultQuantity*> out;
    for (const auto& id : ids) {
        if (id == "all")
            for (const auto& q : readout::resultQuantities()) out.push_back(&q);
        else
            out.push_back(&readout::resultQuantity(id));
    }
    return out;
}

json optionalOf(const std::optional<double>& v) {
    const double x = v.value_or(std::nan(""));
    return std::isfinite(x) ? json(x) : json(nullptr);
}
std::string wordOf(const std::optional<double>& v, const char* form = "{:.6g}") {
    const double x = v.value_or(std::nan(""));
    return std::isfinite(x) ? fmt::format(fmt::runtime(form), x) : std::string();
}

std::string headOf(const readout::ResultQuantity& q) {
    const auto unit = readout::unitOf(q.measure);
    return unit.empty() ? q.id : fmt::format("{} [{}]", q.id, unit);
}

Outcome read(const json& a, const Talk& talk) {
    const auto c = campaign::Campaign::open(textIn(a, "campaign"));
    const auto points = readPoints(c, namesIn(a, "points"));
    const auto quantities = quantitiesIn(a, {"CL", "CD", "CY", "Cl", "Cm", "Cn", "L_over_D"});
    const auto part = a.contains("part") ? textIn(a, "part") : std::string();
    std::string csv = "configuration,set_up,speed_m_s,alpha_deg,beta_deg,state";
    for (const auto* q : quantities) csv += fmt::format(",{},+-", base::csvWord(headOf(*q)));
    csv += "\n";
    json rows = json::array();
    std::map<std::string, std::string> missing;
    for (const auto& r : points.reports) {
        const auto& p = r.point;
        csv += fmt::format("{},{},{:g},{:g},{:g},{}", base::csvWord(campaign::shownName(p.configuration)),
                           base::csvWord(campaign::shownName(p.setUp)), p.condition.speed, p.condition.alpha_deg,
                           p.condition.beta_deg, base::csvWord(r.stateWords()));
        json row = {{"point", p.name()},
                    {"state", campaign::nameOf(r.state)},
                    {"provisional", r.provisional()},
                    {"quantities", json::object()}};
        for (const auto* q : quantities) {
            const auto v = points.of(*q, r, part);
            csv += fmt::format(",{},{}", wordOf(v.value), wordOf(v.band));
            json one = {
                {"value", optionalOf(v.value)}, {"band", optionalOf(v.band)}, {"unit", readout::unitOf(q->measure)}};
            if (!v.value) {
                one["why"] = v.why;
                missing[q->id] = v.why;
            }
            row["quantities"][q->id] = one;
        }
        csv += "\n";
        rows.push_back(row);
    }
    for (const auto& [id, why] : missing) talk({{"warning", fmt::format("{}: {}", id, why)}});
    if (a.contains("csv")) base::exportFile(textIn(a, "csv"), csv);
    return {{{"points", rows}, {"csv", csv}}, a.contains("csv") ? "" : csv, 0};
}

/// Slopes over an angle, a table for each speed, other angle, configuration and set-up.
Outcome slopes(const json& a, const Talk& talk) {
    const auto c = campaign::Campaign::open(textIn(a, "campaign"));
    const auto points = readPoints(c, namesIn(a, "points"));
    const bool overAlpha = a.value("over", std::string("alpha")) == "alpha";
    const double low = a.value("from", -1e9), high = a.value("to", 1e9);
    std::map<std::tuple<std::string, std::string, campaign::Method, double, double>, std::vector<readout::Result>>
        groups;
    for (const auto& r : points.reports) {
        const auto& k = r.point.condition;
        const double angle = overAlpha ? k.alpha_deg : k.beta_deg;
        if (angle < low - 1e-9 || angle > high + 1e-9) continue;
        groups[{r.point.configuration, r.point.setUp, r.point.method, k.speed, overAlpha ? k.beta_deg : k.alpha_deg}]
            .push_back(*r.result);
    }
    json all = json::array();
    std::string text;
    for (const auto& [key, results] : groups) {
        const auto& [configuration, setUp, method, speed, other] = key;
        const auto title =
            fmt::format("{} in {}{}, {:g} m/s, {} {:g} deg, {} points", campaign::shownName(configuration),
                        campaign::shownName(setUp),
                        method == campaign::Method::Field ? "" : fmt::format(", {}", campaign::nameOf(method).shown),
                        speed, overAlpha ? "beta" : "alpha", other, results.size());
        if (results.size() < 2) {
            talk({{"warning", title + ": a slope needs two or more points"}});
            continue;
        }
        json one = {{"configuration", configuration},
                    {"set_up", setUp},
                    {"method", campaign::nameOf(method).id},
                    {"speed_m_s", speed},
                    {"other_deg", other},
                    {"points", results.size()},
                    {"values", json::object()}};
        readout::Slopes found;
        try {
            found = readout::slopesOf(results, overAlpha);
        } catch (const base::InputError& e) {
            talk({{"warning", title + ": " + e.what()}});
            continue;
        }
        one["left_out"] = json::array();
        for (const auto& [at, why] : found.leftOut) {
            const double angle = (overAlpha ? results[at].wind.alpha : results[at].wind.beta) / base::degree;
            one["left_out"].push_back({{"angle_deg", angle}, {"why", why}});
            talk({{"warning", fmt::format("{}: without {:g} deg, {}", title, angle, why)}});
        }
        one["points"] = found.used.size();
        text += title + "\n";
        for (const auto& d : found.values) {
            one["values"][d.id] = {{"value", d.value}, {"error", d.error}, {"unit", d.unit}};
            text += fmt::format("  {:<18} {:>12.5g} +- {:<10.2g} {:<6} {}\n", d.id, d.value, d.error, d.unit, d.name);
        }
        all.push_back(one);
    }
    if (all.empty())
        throw base::InputError("no two points differ in this angle alone.", c.settings.name,
                               "Run points at another angle, or widen the range.");
    return {{{"groups", all}}, text, 0};
}

/// The first point beside others: differences with their bands, and what of the settings differs.
Outcome compare(const json& a, const Talk& talk) {
    const auto c = campaign::Campaign::open(textIn(a, "campaign"));
    const auto names = namesIn(a, "points");
    if (names.size() < 2 || names.size() > 6)
        throw base::InputError("compares two to six points.", "compare", "Name them, the one of reference first.");
    const auto points = readPoints(c, names);
    const auto quantities = quantitiesIn(a, {"CL", "CD", "CY", "Cl", "Cm", "Cn", "L_over_D", "drag_area"});
    const auto& first = points.reports.front();
    json others = json::array();
    std::string text, csv = "quantity,unit,point,reference,value,difference,percent,band_of_difference,within_doubt\n";
    for (std::size_t i = 1; i < points.reports.size(); ++i) {
        const auto& other = points.reports[i];
        json one = {{"point", other.point.name()}, {"quantities", json::object()}, {"settings", json::array()}};
        text += fmt::format("{} against {}\n{:<22} {:>12} {:>12} {:>12} {:>8} {:>11}\n", other.point.name(),
                            first.point.name(), "", "reference", "value", "difference", "%", "+-");
        for (const auto* q : quantities) {
            std::string why;
            const auto d = readout::differenceOf(*q, *first.result, points.axlesOf(first), *other.result,
                                                 points.axlesOf(other), &why);
            if (!d) {
                talk({{"warning", fmt::format("{}: {}", q->id, why)}});
                continue;
            }
            one["quantities"][q->id] = {
                {"reference", d->reference},   {"value", d->value},
                {"difference", d->difference}, {"percent", optionalOf(d->percent)},
                {"band", optionalOf(d->band)}, {"within_doubt", d->band ? json(d->within()) : json(nullptr)}};
            text += fmt::format("{:<22} {:>12.6g} {:>12.6g} {:>+12.4g} {:>8} {:>11}{}\n", headOf(*q), d->reference,
                                d->value, d->difference, d->percent ? wordOf(d->percent, "{:+.1f}") : "-",
                                d->band ? wordOf(d->band, "{:.2g}") : "?", d->within() ? "  within the doubt" : "");
            csv += fmt::format("{},{},{},{:.8g},{:.8g},{:.8g},{},{},{}\n", q->id, readout::unitOf(q->measure),
                               base::csvWord(other.point.name()), d->reference, d->value, d->difference,
                               wordOf(d->percent), wordOf(d->band), d->band ? (d->within() ? "yes" : "no") : "");
        }
        for (const auto& f : campaign::differingSettings(c.of(first.point).settings, c.of(other.point).settings)) {
            one["settings"].push_back({{"field", f.path}, {"first", f.first}, {"other", f.other}});
            text += fmt::format("  {}: {} | {}\n", f.path, f.first.dump(), f.other.dump());
        }
        others.push_back(one);
    }
    if (a.contains("csv")) base::exportFile(textIn(a, "csv"), csv);
    return {{{"reference", first.point.name()}, {"others", others}}, text, 0};
}

Outcome loading(const json& a, const Talk&) {
    const auto c = campaign::Campaign::open(textIn(a, "campaign"));
    const auto point = campaign::pointNamed(c.settings, textIn(a, "point"));
    const auto run = runOf(c, point);
    const auto order = campaign::readOrder(run);
    const auto values = campaign::valueFilesOf(run);
    const auto grid = campaign::readGrid(values.grid);
    const auto axis = a.value("axis", std::string("y"));
    const auto seen = c.of(point);
    std::vector<std::string> parts;
    for (const auto& name : textsIn(a, "part")) parts.push_back(seen.settings.model.idOf(name));
    const auto l = readout::loadingAlong(grid, grid::geometryOf(grid), readout::readWallField(values.wall),
                                         order.flowCase.wind, vectorIn(a, "along", Vec3::Unit(axis[0] - 'x')),
                                         static_cast<int>(std::lround(a.value("strips", 40.0))), parts);
    const auto csv = readout::toCsv(l, order.flowCase.wind);
    const auto& wind = order.flowCase.wind;
    const bool half = order.flowCase.tunnel.halfModel;
    const Vec3 F = (half ? 2.0 : 1.0) * l.total();
    json value = {{"drag_N", F.dot(wind.dragAxis())}, {"lift_N", F.dot(wind.liftAxis())}};
    std::string words = fmt::format("drag {:.6g} N, lift {:.6g} N{}\n", F.dot(wind.dragAxis()), F.dot(wind.liftAxis()),
                                    half ? ", of the whole model; the table is of the half" : "");
    if (axis == "y" && !a.contains("along"))
        if (const auto e = readout::spanEfficiency(l, wind.liftAxis(), half)) {
            value["span_efficiency"] = *e;
            words += fmt::format("span efficiency {:.4f}\n", *e);
        }
    if (a.contains("csv")) {
        base::exportFile(textIn(a, "csv"), csv);
        return {value, words, 0};
    }
    value["csv"] = csv;
    return {value, csv, 0};
}

Outcome survey(const json& a, const Talk&) {
    const auto c = campaign::Campaign::open(textIn(a, "campaign"));
    const auto point = campaign::pointNamed(c.settings, textIn(a, "point"));
    const auto run = runOf(c, point);
    const auto order = campaign::readOrder(run);
    const auto flow = campaign::openFlow(run);
    const auto s = readout::surveyWake(*flow, a.at("behind").get<double>(),
                                       static_cast<int>(std::lround(a.value("strips", 40.0))));
    const double whole = order.flowCase.tunnel.halfModel ? 2.0 : 1.0;
    campaign::MeasureBook book;
    const auto seen = c.of(point);
    const auto reference = book.reference(seen);
    const double qS = flow->wind().dynamicPressure() * reference.area;
    const double profile = whole * s.profile / qS, induced = whole * s.induced / qS;
    std::string csv = "from_m,to_m,profile_drag_N_m,induced_drag_N_m\n";
    for (const auto& k : s.strips)
        csv += fmt::format("{:.6g},{:.6g},{:.6g},{:.6g}\n", k.from, k.to, k.profile / (k.to - k.from),
                           k.induced / (k.to - k.from));
    if (a.contains("csv")) base::exportFile(textIn(a, "csv"), csv);
    return {{{"CD_profile", profile}, {"CD_induced", induced}, {"csv", csv}},
            fmt::format("CD of the wake: {:.6f}, of it profile {:.6f}, induced {:.6f}\n", profile + induced, profile,
                        induced),
            0};
}
}  // namespace

std::vector<Action> numberActions() {
    const Argument folder{"campaign", Text, "the campaign's folder", true, true},
        point{"point", Text, "name of the point", true, true},
        points{"points", Texts, "names of points; none: all that have a result"},
        what{"quantity", Texts, "as `cvane quantities` lists them, or all"}, csv{"csv", Output, "write to this file"};
    return {{"read",
             "quantities of points, with their bands",
             {folder, points, what, {"part", Text, "of this part alone"}, csv},
             read},
            {"slopes",
             "slopes over an angle, zero-lift angle and neutral point, with their errors",
             {folder,
              points,
              {"over", Text, "the angle", false, false, 0, {"alpha", "beta"}},
              {"from", Number, "least angle that counts [deg]"},
              {"to", Number, "largest [deg]"}},
             slopes},
            {"compare",
             "points beside a reference: differences, their bands, and which settings differ",
             {folder, {"points", Texts, "two to six, the reference first", true}, what, csv},
             compare},
            {"loading",
             "forces along an axis: per metre, sectional coefficients, sums from nose to tail, shear and bending",
             {folder,
              point,
              {"axis", Text, "of the model", false, false, 0, {"x", "y", "z"}},
              {"along", Numbers, "any other axis", false, false, 3},
              {"strips", Whole, "how many", false, false, 0, {}, 1, 5000},
              {"part", Texts, "of these parts alone"},
              csv},
             loading},
            {"survey",
             "drag found in the wake, parted into profile and induced drag",
             {folder,
              point,
              {"behind", Number, "where the plane crosses the model's x axis [m]", true},
              {"strips", Whole, "how many along the span", false, false, 0, {}, 1, 5000},
              csv},
             survey}};
}

}  // namespace cvane::command
