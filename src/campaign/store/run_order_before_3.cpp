#include "campaign/store/run_order_before_3.h"

#include "base/units.h"
#include "campaign/settings/settings.h"

namespace cvane::campaign {
using nlohmann::json;

flow::Case flowCaseBefore3(const json& j, const std::string& file) {
    flow::Case c;
    const Settings carrier = settingsFromJson(
        {{"schema", j.at("schema")}, {"tunnel", j.at("tunnel")}, {"flow", j.at("flow")}, {"devices", j.at("devices")}},
        file);
    c.tunnel = carrier.tunnel;
    c.settings = carrier.flow;
    c.rough = carrier.devices.roughParts;
    c.discs = carrier.devices.discs;
    c.blocks = carrier.devices.blocks;
    if (const auto from = j.find("ground_layer_from_m"); from != j.end() && !from->is_null())
        c.groundLayerFrom = from->get<double>();
    const auto vectorOf = [](const json& v) {
        return Vec3(v.at(0).get<double>(), v.at(1).get<double>(), v.at(2).get<double>());
    };
    for (const json& m : j.at("moving"))
        c.moving.push_back({m.at("part").get<std::string>(), vectorOf(m.at("velocity_m_s")),
                            vectorOf(m.at("spin_rad_s")), vectorOf(m.at("centre_m"))});
    const json& w = j.at("wind");
    c.wind = {
        w.at("speed_m_s").get<double>(),
        w.at("alpha_deg").get<double>() * base::degree,
        w.at("beta_deg").get<double>() * base::degree,
        {w.at("temperature_K").get<double>(), w.at("pressure_Pa").get<double>(), w.at("density_kg_m3").get<double>(),
         w.at("viscosity_Pa_s").get<double>(), w.at("sound_speed_m_s").get<double>()}};
    const json& r = j.at("reference");
    c.reference = {r.at("area_m2").get<double>(), r.at("length_m").get<double>(), r.at("span_m").get<double>(),
                   vectorOf(r.at("moment_centre_m"))};
    return c;
}

}  // namespace cvane::campaign
