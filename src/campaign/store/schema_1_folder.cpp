#include "campaign/store/schema_1_folder.h"

#include <fmt/format.h>

#include "base/errors.h"
#include "base/files.h"
#include "campaign/store/keys.h"
#include "campaign/store/run_claim.h"

namespace cvane::campaign {
namespace fs = std::filesystem;
using nlohmann::json;

namespace {
// The key under which schema 1 kept the grid of its settings.
std::string oldGridKey(const Campaign& c, const json& old) {
    json j = old;
    if (!j.contains("tunnel") || !j.contains("grid") || !j.contains("model") || !j.contains("schedule") ||
        !j["schedule"].contains("speeds_m_s") || !j.contains("air"))
        return {};
    j["tunnel"].erase("closed");
    j["grid"].erase("leave_gaps_filled");
    json on = {{"builder", 6},
               {"model", j["model"]},
               {"sum", fmt::format("{:08x}", base::checksum(base::readFile(c.modelFile())))},
               {"tunnel", j["tunnel"]},
               {"grid", j["grid"]}};
    if (c.settings.targetYPlus > 0.0 || c.settings.tunnel.floor == grid::Floor::Fixed)
        on["wind"] = {j["air"], j["schedule"]["speeds_m_s"]};
    const auto list = [](const Vec3& v) { return json{v.x(), v.y(), v.z()}; };
    for (const auto& d : c.settings.devices.discs) on["discs"].push_back({list(d.centre), list(d.axis), d.outer});
    for (const auto& b : c.settings.devices.blocks) on["blocks"].push_back({list(b.from), list(b.to)});
    return base::settingsKey(on.dump());
}
}  // namespace

void bringToPresent(const Campaign& c, const json& old) {
    std::error_code ec;
    for (const auto& entry : fs::directory_iterator(c.folder() / "runs", ec))
        if (isClaimed(entry.path()))
            throw base::InputError("is running, started by an earlier version.", entry.path().string(),
                                   "Stop it there first, or let it end.");
    base::replaceFile(c.folder() / "campaign.schema1.json", base::readFile(c.folder() / "campaign.json"));
    try {
        const auto from = oldGridKey(c, old);
        // A link, so that the runs of before find their grid where it was.
        if (!from.empty() && fs::exists(c.folder() / "grids" / from / "grid.cgns", ec))
            fs::create_directory_symlink(from, c.folder() / "grids" / gridKey(c), ec);
    } catch (const std::exception&) {
        // Without its model there is no key; the grid is made again when the model is back.
    }
}

}  // namespace cvane::campaign
