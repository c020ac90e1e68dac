#include "campaign/methods/wind_order.h"

#include "base/units.h"
#include "campaign/steps/model_stage.h"

namespace cvane::campaign {
using base::degree;
using nlohmann::json;

std::optional<double> groundOf(const Campaign& c) {
    if (c.settings.tunnel.floor == grid::Floor::None) return std::nullopt;
    const auto placed = placedModel(c);
    return placed.bounds().low.z() - tunnelFor(c.settings, placed).rideHeight;
}

json windJson(const air::FreeStream& w) {
    return {{"speed_m_s", w.speed},
            {"alpha_deg", w.alpha / degree},
            {"beta_deg", w.beta / degree},
            {"temperature_K", w.air.temperature},
            {"pressure_Pa", w.air.pressure},
            {"density_kg_m3", w.air.density},
            {"viscosity_Pa_s", w.air.viscosity},
            {"sound_speed_m_s", w.air.soundSpeed}};
}
air::FreeStream windFrom(const json& j) {
    return {j.at("speed_m_s"),
            j.at("alpha_deg").get<double>() * degree,
            j.at("beta_deg").get<double>() * degree,
            {j.at("temperature_K"), j.at("pressure_Pa"), j.at("density_kg_m3"), j.at("viscosity_Pa_s"),
             j.at("sound_speed_m_s")}};
}

}  // namespace cvane::campaign
