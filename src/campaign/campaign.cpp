#include "campaign/campaign.h"

#include <fmt/format.h>

#include "base/errors.h"
#include "base/files.h"
#include "base/units.h"
#include "shape/import.h"

namespace cvane::campaign {

namespace fs = std::filesystem;

Campaign Campaign::create(const fs::path& folder, const fs::path& modelFile, const std::string& unit) {
    const double metres = base::unitNamed(base::lengthUnits(), unit).inSI;
    const shape::Surface surface = shape::readSurface(modelFile, metres);
    std::error_code ec;
    if (fs::exists(folder, ec)) throw base::InputError("exists already.", folder.string(), "Choose another name, or open it.");
    fs::create_directories(folder / "models", ec);
    if (ec) throw base::InputError(fmt::format("cannot be made ({}).", ec.message()), folder.string(), "Choose a folder that you may write to.");
    Campaign c(fs::absolute(folder));
    try {
        base::replaceFile(folder / "models" / modelFile.filename(), base::readFile(modelFile));
        c.settings.name = folder.stem().string();
        c.settings.model.file = (fs::path("models") / modelFile.filename()).string();
        c.settings.model.unit = unit;
        c.settings.model.parts = surface.parts;
        c.save();
    } catch (...) {
        fs::remove_all(folder, ec);
        throw;
    }
    return c;
}

Campaign Campaign::open(const fs::path& folder) {
    std::error_code ec;
    if (!fs::is_directory(folder, ec)) throw base::InputError("no such campaign folder.", folder.string(), "Check the name.");
    Campaign c(fs::absolute(folder));
    const fs::path file = c.folder_ / "campaign.json";
    if (!fs::exists(file, ec)) throw base::InputError("is not a campaign: it holds no campaign.json.", folder.string(), "Choose a folder made by this program.");
    c.settings = settingsFromJson(base::readJson(file), file.string());
    return c;
}

void Campaign::save() const { base::replaceFile(folder_ / "campaign.json", toJson(settings).dump(2) + "\n"); }

}  // namespace cvane::campaign
