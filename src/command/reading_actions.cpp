#include <fmt/format.h>

#include <cmath>

#include "base/errors.h"
#include "base/files.h"
#include "campaign/steps/reports.h"
#include "campaign/store/stored_grid.h"
#include "campaign/store/table.h"
#include "command/edit.h"
#include "command/groups.h"
#include "readout/pressure_station.h"
#include "readout/result.h"
#include "readout/wall_field.h"
#include "report/workbook.h"

namespace cvane::command {
using nlohmann::json;
using enum Argument::Kind;

namespace {

Outcome table(const json& a, const Talk&) {
    const auto c = campaign::Campaign::open(textIn(a, "campaign"));
    campaign::MeasureBook book;
    const auto reports = campaign::reportsOf(c, book);
    const auto points = campaign::jsonTable(reports);
    if (a.contains("csv")) base::exportFile(textIn(a, "csv"), campaign::csvTable(reports));
    if (a.contains("json-file")) base::exportFile(textIn(a, "json-file"), points.dump(2) + "\n");
    const bool exported = a.contains("csv") || a.contains("json-file");
    return {{{"points", points}}, exported ? "" : campaign::textTable(reports), 0};
}

/// One point less another, with what can be said of the difference.
Outcome difference(const json& a, const Talk&) {
    const auto c = campaign::Campaign::open(textIn(a, "campaign"));
    campaign::MeasureBook book;
    const auto reports = campaign::reportsOf(c, book);
    const auto named = [&](const char* which) -> const readout::Result& {
        const auto point = campaign::pointNamed(c.settings, textIn(a, which));
        for (const auto& r : reports)
            if (r.point.name() == point.name() && r.result) return *r.result;
        throw base::InputError("has no result.", point.name(), "Run it first.");
    };
    const auto &first = named("point"), &second = named("less");
    const auto band = readout::bandOfDifference(first, second);
    json value = {{"point", textIn(a, "point")}, {"less", textIn(a, "less")}};
    std::string text =
        fmt::format("{:>4} {:>10} {:>10} {:>11} {:>9} {:>9}\n", "", "point", "less", "difference", "%", "+-");
    const std::pair<const char*, double air::Coefficients::*> all[] = {
        {"CL", &air::Coefficients::CL}, {"CD", &air::Coefficients::CD}, {"CY", &air::Coefficients::CY},
        {"Cl", &air::Coefficients::Cl}, {"Cm", &air::Coefficients::Cm}, {"Cn", &air::Coefficients::Cn}};
    for (const auto& [name, which] : all) {
        const double x = first.coefficients.*which, y = second.coefficients.*which, d = x - y;
        value[name] = {{"difference", d}, {"band", band ? json((*band).*which) : json(nullptr)}};
        text += fmt::format("{:>4} {:>10.5f} {:>10.5f} {:>+11.5f} {:>9} {:>9}\n", name, x, y, d,
                            y != 0.0 ? fmt::format("{:+.1f}", 100.0 * d / std::abs(y)) : "-",
                            band ? fmt::format("{:.5f}", (*band).*which) : "-");
    }
    text += band ? "+- of the difference: what both points share of the cells' errors drops out of it.\n"
                 : "No band of the difference: one of the points has no coarser grid on which it settled.\n";
    return {value, text, 0};
}

Outcome cut(const json& a, const Talk& talk) {
    const auto c = campaign::Campaign::open(textIn(a, "campaign"));
    const auto point = campaign::pointNamed(c.settings, textIn(a, "point"));
    const auto run = runOf(c, point);
    const auto grid = campaign::readGrid(campaign::readOrder(run).grid);
    const auto axisName = a.value("axis", std::string("y"));
    const int axis = axisName[0] - 'x';
    std::vector<std::pair<int, double>> planes;
    if (a.contains("at"))
        for (const double at : a.at("at").get<std::vector<double>>()) planes.emplace_back(axis, at);
    if (a.contains("between")) {
        const auto ends = a.at("between").get<std::vector<double>>();
        const auto count = std::lround(a.value("count", 11.0));
        for (long k = 0; k < count; ++k)
            planes.emplace_back(axis, count < 2 ? 0.5 * (ends[0] + ends[1])
                                                : ends[0] + (ends[1] - ends[0]) * double(k) / double(count - 1));
    }
    if (a.value("listed", false)) {
        for (const auto& p : c.settings.pressurePlanes) planes.emplace_back(static_cast<int>(p.axis), p.at);
        if (planes.empty())
            throw base::InputError("lists no planes.", c.settings.name, "Add some in the stage Pressures.");
    }
    if (planes.empty())
        throw base::InputError("no plane is given.", "cut", "Give --at METRES, --between FROM TO, or --listed.");
    const auto geometry = grid::geometryOf(grid);
    const auto wall = readout::readWallField(run / "wall.csv");
    std::vector<readout::PressureStation> stations;
    for (const auto& [across, at] : planes) {
        stations.push_back(readout::cutStation(grid, geometry, wall, across, at));
        if (stations.back().samples.empty() && planes.size() == 1)
            throw base::InputError(fmt::format("the plane {} = {} m misses the model.", "xyz"[across], at),
                                   point.name(), "Choose a plane through it.");
        if (stations.back().samples.empty())
            talk({{"warning", fmt::format("the plane {} = {:g} m misses the model", "xyz"[across], at)}});
    }
    const auto csv = planes.size() == 1 ? readout::toCsv(stations[0]) : readout::toCsv(planes, stations);
    if (a.contains("csv")) base::exportFile(textIn(a, "csv"), csv);
    if (a.contains("xlsx")) {
        std::vector<report::Sheet> sheets;
        for (std::size_t i = 0; i < planes.size(); ++i)
            if (!stations[i].samples.empty())
                sheets.push_back({fmt::format("{} = {:.4g} m", "xyz"[planes[i].first], planes[i].second),
                                  report::cellsOf(readout::toCsv(stations[i]))});
        if (sheets.empty()) throw base::InputError("no plane meets the model.", point.name(), "Choose others.");
        report::writeWorkbook(textIn(a, "xlsx"), sheets);
    }
    return {{{"csv", csv}}, a.contains("csv") || a.contains("xlsx") ? "" : csv, 0};
}
}  // namespace

std::vector<Action> readingActions() {
    const Argument folder{"campaign", Text, "the campaign's folder", true, true};
    return {{"table",
             "results of all points",
             {folder,
              {"csv", Text, "write a spreadsheet table to this file"},
              {"json-file", Text, "write everything to this file"}},
             table},
            {"difference",
             "one point less another, with the band of the difference",
             {folder,
              {"point", Text, "name of the point", true, true},
              {"less", Text, "name of the point that is taken away", true, true}},
             difference},
            {"cut",
             "Cp along cuts through the model",
             {folder,
              {"point", Text, "name of the point", true, true},
              {"axis", Text, "plane normal", false, false, 0, {"x", "y", "z"}},
              {"at", Numbers, "place of the plane, or of several [m]"},
              {"between", Numbers, "first and last of evenly spaced planes [m]", false, false, 2},
              {"count", Whole, "how many of those", false, false, 0, {}, 1, 1000},
              {"listed", Flag, "the planes that the stage Pressures lists"},
              {"csv", Text, "write to this file instead of the screen"},
              {"xlsx", Text, "write to this spreadsheet, a sheet a plane"}},
             cut}};
}

}  // namespace cvane::command
