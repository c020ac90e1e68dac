#include <fmt/format.h>

#include <cmath>

#include "base/errors.h"
#include "base/files.h"
#include "campaign/settings/fields.h"
#include "campaign/steps/reports.h"
#include "campaign/store/run_order.h"
#include "campaign/store/run_standing.h"
#include "campaign/store/stored_grid.h"
#include "campaign/store/table.h"
#include "command/edit.h"
#include "command/groups.h"
#include "readout/loading.h"
#include "readout/pressure_station.h"
#include "readout/result.h"
#include "readout/wall_field.h"
#include "report/workbook.h"

namespace cvane::command {
using nlohmann::json;
using enum Argument::Kind;

namespace {

// A sheet of points with a chart for lift over the angle and one for lift over drag; points that differ in alpha alone
// make a line.
report::Sheet pointsSheet(const std::vector<campaign::PointReport>& reports) {
    report::Sheet out{"points", report::cellsOf(campaign::csvTable(reports)), {}};
    const auto column = [&](const char* name) {
        for (std::size_t k = 0; k < out.rows[0].size(); ++k)
            if (const auto* head = std::get_if<std::string>(&out.rows[0][k]); head && *head == name) return k;
        return std::size_t{0};
    };
    const auto word = [&](std::size_t row, const char* name) -> std::string {
        const auto& cell = out.rows[row][column(name)];
        if (const auto* number = std::get_if<double>(&cell)) return fmt::format("{:g}", *number);
        const auto* words = std::get_if<std::string>(&cell);
        return words ? *words : std::string();
    };
    std::vector<report::Chart::Line> lines;
    std::string before;
    for (std::size_t i = 1; i < out.rows.size(); ++i) {
        const auto name = fmt::format("{} in {}, {} m/s, beta {}", word(i, "configuration"), word(i, "set_up"),
                                      word(i, "speed_m_s"), word(i, "beta_deg"));
        if (name != before) lines.push_back({name, i, i});
        lines.back().last = i;
        before = name;
    }
    out.charts = {{"Lift", column("alpha_deg"), column("CL"), lines}, {"Polar", column("CD"), column("CL"), lines}};
    return out;
}

/// Points, parts, loadings, stations and settings, a sheet each.
void writeBook(const campaign::Campaign& c, const std::vector<campaign::PointReport>& reports,
               const std::filesystem::path& file, const Talk& talk) {
    std::vector<report::Sheet> sheets{pointsSheet(reports)};
    using report::Cell;
    std::vector<std::vector<Cell>> parts{{"point", "part", "CL", "CD", "CY", "Cl", "Cm", "Cn", "drag_N", "lift_N"}};
    std::vector<std::vector<Cell>> loadings, stations;
    std::filesystem::path gridFile;
    grid::Grid grid;
    grid::Geometry geometry;
    const auto gather = [](std::vector<std::vector<Cell>>& all, const std::string& csv, const std::string& point) {
        auto rows = report::cellsOf(csv);
        for (std::size_t i = all.empty() ? 0 : 1; i < rows.size(); ++i) {
            rows[i].insert(rows[i].begin(), i == 0 ? Cell("point") : Cell(point));
            all.push_back(std::move(rows[i]));
        }
    };
    double done = 0.0;
    for (const auto& r : reports) {
        done += 1.0;
        if (!r.result) continue;
        const auto name = r.point.name();
        for (const auto& p : r.result->parts)
            parts.push_back({name, p.name, p.coefficients.CL, p.coefficients.CD, p.coefficients.CY, p.coefficients.Cl,
                             p.coefficients.Cm, p.coefficients.Cn, p.force().dot(r.result->wind.dragAxis()),
                             p.force().dot(r.result->wind.liftAxis())});
        if (r.point.method != campaign::Method::Field) continue;  // it has neither walls nor a grid
        const auto values = campaign::valueFilesOf(r.folder);
        if (!std::filesystem::exists(values.wall)) continue;
        const auto order = campaign::readOrder(r.folder);
        // Points of a polar share their grid.
        if (values.grid != gridFile) {
            grid = campaign::readGrid(values.grid);
            geometry = grid::geometryOf(grid);
            gridFile = values.grid;
        }
        const auto wall = readout::readWallField(values.wall);
        gather(loadings,
               readout::toCsv(readout::loadingAlong(grid, geometry, wall, order.flowCase.wind, Vec3::UnitY(), 40),
                              order.flowCase.wind),
               name);
        std::vector<std::pair<int, double>> planes;
        std::vector<readout::PressureStation> cuts;
        for (const auto& p : c.settings.pressurePlanes) {
            planes.emplace_back(static_cast<int>(p.axis), p.at);
            cuts.push_back(readout::cutStation(grid, geometry, wall, planes.back().first, p.at));
        }
        if (!planes.empty()) gather(stations, readout::toCsv(planes, cuts), name);
        if (!talk({{"progress", done / static_cast<double>(reports.size())}, {"doing", name}})) throw base::Cancelled();
    }
    sheets.push_back({"parts", std::move(parts)});
    if (!loadings.empty()) sheets.push_back({"span loadings", std::move(loadings)});
    if (!stations.empty()) sheets.push_back({"stations", std::move(stations)});
    std::vector<std::vector<Cell>> settings{{"setting", "value", "unit"}};
    for (const auto& g : campaign::settingGroups())
        for (const auto& row : g.rows) {
            const auto v = row.get(c.settings);
            settings.push_back(
                {g.name + "." + row.name,
                 v.is_number() ? Cell(v.get<double>()) : Cell(v.is_string() ? v.get<std::string>() : v.dump()),
                 row.unit});
        }
    sheets.push_back({"settings", std::move(settings)});
    report::writeWorkbook(file, sheets);
}

Outcome table(const json& a, const Talk& talk) {
    const auto c = campaign::Campaign::open(textIn(a, "campaign"));
    campaign::MeasureBook book;
    const auto reports = campaign::reportsOf(c, book);
    const auto points = campaign::jsonTable(reports);
    if (a.contains("csv")) base::exportFile(textIn(a, "csv"), campaign::csvTable(reports));
    if (a.contains("json-file")) base::exportFile(textIn(a, "json-file"), points.dump(2) + "\n");
    if (a.contains("xlsx")) writeBook(c, reports, textIn(a, "xlsx"), talk);
    const bool exported = a.contains("csv") || a.contains("json-file") || a.contains("xlsx");
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
    for (const auto& [name, which] : air::kNamedCoefficients) {
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
    const auto values = campaign::valueFilesOf(run);
    const auto grid = campaign::readGrid(values.grid);
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
    const auto wall = readout::readWallField(values.wall);
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
              {"csv", Output, "write a spreadsheet table to this file"},
              {"json-file", Output, "write everything to this file"},
              {"xlsx", Output, "write points, parts, loadings, stations and settings to this spreadsheet"}},
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
              {"csv", Output, "write to this file instead of the screen"},
              {"xlsx", Output, "write to this spreadsheet, a sheet a plane"}},
             cut}};
}

}  // namespace cvane::command
