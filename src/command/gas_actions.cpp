#include <fmt/format.h>

#include "air/gas.h"
#include "command/groups.h"

namespace cvane::command {
using nlohmann::json;

namespace {
Outcome gases(const json& a, const Talk&) {
    const double pressure = a.value("pressure", 101325.0), temperature = a.value("temperature", 288.15);
    json all = json::array();
    std::string text = fmt::format("{:<22}{:>12}{:>8}{:>12}{:>14}{:>11}\n", "gas", "R J/(kg K)", "gamma", "rho kg/m3",
                                   "mu Pa s", "sound m/s");
    for (const air::Gas& g : air::commonGases()) {
        const auto s = air::stateOf(g, pressure, temperature);
        all.push_back({{"gas", g.name},
                       {"gas_constant_J_kgK", g.isLiquid ? json(nullptr) : json(g.gasConstant)},
                       {"ratio_of_heats", g.isLiquid ? json(nullptr) : json(g.ratioOfHeats)},
                       {"density_kg_m3", s.density},
                       {"viscosity_Pa_s", s.viscosity},
                       {"sound_speed_m_s", s.soundSpeed}});
        text +=
            fmt::format("{:<22}{:>12}{:>8}{:>12.5g}{:>14.5g}{:>11.1f}\n", g.name,
                        g.isLiquid ? "" : fmt::format("{:.2f}", g.gasConstant),
                        g.isLiquid ? "" : fmt::format("{:.3f}", g.ratioOfHeats), s.density, s.viscosity, s.soundSpeed);
    }
    return {{{"pressure_Pa", pressure}, {"temperature_K", temperature}, {"gases", all}},
            text + fmt::format("At {:g} Pa and {:g} K. air.gas takes one of them, air.own_gases those of your own.\n",
                               pressure, temperature),
            0};
}
}  // namespace

std::vector<Action> gasActions() {
    using enum Argument::Kind;
    return {{"gases",
             "what a tunnel may be filled with, at a pressure and a temperature",
             {{"pressure", Number, "static [Pa]; none: 101325", false, false, 0, {}, 1.0, 1e9},
              {"temperature", Number, "static [K]; none: 288.15", false, false, 0, {}, 1.0, 1e4}},
             gases}};
}

}  // namespace cvane::command
