#include "campaign/store/keys.h"

#include "base/errors.h"
#include "base/files.h"
#include "campaign/methods/runner.h"
#include "campaign/plan/points.h"
#include "campaign/plan/propellers.h"
#include "campaign/settings/fields.h"
#include "campaign/store/model_source.h"
#include "flow/settings.h"

namespace cvane::campaign {
using nlohmann::json;

namespace {
constexpr int kGridBuilder = 11;  ///< raised whenever the same settings give another grid

// Of the field it does not say so: results of before there were others keep their names.
json caseOf(const Campaign& base, const Point& p) {
    json on = runnerOf(p.method).caseOf(base.of(p), p.condition);
    if (p.method != Method::Field) on["method"] = nameOf(p.method).id;
    return on;
}
}  // namespace

std::string gridKey(const Campaign& c) {
    const Settings& s = c.settings;
    json on = {{"builder", kGridBuilder}, {"sum", modelSum(c)}, {"settings", changedFrom({}, s, {Affects::Grid})}};
    // Not what was asked of the model's extent but what came of it.
    auto& settings = on["settings"];
    if (const auto tunnel = settings.find("tunnel"); tunnel != settings.end()) {
        tunnel->erase("model");
        if (tunnel->empty()) settings.erase(tunnel);
    }
    if (s.tunnel.halfModel) on["half"] = isHalfOfBudget(s) ? "of the budget" : "with the budget";
    if (s.tunnel.mirrored && !s.tunnel.halfModel) on["mirrored"] = true;
    for (std::size_t i = 0; i < s.model.parts.size(); ++i)
        if (!s.model.parts[i].inTheAir) on["hidden"].push_back(i);
    if (s.tunnel.floor != grid::Floor::None && on.contains("hidden")) on["ride_height"] = "of the whole model";
    if (heightsFollowWind(s)) {
        const Vec3 w = keptHeightsWind(s);
        on["wind"] = {w.y(), w.z(), w.x(), flow::isTurbulent(s.flow.model)};
        if (s.air.gas != "air" || s.air.pressure || s.air.temperature) {
            const auto air = airOf(s.air);
            on["wind_air"] = {air.density, air.viscosity};
        }
    }
    if (s.cellsFollowFlow) {
        on["first_flow"] = changedFrom({}, s, {Affects::Flow});
        for (const auto& w : conditionsOfFirstFlow(s.schedule))
            on["first_flow_at"].push_back({w.speed, w.alpha_deg + 0.0, w.beta_deg + 0.0});
        on["first_flow_air"] = {s.air.altitude, s.air.temperatureOffset};
    }
    // Of discs and porous blocks the grid knows only where they are.
    const auto list = [](const Vec3& v) { return json{v.x(), v.y(), v.z()}; };
    for (const auto& d : discsOf(s)) on["discs"].push_back({list(d.centre), list(d.axis), d.outer});
    for (const auto& b : s.devices.blocks) on["blocks"].push_back({list(b.from), list(b.to)});
    return base::settingsKey(on.dump());
}

std::string caseKey(const Campaign& c, const Point& p) {
    return base::settingsKey(caseOf(c, p).dump());
}

std::string runKey(const Campaign& c, const Point& p) {
    json on = caseOf(c, p);
    on["solver"] = runnerOf(p.method).version();
    return base::settingsKey(on.dump());
}

}  // namespace cvane::campaign
