#include <fmt/format.h>

#include <sstream>

#include "base/errors.h"
#include "base/files.h"
#include "base/number_list.h"
#include "base/units.h"
#include "command/edit.h"
#include "command/groups.h"
#include "lifting/loadings.h"
#include "lifting/tables.h"
#include "report/workbook.h"
#include "shape/stl_export.h"
#include "wing/aircraft_json.h"
#include "wing/skin.h"

namespace cvane::command {
using base::degree;
using nlohmann::json;
using enum Argument::Kind;

namespace {

lifting::Asked askedOf(const json& a, const wing::Aircraft& aircraft) {
    lifting::Asked asked;
    for (const double alpha : base::numbersIn(a.value("alpha", std::string("-2:10:2")), "alpha"))
        asked.alphas.push_back(alpha * degree);
    asked.beta = a.value("beta", 0.0) * degree;
    asked.speed = a.value("speed", 20.0);
    asked.air = air::standardAtmosphere(a.value("altitude", 0.0), a.value("warmer", 0.0));
    if (a.contains("hold-mass")) asked.holdMass = a["hold-mass"].get<double>();
    if (a.value("hold", false)) asked.holdMass = aircraft.mass;
    asked.trimBy = a.value("trim", std::string());
    if (a.contains("height")) asked.height = a["height"].get<double>();
    const auto wake = a.value("wake", std::string("axis"));
    asked.wake = wake == "wind" ? lifting::Wake::Wind : wake == "flow" ? lifting::Wake::Flow : lifting::Wake::Axis;
    asked.compressible = a.value("compressible", false);
    if (a.contains("trip")) {
        asked.transition.tripUpper = a["trip"][0].get<double>();
        asked.transition.tripLower = a["trip"][1].get<double>();
    }
    asked.transition.nCritical = a.value("n", asked.transition.nCritical);
    asked.sectionDrag = !a.value("potential", false);
    asked.holdStrips = a.value("stall", false);
    asked.derivatives = !a.value("brief", false);
    return asked;
}

void write(const json& a, const std::string& csv, const std::string& strips) {
    if (a.contains("csv")) base::exportFile(textIn(a, "csv"), csv);
    if (a.contains("strips")) base::exportFile(textIn(a, "strips"), strips);
    if (a.contains("xlsx"))
        report::writeWorkbook(textIn(a, "xlsx"),
                              {{"angles", report::cellsOf(csv)}, {"strips", report::cellsOf(strips)}});
}

// Each mass with each centre; of a list that is not given the aircraft's own.
std::vector<lifting::Loading> loadingsFrom(const json& a, const wing::Aircraft& aircraft) {
    const auto list = [&](const char* name) {
        return a.contains(name) ? base::numbersIn(textIn(a, name), name) : std::vector<double>();
    };
    const auto masses = list("masses");
    if (!masses.empty() && a.contains("hold-mass"))
        throw base::InputError("masses and hold-mass are both given.", "masses", "Give one of them.");
    return lifting::loadingsOf(aircraft, askedOf(a, aircraft), masses, list("centres"));
}

// A row of masses and centres of gravity, whose tables are one behind the other.
Outcome runLoadings(const json& a, const std::vector<lifting::Loading>& all, const Talk& talk) {
    Outcome out;
    std::string csv, strips;
    const auto shelf = std::make_shared<lifting::PolarShelf>();
    for (const auto& l : all) {
        const auto found = lifting::run(l.aircraft, l.asked, progressTo(talk), shelf);
        out.value["loadings"].push_back(lifting::jsonOf(l.aircraft, l.asked, found));
        out.text += fmt::format("mass {}\n{}\n", l.name(), lifting::textOf(l.aircraft, l.asked, found));
        csv += lifting::withLoading(lifting::csvOf(l.aircraft, found), l.aircraft, csv.empty());
        strips += lifting::withLoading(lifting::stripsCsvOf(l.aircraft, found), l.aircraft, strips.empty());
        for (const auto& r : found.rows)
            if (!r.reached) out.code = 3;
    }
    write(a, csv, strips);
    return out;
}

Outcome runWing(const json& a, const Talk& talk) {
    const auto aircraft = wing::readAircraft(textIn(a, "aircraft"));
    if (a.contains("surface")) {
        const auto file = textIn(a, "surface");
        shape::writeStl(wing::skinOf(aircraft), file, 1.0);
        if (!a.contains("alpha")) return {{{"surface", file}}, fmt::format("{}: written\n", file), 0};
    }
    if (a.contains("masses") || a.contains("centres")) return runLoadings(a, loadingsFrom(a, aircraft), talk);
    const auto asked = askedOf(a, aircraft);
    const auto out = lifting::run(aircraft, asked, progressTo(talk));
    auto value = lifting::jsonOf(aircraft, asked, out);
    value["wetted_area_m2"] = wing::skinOf(aircraft).area();
    write(a, lifting::csvOf(aircraft, out), lifting::stripsCsvOf(aircraft, out));
    bool missed = false;
    for (const auto& r : out.rows) missed |= !r.reached;
    return {value, lifting::textOf(aircraft, asked, out), missed ? 3 : 0};
}
}  // namespace

std::vector<Action> wingActions() {
    return {
        {"wing",
         "an aircraft from its numbers by the lifting surface: polar, span loading, stability; no campaign is needed",
         {{"aircraft", Text, "the aircraft's file (JSON; docs/files.md)", true, true},
          {"speed", Number, "wind speed [m/s]", false, false, 0, {}, 1e-3, 300.0},
          {"alpha", Text, "angles of attack [deg]: first:last:step, or with commas"},
          {"beta", Number, "sideslip [deg]", false, false, 0, {}, -30.0, 30.0},
          {"altitude", Number, "in the standard atmosphere [m]", false, false, 0, {}, -2000.0, 32000.0},
          {"warmer", Number, "than standard by [K]", false, false, 0, {}, -100.0, 100.0},
          {"hold-mass",
           Number,
           "level flight of this mass [kg]: the speed follows the angle",
           false,
           false,
           0,
           {},
           1e-6,
           1e7},
          {"hold", Flag, "the same of the mass that the file gives"},
          {"masses", Text, "level flight of each of these masses [kg]: first:last:step, or with commas"},
          {"centres", Text, "each of these places of the centre of gravity, x [m]; with masses each of each"},
          {"trim", Text, "control or surface that turns until Cm is 0"},
          {"height", Number, "of the moment centre over a ground [m]", false, false, 0, {}, 1e-6, 1e5},
          {"wake",
           Text,
           "leaves along the body's axis, with the wind, or as the flow carries it",
           false,
           false,
           0,
           {"axis", "wind", "flow"}},
          {"compressible", Flag, "by the rule of Prandtl and Glauert"},
          {"trip",
           Numbers,
           "x/c where the upper and the lower layer are tripped; 1: not",
           false,
           false,
           2,
           {},
           0.0,
           1.0},
          {"n", Number, "amplification exponent of transition", false, false, 0, {}, 0.5, 20.0},
          {"potential", Flag, "without the sections' drag"},
          {"stall", Flag, "hold strips to what their sections can lift"},
          {"brief", Flag, "without derivatives"},
          {"surface", Output, "write the closed surface to this STL file [m]"},
          {"csv", Output, "write the angles to this file"},
          {"strips", Output, "write the span loading of all angles to this file"},
          {"xlsx", Output, "write both tables to this workbook"}},
         runWing}};
}

}  // namespace cvane::command
