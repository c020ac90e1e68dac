#include <fmt/format.h>

#include <map>

#include "base/errors.h"
#include "base/files.h"
#include "base/number_list.h"
#include "base/units.h"
#include "campaign/steps/section_field.h"
#include "campaign/steps/section_stage.h"
#include "campaign/store/section_tables.h"
#include "command/edit.h"
#include "command/groups.h"
#include "report/workbook.h"
#include "section/outline/coordinates.h"
#include "section/outline/edit.h"
#include "section/outline/faults.h"
#include "section/polar/batch.h"
#include "section/polar/table.h"

namespace cvane::command {
using base::degree;
using nlohmann::json;
using enum Argument::Kind;

namespace {

section::Contour contourOf(const json& a) {
    section::Contour c = section::sectionFrom(textIn(a, "section"));
    if (a.value("refair", false)) {
        double departs = 0.0;
        c = section::refaired(c, departs);
    }
    if (a.contains("flap")) c = section::withFlap(c, a["flap"][0].get<double>(), a["flap"][1].get<double>() * degree);
    return c;
}

section::SectionCase caseOf(const json& a) {
    section::SectionCase c;
    c.air.mach = a.value("mach", 0.0);
    if (c.air.mach > 0.7)
        throw base::InputError(fmt::format("Mach {:g} is beyond 0.7, where panels hold.", c.air.mach), "section",
                               "Take a lower one, or --method field.");
    if (a.contains("n") && a.contains("turbulence"))
        throw base::InputError("n and turbulence say the same.", "section", "Give one of them.");
    if (a.contains("turbulence")) {
        const double percent = a["turbulence"].get<double>();
        c.nCritical = std::max(section::nFromTurbulence(0.01 * percent), 1.0);
    }
    if (a.contains("n")) c.nCritical = a["n"].get<double>();
    if (a.contains("trip")) c.tripUpper = a["trip"][0].get<double>(), c.tripLower = a["trip"][1].get<double>();
    c.viscous = !a.value("inviscid", false);
    return c;
}

std::string pointLine(const section::PointFigures& f, bool field = false) {
    if (!f.converged && !field)
        return fmt::format("{:9.3f} {:>9} {:>10} {:>9}  did not converge ({:.0e})\n", f.alpha / degree, "-", "-", "-",
                           f.residual);
    if (!f.viscous) return fmt::format("{:9.3f} {:9.4f} {:>10} {:9.4f}\n", f.alpha / degree, f.cl, "-", f.cm);
    const auto sep = f.separation(section::Side::Upper);
    return fmt::format("{:9.3f} {:9.4f} {:10.5f} {:9.4f} {:8.1f} {:8.3f} {:8.3f} {:>8}  {}\n", f.alpha / degree, f.cl,
                       f.cd, f.cm, f.cd > 0.0 ? f.cl / f.cd : 0.0, f.transition[0], f.transition[1],
                       sep ? fmt::format("{:.3f}", *sep) : "-",
                       !f.converged ? fmt::format("not settled ({:.0e})", f.residual)
                       : f.sonic()  ? "sonic: beyond the correction for Mach number"
                                    : "");
}

/// What is swept over as it is asked for, or the usual values. A range says its step.
std::vector<double> sweepOf(const json& a, const char* over, const char* usual) {
    return base::numbersIn(a.value(over, std::string(usual)), over, base::Step::Asked);
}

Outcome inTheField(const json& a, const section::Contour& contour, const Talk& talk) {
    for (const char* no : {"lift", "fixed-lift", "n", "trip", "inviscid", "panels"})
        if (a.contains(no))
            throw base::InputError(fmt::format("{} is for the panel method.", no), "section",
                                   "Take it out, or the method.");
    auto alphas = sweepOf(a, "alpha", "0:8:4");
    for (double& v : alphas) v *= degree;
    json value = {{"section", contour.name}, {"method", "field"}, {"polars", json::array()}};
    std::string text, csv = "Reynolds,alpha [deg],cl,cd,cd friction,cm,settled,cells,iterations,seconds\n";
    bool missed = false;
    std::string cp;
    for (const double re : sweepOf(a, "re", "1e6")) {
        campaign::SectionField what;
        what.reynolds = re;
        what.level = a.value("level", 1);
        what.mach = a.value("mach", 0.0);
        if (a.contains("turbulence")) what.turbulence = std::max(1e-5, 0.01 * a["turbulence"].get<double>());
        const auto points =
            campaign::solveSectionField(contour, what, alphas, [&](double alpha, int iteration, double cl, double cd) {
                return talk({{"doing", "field"},
                             {"alpha_deg", alpha / degree},
                             {"at_iteration", iteration},
                             {"cl", cl},
                             {"cd", cd}});
            });
        text += fmt::format("Re {:.6g}{}, k-omega SST from the nose on, {} cells\n{:>9} {:>9} {:>10} {:>9}\n", re,
                            what.mach > 0.0 ? fmt::format(", Mach {:g}", what.mach) : "", points[0].cells, "alpha",
                            "cl", "cd", "cm");
        json list = json::array();
        for (const auto& p : points) {
            missed |= !p.settled;
            text += fmt::format("{:9.3f} {:9.4f} {:10.5f} {:9.4f}  {} iterations, {:.1f} s{}\n", p.alpha / degree, p.cl,
                                p.cd, p.cm, p.iterations, p.seconds,
                                p.blewUp    ? ", blew up: come to this angle by smaller steps"
                                : p.settled ? std::string()
                                            : fmt::format(", not settled ({:.0e})", p.residual));
            csv +=
                fmt::format("{:.0f},{:.4f},{:.5f},{:.6f},{:.6f},{:.5f},{},{},{},{:.1f}\n", re, p.alpha / degree, p.cl,
                            p.cd, p.cdFriction, p.cm, p.settled ? "yes" : "no", p.cells, p.iterations, p.seconds);
            list.push_back(campaign::jsonOf(p));
        }
        value["polars"].push_back({{"reynolds", re}, {"mach", what.mach}, {"points", list}});
    }
    if (a.contains("csv")) base::exportFile(textIn(a, "csv"), csv);
    if (a.contains("xlsx")) report::writeWorkbook(textIn(a, "xlsx"), {{contour.name, report::cellsOf(csv)}});
    if (a.contains("json")) {
        if (textIn(a, "json") == "-") return {value, value.dump(2) + "\n", missed ? 3 : 0};
        base::exportFile(textIn(a, "json"), value.dump(2) + "\n");
    }
    return {value, text, missed ? 3 : 0};
}

Outcome sectionAction(const json& a, const Talk& talk) {
    const auto contour = contourOf(a);
    const auto measures = section::measure(contour);
    std::string text = fmt::format(
        "{}: thickness {:.2f} % at {:.1f} %, camber {:.2f} % at {:.1f} %, nose radius {:.2f} %, trailing edge {:.2f} % "
        "and {:.1f} deg\n",
        contour.name, 100.0 * measures.thickness, 100.0 * measures.thicknessAt, 100.0 * measures.camber,
        100.0 * measures.camberAt, 100.0 * measures.noseRadius, 100.0 * measures.gap, measures.trailingAngle / degree);
    json value = {{"section", contour.name}, {"measures", section::jsonOf(measures)}, {"faults", json::array()}};
    for (const auto& f : section::faultsOf(contour)) {
        value["faults"].push_back({{"sentence", f.sentence}, {"x", f.place.x()}, {"z", f.place.y()}});
        talk({{"warning", f.sentence}});
    }
    if (a.contains("write"))
        base::exportFile(textIn(a, "write"),
                         section::writeCoordinates(contour, a.value("order", std::string("loop")) == "loop"
                                                                ? section::PointOrder::Loop
                                                                : section::PointOrder::TwoLists));
    if (a.value("method", std::string("panel")) == "field") return inTheField(a, contour, talk);
    section::Panelling panelling;
    if (a.contains("panels")) panelling.panels = a["panels"].get<int>();
    const auto flow = std::make_shared<const section::PanelFlow>(section::panelsOf(contour, panelling));

    section::PolarCase polar;
    polar.flow = caseOf(a);
    if (a.contains("alpha") && a.contains("lift"))
        throw base::InputError("a sweep goes over alpha or over lift.", "section", "Give one of them.");
    if (a.contains("lift")) {
        polar.along = section::PolarCase::Along::Lift;
        polar.values = base::numbersIn(textIn(a, "lift"), "lift", base::Step::Asked);
    } else {
        polar.values = sweepOf(a, "alpha", "-4:14:1");
        for (double& v : polar.values) v *= degree;
    }
    const bool fixedLift = a.value("fixed-lift", false);
    if (fixedLift) polar.kind = section::PolarCase::Kind::FixedLift;
    std::vector<double> reynolds = sweepOf(a, "re", "1e6");
    if (!polar.flow.viscous) reynolds.resize(1);
    std::vector<section::BatchJob> jobs;
    for (const double re : reynolds) {
        jobs.push_back({0, polar});
        jobs.back().what.flow.air.reynolds = re;
    }
    std::size_t done = 0;
    const std::size_t all = jobs.size() * polar.values.size();
    const auto results = section::computeBatch({flow}, jobs, [&](std::size_t, const section::PolarPoint&) {
        ++done;
        return talk(
            {{"progress", std::min(1.0, static_cast<double>(done) / static_cast<double>(all))}, {"doing", "points"}});
    });

    std::string csv = section::csvHead();
    std::size_t missed = 0;
    value["polars"] = json::array();
    for (std::size_t k = 0; k < jobs.size(); ++k) {
        json points = json::array();
        text += polar.flow.viscous ? fmt::format("\n{} {:.6g}, Mach {:g}, n {:.2f}\n", fixedLift ? "Re sqrt(cl)" : "Re",
                                                 reynolds[k], polar.flow.air.mach, polar.flow.nCritical)
                                   : fmt::format("\nWithout friction, Mach {:g}\n", polar.flow.air.mach);
        text += fmt::format("{:>9} {:>9} {:>10} {:>9}", "alpha", "cl", "cd", "cm");
        text += polar.flow.viscous
                    ? fmt::format(" {:>8} {:>8} {:>8} {:>8}\n", "cl/cd", "trans up", "trans lo", "sep up")
                    : "\n";
        for (const auto& p : results[k]) {
            text += pointLine(p.figures);
            csv += section::csvRow(p.figures);
            points.push_back(section::shownJson(p.figures));
            missed += !p.figures.converged;
        }
        json one = {{"points", points}};
        if (const auto f = section::figuresOfPolar(results[k]); f && polar.flow.viscous) {
            one["figures"] = {{"lift_slope_per_deg", f->slope * degree},
                              {"zero_lift_deg", f->zeroLift / degree},
                              {"cl_max", f->clMax},
                              {"cl_max_deg", f->clMaxAt / degree},
                              {"stalls", f->stalls},
                              {"cd_min", f->cdMin},
                              {"best_ratio", f->bestRatio}};
            text += fmt::format(
                "slope {:.4f} per deg, zero lift {:.2f} deg, cl max {:.3f}{}, cd min {:.5f}, best cl/cd {:.1f}\n",
                f->slope * degree, f->zeroLift / degree, f->clMax, f->stalls ? "" : " (end of the sweep)", f->cdMin,
                f->bestRatio);
        }
        value["polars"].push_back(one);
    }
    if (a.contains("cp")) {
        const double alpha = a["cp"].get<double>() * degree;
        section::Distribution d;
        if (!polar.flow.viscous) {
            d = section::potentialDistribution(*flow, polar.flow, alpha);
        } else {
            section::PolarCase one = jobs.front().what;
            one.along = section::PolarCase::Along::Alpha;
            one.values = {alpha};
            const auto p = section::computePolar(*flow, one);
            if (!p[0].state)
                throw base::InputError(fmt::format("alpha {:g} deg did not converge (residual {:.0e}).", alpha / degree,
                                                   p[0].figures.residual),
                                       "cp", "Take an angle nearby.");
            d = section::distributionOf(*flow, one.flow, *p[0].state);
        }
        value["distribution"] = section::jsonOf(d);
        if (a.contains("csv"))
            csv = section::csvOf(d);
        else
            text += "\n" + section::csvOf(d);
    }
    value["not_converged"] = missed;
    if (a.contains("csv")) base::exportFile(textIn(a, "csv"), csv);
    if (a.contains("xlsx")) report::writeWorkbook(textIn(a, "xlsx"), {{contour.name, report::cellsOf(csv)}});
    if (a.contains("json")) {
        if (textIn(a, "json") == "-") return {value, value.dump(2) + "\n", missed > 0 ? 3 : 0};
        base::exportFile(textIn(a, "json"), value.dump(2) + "\n");
    }
    return {value, text, missed > 0 ? 3 : 0};
}

/// What the settings ask for in the field, as it is stored. Adds to text and rows. @return whether all are settled
bool listFields(const std::vector<campaign::FieldAsked>& all, const campaign::Campaign& c, json& polars,
                std::string& text, std::vector<campaign::PolarRows>& rows) {
    bool settled = true;
    for (const auto& asked : all) {
        const auto points = campaign::storedFields(c, asked.key);
        if (points.empty()) continue;
        json list = json::array();
        campaign::PolarRows own{&asked, true, {}};
        text += fmt::format("{:<24} Re {:>9.4g}  in the field\n", asked.section, asked.what.reynolds);
        for (const auto& p : points) {
            settled &= p.settled;
            list.push_back(campaign::jsonOf(p));
            const auto figures = campaign::figuresOf(p, asked.what.reynolds);
            own.points.push_back({p.alpha, figures, nullptr});
            text += pointLine(figures, true);
        }
        rows.push_back(std::move(own));
        polars.push_back({{"section", asked.section},
                          {"method", "field"},
                          {"reynolds", asked.what.reynolds},
                          {"flap_turn_deg", asked.flapTurn_deg},
                          {"points", list}});
    }
    return settled;
}

Outcome sectionsAction(const json& a, const Talk& talk) {
    auto c = campaign::Campaign::open(textIn(a, "campaign"));
    auto& list = c.settings.sections.sections;
    for (const auto& s : textsIn(a, "add")) list.push_back(campaign::sectionBrought(c, s));
    for (const auto& name : textsIn(a, "remove"))
        if (std::erase_if(list, [&](const auto& e) { return e.name == name; }) == 0)
            throw base::InputError("is no section of this campaign.", name,
                                   "Look at the names that \"sections\" lists.");
    if (a.contains("add") || a.contains("remove")) c.save();
    for (const auto& e : list)  // what cannot be made is said before anything is computed
        for (const double turn : c.settings.sections.flapTurns_deg) campaign::turnedOutline(c, e, turn);
    campaign::computeSections(c, [&](const campaign::PolarAsked& p, const section::PolarPoint& point) {
        return talk({{"section", p.section},
                     {"reynolds", p.what.flow.air.reynolds},
                     {"alpha_deg", point.figures.alpha / degree},
                     {"cl", point.figures.converged ? json(point.figures.cl) : json(nullptr)},
                     {"cd", point.figures.converged ? json(point.figures.cd) : json(nullptr)},
                     {"converged", point.figures.converged}});
    });
    if (a.value("method", std::string("panel")) == "field")
        campaign::computeSectionFields(c, {},
                                       [&](const campaign::FieldAsked& asked, const campaign::FieldIteration& at) {
                                           return talk({{"doing", "field"},
                                                        {"section", asked.section},
                                                        {"reynolds", asked.what.reynolds},
                                                        {"alpha_deg", at.alpha / degree},
                                                        {"at_iteration", at.iteration},
                                                        {"cl", at.cl},
                                                        {"cd", at.cd}});
                                       });
    json polars = json::array();
    std::string text;
    bool missed = false;
    const auto byPanels = campaign::polarsAsked(c);
    const auto inField = campaign::fieldsAsked(c);
    std::vector<campaign::PolarRows> rows;
    for (const auto& p : byPanels) {
        const auto points = campaign::storedPolar(c, p.key);
        if (!points) continue;
        std::size_t converged = 0;
        json figures = json::array();
        for (const auto& q : *points) {
            converged += q.figures.converged;
            figures.push_back(section::shownJson(q.figures));
        }
        rows.push_back({&p, false, *points});
        missed |= converged < points->size();
        polars.push_back({{"section", p.section},
                          {"method", "panels"},
                          {"reynolds", p.what.flow.air.reynolds},
                          {"mach", p.what.flow.air.mach},
                          {"n_critical", p.what.flow.nCritical},
                          {"flap_turn_deg", p.flapTurn_deg},
                          {"points", figures}});
        text += fmt::format("{:<24} Re {:>9.4g}  {}/{} points", p.section, p.what.flow.air.reynolds, converged,
                            points->size());
        if (const auto f = section::figuresOfPolar(*points))
            text += fmt::format("  slope {:.4f}  zero lift {:6.2f} deg  cl max {:.3f}  cd min {:.5f}  cl/cd {:.1f}",
                                f->slope * degree, f->zeroLift / degree, f->clMax, f->cdMin, f->bestRatio);
        text += "\n";
    }
    missed |= !listFields(inField, c, polars, text, rows);
    if (a.contains("csv")) base::exportFile(textIn(a, "csv"), campaign::polarTable(c, rows).csv);
    if (a.contains("xlsx")) {
        std::vector<report::Sheet> sheets;
        for (const auto& t :
             {campaign::polarTable(c, rows), campaign::polarFiguresTable(c, rows), campaign::columnsExplained()})
            sheets.push_back({t.name, report::cellsOf(t.csv, t.wordColumns)});
        report::writeWorkbook(textIn(a, "xlsx"), sheets);
    }
    return {{{"polars", polars}}, text, missed ? 3 : 0};
}

}  // namespace

std::vector<Action> sectionActions() {
    return {
        {"sections",
         "the campaign's sections: brings some in, computes the polars that are missing, lists them",
         {{"campaign", Text, "the campaign's folder", true, true},
          {"add", Texts, "files of coordinates or codes to bring in"},
          {"remove", Texts, "names of sections to take out; their polars stay"},
          {"method",
           Text,
           "field: solve the angles of sections.field_angles_deg in the field too",
           false,
           false,
           0,
           {"panel", "field"}},
          {"csv", Output, "write all points to this file"},
          {"xlsx", Output, "write all points to this workbook"}},
         sectionsAction},
        {"section",
         "polars and pressures of a section, from coordinates or a code; no campaign is needed",
         {{"section", Text,
           "a file of coordinates, or a code: 4412, 23012, 0012-64, laminar:15,40, ellipse:12, plate:2, "
           "mix:4412+0012,30",
           true, true},
          {"alpha", Text, "angles of attack [deg]: first:last:step, or with commas"},
          {"lift", Text, "lift coefficients to sweep over, in place of angles"},
          {"re", Text, "Reynolds numbers, likewise"},
          {"fixed-lift", Flag, "the Reynolds numbers are Re sqrt(cl): a wing that carries its weight at any speed"},
          {"mach",
           Number,
           "Mach number of the wind: up to 0.7 with panels, 0.95 in the field",
           false,
           false,
           0,
           {},
           0.0,
           0.95},
          {"n", Number, "amplification exponent of transition", false, false, 0, {}, 0.5, 20.0},
          {"turbulence", Number, "turbulence of the wind [%], in place of n", false, false, 0, {}, 0.0, 10.0},
          {"trip",
           Numbers,
           "x/c where the upper and the lower layer are tripped; 1: not",
           false,
           false,
           2,
           {},
           0.0,
           1.0},
          {"method", Text, "panels with a boundary layer, or the field solver", false, false, 0, {"panel", "field"}},
          {"level", Whole, "of the field's grid: 0, 1, 2", false, false, 0, {}, 0, 2},
          {"inviscid", Flag, "without friction"},
          {"flap", Numbers, "hinge x/c and angle [deg], down positive", false, false, 2},
          {"refair", Flag, "smooth the outline first"},
          {"panels", Whole, "number of panels", false, false, 0, {}, 40, 600},
          {"cp", Number, "pressures and layers at this angle [deg]"},
          {"write", Output, "write the outline to this file"},
          {"order", Text, "of the points written", false, false, 0, {"loop", "lists"}},
          {"json", Output, "write everything to this file; - for the screen"},
          {"csv", Output, "write the table to this file"},
          {"xlsx", Output, "write the table to this workbook"}},
         sectionAction}};
}

}  // namespace cvane::command
