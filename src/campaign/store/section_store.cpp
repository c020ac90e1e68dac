#include "campaign/store/section_store.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/errors.h"
#include "base/files.h"
#include "base/text.h"
#include "base/units.h"
#include "section/outline/coordinates.h"
#include "section/outline/edit.h"
#include "section/outline/families.h"
#include "section/polar/table.h"

namespace cvane::campaign {
namespace fs = std::filesystem;
using base::degree;
using nlohmann::json;

namespace {
constexpr int kPolarSchema = 1;
/// Raised when the method's numbers change results.
constexpr int kSectionVersion = 1;

fs::path polarFile(const Campaign& c, const std::string& key) {
    return c.folder() / "sections" / "polars" / (key + ".json");
}

std::string keyOf(const section::Contour& outline, const section::PolarCase& what,
                  const section::Panelling& panelling) {
    json j = {{"version", kSectionVersion},
              {"panels", panelling.panels},
              {"re", what.flow.air.reynolds},
              {"mach", what.flow.air.mach},
              {"n", what.flow.nCritical},
              {"trip", {what.flow.tripUpper, what.flow.tripLower}},
              {"fixed_lift", what.kind == section::PolarCase::Kind::FixedLift},
              {"values", what.values}};
    j["outline"] = pointsForKey(outline);
    return base::settingsKey(j.dump());
}

constexpr int kDeepestMix = 4;  // mixes of mixes; a section that is mixed of itself ends here

section::Contour sourceOf(const Campaign& c, const std::string& source, int deeper) {
    if (const auto mix = section::mixFrom(source)) {
        if (deeper == 0)
            throw base::InputError("is mixed of itself.", source, "Mix sections that do not need each other.");
        const auto named = [&](const std::string& name) {
            for (const SectionEntry& e : c.settings.sections.sections)
                if (e.name == name) return sourceOf(c, e.source, deeper - 1);
            return section::sectionFromCode(name);
        };
        return section::between(named(mix->first), named(mix->second), mix->share);
    }
    const bool file = source.find('/') != std::string::npos;
    return file ? section::readCoordinateFile(c.folder() / source) : section::sectionFromCode(source);
}
}  // namespace

section::Contour outlineOf(const Campaign& c, const SectionEntry& e) {
    return turnedOutline(c, e, 0.0);
}

section::Contour turnedOutline(const Campaign& c, const SectionEntry& e, double flapTurn_deg) {
    section::Contour out = sourceOf(c, e.source, kDeepestMix);
    const section::SectionEdit edit{e.thickness, e.thicknessAt, e.camber, e.camberAt, e.noseRadius};
    if (!(edit == section::SectionEdit{})) out = section::edited(out, edit);
    const double flap = e.flapAngle_deg + flapTurn_deg;
    if (flap != 0.0) out = section::withFlap(out, e.flapHinge, flap * degree);
    out.name = e.name;
    return out;
}

section::PolarCase polarCaseOf(const SectionSettings& s, double reynolds) {
    section::PolarCase what;
    what.flow.air = {reynolds, s.mach.front()};
    what.flow.nCritical = s.nCritical.front();
    what.flow.tripUpper = s.tripUpper, what.flow.tripLower = s.tripLower;
    if (s.fixedLift) what.kind = section::PolarCase::Kind::FixedLift;
    const double low = std::min(s.first_deg, s.last_deg), high = std::max(s.first_deg, s.last_deg);
    const int n = static_cast<int>(std::floor((high - low) / s.step_deg + 1e-9));
    for (int i = 0; i <= n; ++i) what.values.push_back((low + i * s.step_deg) * degree);
    return what;
}

json pointsForKey(const section::Contour& outline) {
    json points = json::array();
    for (const auto& p : outline.points) points.push_back({p.x(), p.y()});
    return points;
}

std::vector<ShownOutline> shownOutlines(const Campaign& c) {
    std::vector<ShownOutline> out;
    for (const SectionEntry& e : c.settings.sections.sections) {
        if (!e.shown) continue;
        for (const double turn : c.settings.sections.flapTurns_deg) try {
                out.push_back({e.name, turn, turnedOutline(c, e, turn)});
            } catch (const base::InputError&) {
                continue;
            }
    }
    return out;
}

std::vector<PolarAsked> polarsAsked(const Campaign& c) {
    const SectionSettings& s = c.settings.sections;
    std::vector<PolarAsked> out;
    section::Panelling panelling;
    panelling.panels = s.panels;
    for (const ShownOutline& shown : shownOutlines(c))
        for (const double re : s.reynolds)
            for (const double mach : s.mach)
                for (const double n : s.nCritical) {
                    section::PolarCase what = polarCaseOf(s, re);
                    what.flow.air.mach = mach, what.flow.nCritical = n;
                    out.push_back({shown, what, panelling, keyOf(shown.outline, what, panelling)});
                }
    return out;
}

fs::path stripPolars(const fs::path& campaign) {
    return campaign / "sections" / "strips";
}

std::optional<std::vector<section::PolarPoint>> storedPolar(const Campaign& c, const std::string& key) {
    try {
        std::error_code ec;
        if (!fs::exists(polarFile(c, key), ec)) return {};
        const json j = base::readCheckedJson(polarFile(c, key), kPolarSchema);
        std::vector<section::PolarPoint> out;
        for (const auto& p : j.at("points"))
            out.push_back({p.at("asked_deg").get<double>() * degree, section::figuresFromJson(p), nullptr});
        return out;
    } catch (const std::exception&) {
        return {};
    }
}

void storePolar(const Campaign& c, const PolarAsked& asked, const std::vector<section::PolarPoint>& points) {
    json list = json::array();
    for (const auto& p : points) {
        json one = section::jsonOf(p.figures);
        one["asked_deg"] = p.asked / degree;
        list.push_back(one);
    }
    std::error_code ec;
    fs::create_directories(c.folder() / "sections" / "polars", ec);
    base::replaceJson(polarFile(c, asked.key), {{"schema", kPolarSchema},
                                                {"key", asked.key},
                                                {"section", asked.section},
                                                {"flap_turn_deg", asked.flapTurn_deg},
                                                {"reynolds", asked.what.flow.air.reynolds},
                                                {"points", list}});
}

SectionEntry sectionBrought(const Campaign& c, const std::string& fileOrCode) {
    std::error_code ec;
    const fs::path file = fileOrCode;
    SectionEntry e;
    if (fs::is_regular_file(file, ec)) {
        const auto contour = section::readCoordinateFile(file);
        std::string name = base::printable(file.filename().string());
        std::replace(name.begin(), name.end(), '/', '_');
        fs::create_directories(c.folder() / "sections", ec);
        const std::string content = base::readFile(file);
        for (int k = 1;; ++k) {
            e.source = "sections/" + (k == 1 ? name : fmt::format("{}-{}", k, name));
            if (!fs::exists(c.folder() / e.source, ec)) {
                base::replaceFile(c.folder() / e.source, content);
                break;
            }
            if (base::readFile(c.folder() / e.source) == content) break;
        }
        e.name = contour.name.empty() ? file.stem().string() : contour.name.substr(0, 60);
    } else {
        e.source = e.name = fileOrCode;
        if (section::mixFrom(fileOrCode))
            outlineOf(c, e);
        else
            section::sectionFrom(fileOrCode);
    }
    const auto taken = [&](const std::string& name) {
        return std::any_of(c.settings.sections.sections.begin(), c.settings.sections.sections.end(),
                           [&](const auto& s) { return s.name == name; });
    };
    const std::string plain = e.name;
    for (int k = 2; taken(e.name); ++k) e.name = fmt::format("{} ({})", plain, k);
    return e;
}

}  // namespace cvane::campaign
