#include "campaign/store/keys.h"

#include <fmt/format.h>

#include <map>
#include <mutex>

#include "base/errors.h"
#include "base/files.h"
#include "campaign/plan/points.h"
#include "campaign/settings/fields.h"
#include "flow/settings.h"
#include "flow/version.h"

namespace cvane::campaign {
namespace fs = std::filesystem;
using nlohmann::json;

namespace {
constexpr int kGridBuilder = 9;  ///< raised whenever the same settings give another grid

// The model file is hashed once for each time it was written.
std::string modelSum(const fs::path& file) {
    static std::mutex mutex;
    static std::map<std::string, std::pair<std::pair<fs::file_time_type, std::uintmax_t>, std::string>> known;
    std::error_code ec;
    const std::pair now{fs::last_write_time(file, ec), fs::file_size(file, ec)};
    const std::lock_guard lock(mutex);
    auto& entry = known[file.string()];
    if (!entry.second.empty() && entry.first == now) return entry.second;
    try {
        entry = {now, fmt::format("{:08x}", base::checksum(base::readFile(file)))};
    } catch (const base::InputError&) {
        return "gone";  // a key that nothing was stored under; who needs the model says what is wrong
    }
    return entry.second;
}

json caseOf(const Campaign& c, const Condition& condition) {
    return {{"grid", gridKey(c)},
            {"flow", changedFrom({}, c.settings, {Affects::Flow})},
            {"condition", {condition.speed, condition.alpha_deg + 0.0, condition.beta_deg + 0.0}}};
}
}  // namespace

std::string gridKey(const Campaign& c) {
    const Settings& s = c.settings;
    json on = {
        {"builder", kGridBuilder}, {"sum", modelSum(c.modelFile())}, {"settings", changedFrom({}, s, {Affects::Grid})}};
    for (std::size_t i = 0; i < s.model.parts.size(); ++i)
        if (!s.model.parts[i].inTheAir) on["hidden"].push_back(i);
    if (s.tunnel.floor != grid::Floor::None && on.contains("hidden")) on["ride_height"] = "of the whole model";
    if (heightsFollowWind(s)) {
        const Vec3 w = keptHeightsWind(s);
        on["wind"] = {w.y(), w.z(), w.x(), flow::isTurbulent(s.flow.model)};
    }
    if (s.cellsFollowFlow) {
        on["first_flow"] = changedFrom({}, s, {Affects::Flow});
        for (const auto& w : conditionsOfFirstFlow(s.schedule))
            on["first_flow_at"].push_back({w.speed, w.alpha_deg + 0.0, w.beta_deg + 0.0});
        on["first_flow_air"] = {s.air.altitude, s.air.temperatureOffset};
    }
    // Of discs and porous blocks the grid knows only where they are.
    const auto list = [](const Vec3& v) { return json{v.x(), v.y(), v.z()}; };
    for (const auto& d : s.devices.discs) on["discs"].push_back({list(d.centre), list(d.axis), d.outer});
    for (const auto& b : s.devices.blocks) on["blocks"].push_back({list(b.from), list(b.to)});
    return base::settingsKey(on.dump());
}

std::string caseKey(const Campaign& c, const Point& p) {
    return base::settingsKey(caseOf(c.of(p), p.condition).dump());
}

std::string runKey(const Campaign& c, const Point& p) {
    json on = caseOf(c.of(p), p.condition);
    on["solver"] = flow::kSolverVersion;
    return base::settingsKey(on.dump());
}

}  // namespace cvane::campaign
