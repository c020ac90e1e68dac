#include <fmt/format.h>

#include <cmath>

#include "base/errors.h"
#include "base/files.h"
#include "campaign/plan/points.h"
#include "campaign/steps/reports.h"
#include "campaign/store/stored_flow.h"
#include "command/edit.h"
#include "command/groups.h"
#include "field/locator.h"
#include "field/sheet.h"
#include "field/streamline.h"
#include "field/wall_profile.h"
#include "flow/wall_law.h"
#include "readout/quantities.h"
#include "view/export.h"
#include "view/item_shape.h"

namespace cvane::command {
using nlohmann::json;
using enum Argument::Kind;

namespace {

std::shared_ptr<const field::FlowField> flowOf(const json& a) {
    const auto c = campaign::Campaign::open(textIn(a, "campaign"));
    return campaign::openFlow(runOf(c, campaign::pointNamed(c.settings, textIn(a, "point"))));
}

/// The quantities that are asked for, at the grid's points.
struct Columns {
    std::vector<std::string> ids;
    std::vector<const std::vector<double>*> values;
};

Columns columnsOf(const json& a, const field::FlowField& flow) {
    Columns out;
    out.ids = textsIn(a, "quantity");
    if (out.ids.empty()) out.ids = {"speed", "Cp", "loss"};
    for (const auto& id : out.ids) out.values.push_back(&flow.atPoints(id));
    return out;
}

std::string headOf(const Columns& columns, const char* before) {
    std::string head = before;
    // A formula may hold commas.
    for (const auto& id : columns.ids) head += id.find(',') == std::string::npos ? "," + id : ",\"" + id + "\"";
    return head + "\n";
}

Outcome told(const json& a, json value, const std::string& csv, const std::string& words) {
    if (a.contains("csv")) {
        base::exportFile(textIn(a, "csv"), csv);
        return {std::move(value), words, 0};
    }
    value["csv"] = csv;
    return {std::move(value), csv, 0};
}

int countIn(const json& a, int otherwise) {
    return a.contains("count") ? static_cast<int>(std::lround(a.at("count").get<double>())) : otherwise;
}

Outcome probe(const json& a, const Talk&) {
    const auto flow = flowOf(a);
    const auto columns = columnsOf(a, *flow);
    std::vector<Vec3> places;
    if (a.contains("at")) places.push_back(vectorIn(a, "at", Vec3::Zero()));
    if (a.contains("line")) {
        const auto v = a.at("line").get<std::vector<double>>();
        for (const Vec3& x : field::rakeLine({v[0], v[1], v[2]}, {v[3], v[4], v[5]}, countIn(a, 51)))
            places.push_back(x);
    }
    if (places.empty())
        throw base::InputError("no place is given.", "probe", "Give --at X Y Z, or --line X Y Z X Y Z.");
    std::string csv = headOf(columns, "x_m,y_m,z_m");
    json rows = json::array();
    field::Locator locator(flow->mesh());
    int missing = 0;
    for (const Vec3& x : places) {
        const auto spot = locator.find(x);
        if (!spot) {
            ++missing;
            continue;
        }
        csv += fmt::format("{:.6g},{:.6g},{:.6g}", x.x(), x.y(), x.z());
        json row = {{"place_m", {x.x(), x.y(), x.z()}}};
        for (std::size_t k = 0; k < columns.ids.size(); ++k) {
            const double v = field::valueAt(flow->mesh(), *spot, *columns.values[k]);
            csv += fmt::format(",{:.6g}", v);
            row[columns.ids[k]] = v;
        }
        csv += "\n";
        rows.push_back(row);
    }
    if (rows.empty())
        throw base::InputError("lies in the model or outside the tunnel.", places.size() > 1 ? "the line" : "the place",
                               "Choose one in the air.");
    return told(a, {{"places", rows}, {"not_in_the_air", missing}}, csv,
                missing > 0 ? fmt::format("{} of {} places are not in the air\n", missing, places.size()) : "");
}

Outcome slice(const json& a, const Talk&) {
    const auto flow = flowOf(a);
    const auto columns = columnsOf(a, *flow);
    const auto axis = a.value("axis", std::string("y"));
    const Vec3 normal = vectorIn(a, "normal", Vec3::Unit(axis[0] - 'x'));
    if (!a.contains("at") && !a.contains("through"))
        throw base::InputError("the plane has no place.", "slice",
                               "Give --at METRES along the axis, or --through X Y Z.");
    const Vec3 through = vectorIn(a, "through", a.value("at", 0.0) * normal);
    const auto sheet = field::slice(flow->mesh(), through, normal);
    if (sheet.polygons() == 0)
        throw base::InputError("the plane misses the tunnel.", "slice", "Choose a plane through it.");
    std::vector<std::vector<double>> values;
    for (const auto* v : columns.values) values.push_back(field::atCorners(flow->mesh(), sheet, *v));
    std::string csv = headOf(columns, "cell,x_m,y_m,z_m");
    for (std::size_t p = 0; p < sheet.polygons(); ++p) {
        Vec3 middle = Vec3::Zero();
        std::vector<double> mean(values.size(), 0.0);
        const double n = sheet.start[p + 1] - sheet.start[p];
        for (auto k = sheet.start[p]; k < sheet.start[p + 1]; ++k) {
            const auto corner = static_cast<std::size_t>(sheet.ofPolygon[static_cast<std::size_t>(k)]);
            middle += sheet.places[corner] / n;
            for (std::size_t q = 0; q < values.size(); ++q) mean[q] += values[q][corner] / n;
        }
        csv += fmt::format("{},{:.6g},{:.6g},{:.6g}", sheet.cell[p], middle.x(), middle.y(), middle.z());
        for (const double v : mean) csv += fmt::format(",{:.6g}", v);
        csv += "\n";
    }
    const double area = field::areaOf(sheet);
    json value = {{"cells", sheet.polygons()}, {"area_m2", area}, {"integrals_m2", json::object()}};
    std::string words = fmt::format("{} cells, {:.6g} m2\n", sheet.polygons(), area);
    for (std::size_t k = 0; k < columns.ids.size(); ++k) {
        const double whole = field::integralOver(sheet, values[k]);
        value["integrals_m2"][columns.ids[k]] = whole;
        words +=
            fmt::format("{}: integral {:.6g} m2 times its unit, mean {:.6g}\n", columns.ids[k], whole, whole / area);
    }
    return told(a, value, csv, words);
}

Outcome streamlines(const json& a, const Talk& talk) {
    const auto flow = flowOf(a);
    const auto columns = columnsOf(a, *flow);
    const Vec3 from = vectorIn(a, "from", Vec3::Zero());
    const bool isOne = !a.contains("to");
    const auto lines =
        field::streamlines(*flow, field::rakeLine(from, vectorIn(a, "to", from), isOne ? 1 : countIn(a, 11)), {});
    std::string csv = headOf(columns, "line,x_m,y_m,z_m,time_s");
    json told_of = json::array();
    int empty = 0;
    for (std::size_t i = 0; i < lines.size(); ++i) {
        const auto& line = lines[i];
        if (line.places.empty()) {
            ++empty;
            continue;
        }
        for (std::size_t k = 0; k < line.places.size(); ++k) {
            const Vec3& x = line.places[k];
            csv += fmt::format("{},{:.6g},{:.6g},{:.6g},{:.6g}", i + 1, x.x(), x.y(), x.z(), line.times[k]);
            for (const auto* v : columns.values)
                csv += fmt::format(",{:.6g}", field::valueAt(flow->mesh(), line.spots[k], *v));
            csv += "\n";
        }
        told_of.push_back({{"line", i + 1},
                           {"places", line.places.size()},
                           {"begins", field::nameOf(line.upstream)},
                           {"ends", field::nameOf(line.downstream)},
                           {"seconds", line.times.back() - line.times.front()}});
    }
    if (told_of.empty())
        throw base::InputError("lies in the model or outside the tunnel.", "the rake", "Choose places in the air.");
    if (empty > 0)
        talk({{"warning", fmt::format("{} of {} places of the rake are not in the air", empty, lines.size())}});
    return told(a, {{"lines", told_of}}, csv, fmt::format("{} lines\n", told_of.size()));
}

Outcome profile(const json& a, const Talk&) {
    const auto flow = flowOf(a);
    const double reach = a.value("reach", 0.1 * view::wallsOf(*flow).size().maxCoeff());
    const auto p = field::wallProfile(*flow, vectorIn(a, "at", Vec3::Zero()), reach);
    std::string csv = "height_m,along_m_s,across_m_s,y_plus,u_plus,law_u_plus\n";
    json rows = json::array();
    for (const auto& s : p.samples) {
        const double law = flow::speedInWallUnits(s.yPlus);
        csv += fmt::format("{:.6g},{:.6g},{:.6g},{:.6g},{:.6g},{:.6g}\n", s.height, s.along, s.across, s.yPlus, s.uPlus,
                           law);
        rows.push_back({{"height_m", s.height},
                        {"along_m_s", s.along},
                        {"across_m_s", s.across},
                        {"y_plus", s.yPlus},
                        {"u_plus", s.uPlus},
                        {"law_u_plus", law}});
    }
    return told(a,
                {{"place_m", {p.place.x(), p.place.y(), p.place.z()}},
                 {"normal", {p.normal.x(), p.normal.y(), p.normal.z()}},
                 {"friction_velocity_m_s", p.frictionVelocity},
                 {"cells", rows}},
                csv,
                fmt::format("from the wall at {:.4g} {:.4g} {:.4g} m, friction velocity {:.4g} m/s\n", p.place.x(),
                            p.place.y(), p.place.z(), p.frictionVelocity));
}

Outcome exportFlow(const json& a, const Talk& talk) {
    const auto flow = flowOf(a);
    const std::filesystem::path out = textIn(a, "out");
    if (out.extension() == ".vtp") {
        view::writeWalls(*flow, out);
    } else if (out.extension() == ".vtu") {
        auto ids = textsIn(a, "quantity");
        if (ids.empty())
            for (const auto& q : flow->quantities()) ids.push_back(q.id);
        if (!view::writeAir(*flow, ids, out, [&](double done) {
                return talk({{"progress", done}, {"doing", out.filename().string()}});
            }))
            throw base::Cancelled();
    } else {
        throw base::InputError(fmt::format("\"{}\" is no kind of file that is written.", out.extension().string()),
                               out.string(), "Give .vtu for the air, or .vtp for the model's walls.");
    }
    return {{{"file", out.string()}}, "", 0};
}

Outcome quantities(const json& a, const Talk&) {
    if (!a.contains("point")) {
        json all = json::array();
        std::string text = "Of a result (cvane read, compare):\n";
        for (const auto& q : readout::resultQuantities()) {
            const auto unit = readout::unitOf(q.measure);
            all.push_back({{"id", q.id}, {"label", q.name}, {"unit", unit}});
            text += fmt::format("{:<20} {}{}\n", q.id, q.name, unit.empty() ? "" : " [" + unit + "]");
        }
        return {{{"quantities", all}}, text + "Name a campaign and a point for those of a flow.\n", 0};
    }
    const auto flow = flowOf(a);
    json all = json::array();
    std::string text;
    for (const auto& q : flow->quantities()) {
        all.push_back(
            {{"id", q.id}, {"label", q.label}, {"unit", q.unit}, {"signed", q.sense == field::Sense::AboutZero}});
        text += fmt::format("{:<15} {}{}\n", q.id, q.label, q.unit.empty() ? "" : " [" + q.unit + "]");
    }
    return {{{"quantities", all}},
            text + "and formulas of these, of x, y, z, V_wind, q_wind, rho, nu, alpha and beta\n",
            0};
}
}  // namespace

std::vector<Action> fieldActions() {
    const auto with = [](std::vector<Argument> own) {
        std::vector<Argument> all{{"campaign", Text, "the campaign's folder", true, true},
                                  {"point", Text, "name of the point", true, true}};
        all.insert(all.end(), own.begin(), own.end());
        return all;
    };
    const Argument what{"quantity", Texts,
                        "what to read, as `quantities` lists it, or formulas; none: speed, Cp, loss"},
        csv{"csv", Output, "write to this file instead of the screen"},
        count{"count", Whole, "how many places along the line", false, false, 0, {}, 1, 100000};
    return {
        {"quantities",
         "what can be read of a result; with a campaign and a point, in its flow",
         {{"campaign", Text, "the campaign's folder", false, true}, {"point", Text, "name of the point", false, true}},
         quantities},
        {"probe", "the flow at a place or along a line",
         with({{"at", Numbers, "the place [m]", false, false, 3},
               {"line", Numbers, "from and to: x y z x y z [m]", false, false, 6},
               count,
               what,
               csv}),
         probe},
        {"slice", "the flow on a plane, cell by cell, with integrals over it",
         with({{"axis", Text, "plane normal", false, false, 0, {"x", "y", "z"}},
               {"at", Number, "place of the plane along its normal [m]"},
               {"normal", Numbers, "of an oblique plane", false, false, 3},
               {"through", Numbers, "a place on it [m]", false, false, 3},
               what,
               csv}),
         slice},
        {"streamlines", "lines along the flow through a place, or through a rake of places",
         with({{"from", Numbers, "the place, or the rake's first [m]", true, false, 3},
               {"to", Numbers, "the rake's last [m]", false, false, 3},
               count,
               what,
               csv}),
         streamlines},
        {"profile", "the velocity above a place of the wall, cell by cell, beside the law of the wall",
         with({{"at", Numbers, "near the place [m]", true, false, 3},
               {"reach",
                Number,
                "how far from the wall [m]; without it a tenth of the model",
                false,
                false,
                0,
                {},
                1e-9,
                1e6},
               csv}),
         profile},
        {"export", "a point's flow for other programs: the air as .vtu, the model's walls as .vtp",
         with({{"out", Output, "the file", true},
               {"quantity", Texts, "what of the air besides its velocity; none: all that `quantities` lists"}}),
         exportFlow}};
}

}  // namespace cvane::command
