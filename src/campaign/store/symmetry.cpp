#include "campaign/store/symmetry.h"

#include <algorithm>
#include <map>
#include <mutex>
#include <optional>

#include "base/errors.h"
#include "base/files.h"
#include "campaign/plan/propellers.h"
#include "campaign/store/model_source.h"
#include "shape/mirror.h"

namespace cvane::campaign {
namespace {

constexpr double kTolerance = 3e-4;  ///< of the model's diagonal

/// What is known of a placed surface.
struct Mirror {
    bool isImage = false;
    std::vector<int> pairs;  ///< per part
};

shape::Surface placedSurface(const Campaign& c) {
    const ModelSettings& m = c.settings.model;
    shape::Surface s = shape::placed(sourceOf(c)->surface(), m.placement);
    for (std::size_t i = 0; i < std::min(s.parts.size(), m.parts.size()); ++i) s.parts[i] = m.parts[i];
    return s;
}

// What was found of models as they were placed, beside the surface file: each command asks, and a large one takes a
// second. A folder that cannot be written to, or a file that is damaged, only costs that second.
constexpr std::size_t kMostKept = 16;

std::filesystem::path keptFile(const std::filesystem::path& folder) {
    return folder / "models" / "mirror.json";
}

nlohmann::json allKept(const std::filesystem::path& folder) {
    std::error_code ec;
    if (!std::filesystem::is_regular_file(keptFile(folder), ec)) return nlohmann::json::array();
    try {
        auto j = base::readJson(keptFile(folder));
        return j.is_array() ? j : nlohmann::json::array();
    } catch (const base::InputError&) {
        return nlohmann::json::array();
    }
}

std::optional<Mirror> keptIn(const std::filesystem::path& folder, const std::string& key) {
    try {
        for (const auto& one : allKept(folder))
            if (one.at("of") == key)
                return Mirror{one.at("is_image").get<bool>(), one.at("pairs").get<std::vector<int>>()};
    } catch (const nlohmann::json::exception&) {
        return std::nullopt;
    }
    return std::nullopt;
}

void keep(const std::filesystem::path& folder, const std::string& key, const Mirror& found) {
    std::error_code ec;
    if (!std::filesystem::is_directory(keptFile(folder).parent_path(), ec)) return;  // numbers are quick
    try {
        auto all = allKept(folder);
        all.push_back({{"of", key}, {"is_image", found.isImage}, {"pairs", found.pairs}});
        while (all.size() > kMostKept) all.erase(0);
        base::replaceFile(keptFile(folder), all.dump(1) + "\n");
    } catch (const base::InputError&) {
        return;
    }
}

Mirror mirrorOf(const Campaign& c) {
    const ModelSettings& m = c.settings.model;
    std::string key;
    try {
        key = nlohmann::json{sourceOf(c)->sum(),
                             m.unit,
                             {m.placement.rotation_deg.x(), m.placement.rotation_deg.y(), m.placement.rotation_deg.z()},
                             {m.placement.shift.x(), m.placement.shift.y(), m.placement.shift.z()}}
                  .dump();
        for (const auto& p : m.parts) key += p.inTheAir ? '1' : '0';
    } catch (const base::InputError&) {
        return {};
    }
    static std::mutex mutex;
    static std::map<std::string, Mirror> known;
    {
        const std::lock_guard lock(mutex);
        if (const auto it = known.find(key); it != known.end()) return it->second;
    }
    Mirror found;
    if (const auto kept = keptIn(c.folder(), key)) {
        const std::lock_guard lock(mutex);
        return known[key] = *kept;
    }
    try {
        const shape::Surface all = placedSurface(c), s = shape::withoutHiddenParts(all);
        const double tolerance = kTolerance * s.bounds().size().norm();
        found.isImage = !s.facets.empty() && s.bounds().high.y() > tolerance && shape::isMirrorImage(s, tolerance);
        if (found.isImage) found.pairs = shape::mirroredParts(all, 10.0 * tolerance);
    } catch (const base::InputError&) {
        return {};
    }
    keep(c.folder(), key, found);
    const std::lock_guard lock(mutex);
    return known[key] = std::move(found);
}

/// Whether a list is the same when each of it is replaced by its image.
template <class T, class Image>
bool isOwnImage(const std::vector<T>& all, Image&& image) {
    return std::all_of(all.begin(), all.end(), [&](const T& one) {
        const T other = image(one);
        return std::find(all.begin(), all.end(), other) != all.end();
    });
}

bool settingsAreSymmetric(const Settings& s, const std::vector<int>& pairs) {
    const auto paired = [&](const std::string& part) {
        for (std::size_t i = 0; i < std::min(pairs.size(), s.model.parts.size()); ++i)
            if (s.model.parts[i].name == part)
                return pairs[i] < 0 || static_cast<std::size_t>(pairs[i]) >= s.model.parts.size()
                           ? std::string()
                           : s.model.parts[static_cast<std::size_t>(pairs[i])].name;
        return std::string();
    };
    const auto flipped = [](Vec3 v) {
        v.y() = v.y() == 0.0 ? 0.0 : -v.y();
        return v;
    };
    for (const Wheel& w : s.devices.wheels) {
        Wheel other = w;
        other.part = paired(w.part);
        if (other.centre) other.centre = flipped(*other.centre);
        if (other.axis) return false;  // typed for one side
        if (std::find(s.devices.wheels.begin(), s.devices.wheels.end(), other) == s.devices.wheels.end()) return false;
    }
    if (!isOwnImage(s.devices.roughParts, [&](auto r) { return r.part = paired(r.part), r; })) return false;
    // Their names differ from side to side. One that turns is not its own image in the plane.
    auto discs = discsOf(s);
    for (auto& d : discs) d.name.clear();
    if (!isOwnImage(discs, imageOf)) return false;
    const auto& blocks = s.devices.blocks;
    if (std::any_of(blocks.begin(), blocks.end(), [](const auto& b) { return b.from.y() != -b.to.y(); })) return false;
    if (!isOwnImage(s.grid.finerPlaces, [&](grid::FinerPlace p) {
            p.from = flipped(p.from);
            p.to = flipped(p.to);
            if (p.shape == grid::FinerPlace::Shape::Box) std::swap(p.from.y(), p.to.y());
            return p;
        }))
        return false;
    return std::all_of(s.grid.finerParts.begin(), s.grid.finerParts.end(), [&](const auto& one) {
        const auto other = s.grid.finerParts.find(paired(one.first));
        return other != s.grid.finerParts.end() && other->second == one.second;
    });
}

}  // namespace

bool isSymmetric(const Campaign& c) {
    const Settings& s = c.settings;
    // Walls that cut the model, a wake that leads to one side, and cells that follow flows from either side.
    if (!c.hasModel() || s.tunnel.cutsModelAt(grid::kHighY) || s.wakeBeta_deg != 0.0) return false;
    if (s.cellsFollowFlow && std::any_of(s.schedule.betas_deg.begin(), s.schedule.betas_deg.end(), isAngle))
        return false;
    const Mirror mirror = mirrorOf(c);
    return mirror.isImage && settingsAreSymmetric(s, mirror.pairs);
}

}  // namespace cvane::campaign
