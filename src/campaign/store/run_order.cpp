#include "campaign/store/run_order.h"

#include <cmath>

#include "base/errors.h"
#include "base/files.h"
#include "base/units.h"
#include "campaign/settings/settings.h"

namespace cvane::campaign {
namespace fs = std::filesystem;
using nlohmann::json;

void writeOrder(const RunOrder& o, const fs::path& folder) {
    Settings carrier;  // tunnel and flow settings take the form they have in campaign.json
    carrier.tunnel = o.flowCase.tunnel;
    carrier.flow = o.flowCase.settings;
    carrier.devices.roughParts = o.flowCase.rough;
    carrier.devices.discs = o.flowCase.discs;
    carrier.devices.blocks = o.flowCase.blocks;
    const auto list = [](const Vec3& v) { return json{v.x(), v.y(), v.z()}; };
    json moving = json::array();
    for (const auto& m : o.flowCase.moving)
        moving.push_back({{"part", m.part},
                          {"velocity_m_s", list(m.velocity)},
                          {"spin_rad_s", list(m.spin)},
                          {"centre_m", list(m.centre)}});
    const json all = toJson(carrier);
    const auto& w = o.flowCase.wind;
    const auto& r = o.flowCase.reference;
    const auto relative = [&](const fs::path& p) {
        return p.empty() ? std::string() : fs::relative(p, folder).string();
    };
    json j = {{"schema", 2},
              {"key", o.key},
              {"case_key", o.caseKey},
              {"solver", o.solver},
              {"point",
               {{"configuration", o.point.configuration},
                {"set_up", o.point.setUp},
                {"method", "field"},
                {"speed_m_s", o.point.condition.speed},
                {"alpha_deg", o.point.condition.alpha_deg},
                {"beta_deg", o.point.condition.beta_deg}}},
              {"grid", relative(o.grid)},
              {"coarse_grid", relative(o.coarseGrid)},
              {"coarsest_grid", relative(o.coarsestGrid)},
              {"neighbour", relative(o.neighbour)},
              {"second_neighbour", relative(o.secondNeighbour)},
              {"tunnel", all["tunnel"]},
              {"flow", all["flow"]},
              {"devices", all["devices"]},
              {"ground_layer_from_m", o.flowCase.groundLayerFrom ? json(*o.flowCase.groundLayerFrom) : json(nullptr)},
              {"moving", moving},
              {"wind",
               {{"speed_m_s", w.speed},
                {"alpha_deg", w.alpha / base::degree},
                {"beta_deg", w.beta / base::degree},
                {"temperature_K", w.air.temperature},
                {"pressure_Pa", w.air.pressure},
                {"density_kg_m3", w.air.density},
                {"viscosity_Pa_s", w.air.viscosity},
                {"sound_speed_m_s", w.air.soundSpeed}}},
              {"reference",
               {{"area_m2", r.area},
                {"length_m", r.length},
                {"span_m", r.span},
                {"moment_centre_m", {r.momentCentre.x(), r.momentCentre.y(), r.momentCentre.z()}}}}};
    if (o.weightsOnly) j["weights_only"] = true;
    if (o.cellsFollowFlow) j["cells_follow_flow"] = true;
    base::replaceJson(folder / "run.json", j);
}

RunOrder readOrder(const fs::path& folder) {
    const fs::path file = folder / "run.json";
    const json j = base::readCheckedJson(file, 2);
    try {
        RunOrder o;
        o.key = j.at("key").get<std::string>();
        const auto absolute = [&](const char* name) {
            const fs::path p = j.at(name).get<std::string>();
            if (p.empty() || p.is_relative()) return p.empty() ? p : (folder / p).lexically_normal();
            // Of schema 1: where it was when the campaign stood there; now beside its runs.
            std::error_code ec;
            return fs::exists(p, ec)
                       ? p
                       : folder.parent_path().parent_path() / "grids" / p.parent_path().filename() / p.filename();
        };
        o.grid = absolute("grid");
        o.coarseGrid = absolute("coarse_grid");
        if (j.contains("coarsest_grid")) o.coarsestGrid = absolute("coarsest_grid");
        o.neighbour = j.at("neighbour").get<std::string>().empty() ? fs::path() : absolute("neighbour");
        if (j.contains("second_neighbour")) o.secondNeighbour = absolute("second_neighbour");
        o.caseKey = j.value("case_key", "");
        o.solver = j.value("solver", 0);
        o.weightsOnly = j.value("weights_only", false);
        o.cellsFollowFlow = j.value("cells_follow_flow", false);
        const json p = j.value("point", json::object());
        o.point.configuration = p.value("configuration", "");
        o.point.setUp = p.value("set_up", "");
        const Settings carrier = settingsFromJson({{"schema", j.at("schema")},
                                                   {"tunnel", j.at("tunnel")},
                                                   {"flow", j.at("flow")},
                                                   {"devices", j.at("devices")}},
                                                  file.string());
        o.flowCase.tunnel = carrier.tunnel;
        o.flowCase.settings = carrier.flow;
        o.flowCase.rough = carrier.devices.roughParts;
        o.flowCase.discs = carrier.devices.discs;
        o.flowCase.blocks = carrier.devices.blocks;
        if (const auto from = j.find("ground_layer_from_m"); from != j.end() && !from->is_null())
            o.flowCase.groundLayerFrom = from->get<double>();
        const auto vectorOf = [](const json& v) {
            return Vec3(v.at(0).get<double>(), v.at(1).get<double>(), v.at(2).get<double>());
        };
        for (const json& m : j.at("moving"))
            o.flowCase.moving.push_back({m.at("part").get<std::string>(), vectorOf(m.at("velocity_m_s")),
                                         vectorOf(m.at("spin_rad_s")), vectorOf(m.at("centre_m"))});
        const json& w = j.at("wind");
        o.flowCase.wind = {w.at("speed_m_s").get<double>(),
                           w.at("alpha_deg").get<double>() * base::degree,
                           w.at("beta_deg").get<double>() * base::degree,
                           {w.at("temperature_K").get<double>(), w.at("pressure_Pa").get<double>(),
                            w.at("density_kg_m3").get<double>(), w.at("viscosity_Pa_s").get<double>(),
                            w.at("sound_speed_m_s").get<double>()}};
        const auto angle = [](double radians) { return std::round(radians / base::degree * 1e9) / 1e9 + 0.0; };
        o.point.condition = {p.value("speed_m_s", o.flowCase.wind.speed),
                             p.value("alpha_deg", angle(o.flowCase.wind.alpha)),
                             p.value("beta_deg", angle(o.flowCase.wind.beta))};
        const json& r = j.at("reference");
        const auto m = r.at("moment_centre_m").get<std::vector<double>>();
        o.flowCase.reference = {r.at("area_m2").get<double>(), r.at("length_m").get<double>(),
                                r.at("span_m").get<double>(), Vec3(m.at(0), m.at(1), m.at(2))};
        return o;
    } catch (const std::exception& e) {
        throw base::InputError("is not a run order.", file.string(), "Start the point again.");
    }
}

namespace {
constexpr const char* kAskedAnew = "asked.json";
}

void askAnew(const fs::path& folder, const readout::Asked& a) {
    base::replaceJson(folder / kAskedAnew, {{"tolerance_CD_relative", a.toleranceCD},
                                            {"tolerance_CL", a.toleranceCL},
                                            {"most_iterations", a.mostIterations},
                                            {"least_iterations", a.leastIterations}});
}

std::optional<readout::Asked> newlyAsked(const fs::path& folder) {
    std::error_code ec;
    const fs::path file = folder / kAskedAnew;
    if (!fs::exists(file, ec)) return std::nullopt;
    try {
        const auto j = base::readJson(file);
        fs::remove(file, ec);
        return readout::Asked{j.at("tolerance_CD_relative"), j.at("tolerance_CL"), j.at("most_iterations"),
                              j.at("least_iterations")};
    } catch (const std::exception&) {
        fs::remove(file, ec);
        return std::nullopt;
    }
}

}  // namespace cvane::campaign
