#include "campaign/store/campaign.h"

#include <fmt/format.h>

#include <algorithm>
#include <functional>

#include "base/errors.h"
#include "base/files.h"
#include "base/text.h"
#include "base/units.h"
#include "campaign/settings/variants.h"
#include "campaign/store/folder_lock.h"
#include "campaign/store/schema_1_folder.h"
#include "campaign/store/symmetry.h"
#include "shape/import.h"
#include "solid/solid_file.h"

namespace cvane::campaign {

namespace fs = std::filesystem;

namespace {
void makeFolder(const fs::path& folder, const char* within) {
    std::error_code ec;
    if (fs::exists(folder, ec))
        throw base::InputError("exists already.", folder.string(), "Choose another name, or open it.");
    fs::create_directories(folder / within, ec);
    if (ec)
        throw base::InputError(fmt::format("cannot be made ({}).", ec.message()), folder.string(),
                               "Choose a folder that you may write to.");
}
}  // namespace

Campaign Campaign::createEmpty(const fs::path& folder) {
    makeFolder(folder, "sections");
    Campaign c(fs::absolute(folder));
    c.settings.name = base::printable(folder.stem().string());
    c.save();
    return c;
}

namespace {
// A new folder whose model is set by numbers.
Campaign createWith(const fs::path& folder, const std::function<void(Settings&)>& setModel) {
    Settings trial;
    setModel(trial);  // refuse before anything is made
    Campaign c = Campaign::createEmpty(folder);
    setModel(c.settings);
    c.save();
    return c.of("", "");
}
}  // namespace

Campaign Campaign::create(const fs::path& folder, const wing::Aircraft& aircraft) {
    return createWith(folder, [&](Settings& s) { setAircraft(s, aircraft); });
}

Campaign Campaign::create(const fs::path& folder, const vehicle::Outline& outline) {
    return createWith(folder, [&](Settings& s) { setOutline(s, outline); });
}

Campaign Campaign::create(const fs::path& folder, const fs::path& modelFile, const std::string& unit,
                          std::optional<double> facetTolerance) {
    const double metres = base::unitNamed(base::lengthUnits(), unit).inSI;
    const shape::Surface surface = solid::isSolidFile(modelFile)
                                       ? solid::SolidSource(modelFile, facetTolerance).surface()
                                       : shape::readSurface(modelFile, metres);
    makeFolder(folder, "models");
    std::error_code ec;
    Campaign c(fs::absolute(folder));
    try {
        const std::string file = base::printable(modelFile.filename().string());
        base::replaceFile(folder / "models" / file, base::readFile(modelFile));
        c.settings.name = base::printable(folder.stem().string());
        c.settings.model.file = "models/" + file;
        c.settings.model.unit = unit;
        c.settings.model.facetTolerance = facetTolerance;
        c.settings.model.parts = surface.parts;
        checkRanges(c.settings, folder.string());
        c.save();
    } catch (...) {
        fs::remove_all(folder, ec);
        throw;
    }
    return c.of("", "");
}

Campaign Campaign::open(const fs::path& folder) {
    std::error_code ec;
    if (!fs::is_directory(folder, ec))
        throw base::InputError("no such campaign folder.", folder.string(), "Check the name.");
    Campaign c(fs::absolute(folder));
    const fs::path file = c.folder_ / "campaign.json";
    if (!fs::exists(file, ec))
        throw base::InputError("is not a campaign: it holds no campaign.json.", folder.string(),
                               "Choose a folder made by this program.");
    const auto j = base::readJson(file);
    c.settings = settingsFromJson(j, file.string());
    c.onDisk_ = base::readFile(file);
    if (j.at("schema") == 1) {
        bringToPresent(c, j);
        c.save();
    }
    return c.of("", "");
}

fs::path Campaign::modelFile() const {
    if (settings.model.file.empty())
        throw base::InputError(
            hasModel() ? "has a model from numbers or an outline, no file." : "has no model: it is for sections.",
            folder_.filename().string(), "Make a campaign from a surface file.");
    return folder_ / settings.model.file;
}

void Campaign::save() {
    const fs::path file = folder_ / "campaign.json";
    const FolderLock lock(folder_);
    std::error_code ec;
    if (fs::exists(file, ec) && changedOnDisk())
        throw base::InputError("was changed by another program meanwhile.", file.string(),
                               "Open the campaign again, then make the change once more.");
    std::string text = toJson(settings).dump(2) + "\n";
    base::replaceFile(file, text);
    onDisk_ = std::move(text);
}

bool Campaign::changedOnDisk() const {
    try {
        return base::readFile(folder_ / "campaign.json") != onDisk_;
    } catch (const base::InputError&) {
        return false;  // it is gone: what is here is all that there is
    }
}

Campaign Campaign::of(const Point& p) const {
    return with(p.configuration, p.setUp, isAngle(p.condition.beta_deg));
}

Campaign Campaign::of(const std::string& configuration, const std::string& setUp) const {
    const auto& betas = settings.schedule.betas_deg;
    return with(configuration, setUp, !betas.empty() && std::all_of(betas.begin(), betas.end(), isAngle));
}

Campaign Campaign::with(const std::string& configuration, const std::string& setUp, bool yaws) const {
    Campaign c = *this;
    if (configuration != configuration_ || setUp != setUp_) {
        c.settings = resolved(settings, configuration, setUp, (folder_ / "campaign.json").string());
        c.configuration_ = configuration;
        c.setUp_ = setUp;
    }
    grid::Tunnel& t = c.settings.tunnel;
    const ModelExtent extent = c.settings.modelExtent;
    t.halfModel = extent == ModelExtent::Half;
    t.mirrored = !t.halfModel && isSymmetric(c);
    if (extent == ModelExtent::HalfWhereSymmetric && t.mirrored && !yaws) t.halfModel = true;
    return c;
}

}  // namespace cvane::campaign
