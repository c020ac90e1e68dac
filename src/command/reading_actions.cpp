#include <fmt/format.h>

#include "base/errors.h"
#include "base/files.h"
#include "campaign/steps/reports.h"
#include "campaign/store/stored_grid.h"
#include "campaign/store/table.h"
#include "command/edit.h"
#include "command/groups.h"
#include "readout/pressure_station.h"
#include "readout/wall_field.h"

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

Outcome cut(const json& a, const Talk&) {
    const auto c = campaign::Campaign::open(textIn(a, "campaign"));
    const auto point = campaign::pointNamed(c.settings, textIn(a, "point"));
    const auto shown = campaign::shownRun(c.of(point), point);
    if (!shown) throw base::InputError("has not been run.", point.name(), "Run it first.");
    const auto grid = campaign::readGrid(campaign::readOrder(shown->folder).grid);
    const auto axis = a.value("axis", std::string("y"));
    const double position = a.at("at").get<double>();
    const auto station = readout::cutStation(
        grid, grid::geometryOf(grid), readout::readWallField(shown->folder / "wall.csv"), axis[0] - 'x', position);
    if (station.samples.empty())
        throw base::InputError(fmt::format("the plane {} = {} m misses the model.", axis, position), point.name(),
                               "Choose a plane through it.");
    const auto csv = readout::toCsv(station);
    if (a.contains("csv")) base::exportFile(textIn(a, "csv"), csv);
    return {{{"csv", csv}}, a.contains("csv") ? "" : csv, 0};
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
            {"cut",
             "Cp along a cut through the model",
             {folder,
              {"point", Text, "name of the point", true, true},
              {"axis", Text, "plane normal", false, false, 0, {"x", "y", "z"}},
              {"at", Number, "place of the plane [m]", true},
              {"csv", Text, "write to this file instead of the screen"}},
             cut}};
}

}  // namespace cvane::command
