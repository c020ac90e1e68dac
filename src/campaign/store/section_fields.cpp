#include "campaign/store/section_fields.h"

#include <algorithm>
#include <cmath>

#include "base/errors.h"
#include "base/files.h"
#include "base/units.h"
#include "flow/version.h"

namespace cvane::campaign {
namespace fs = std::filesystem;
using base::degree;
using nlohmann::json;

namespace {
constexpr int kFieldsSchema = 1;
/// Raised when the grid or the way the solver is driven changes results by more than the tolerance of rest.
constexpr int kFieldsVersion = 1;

fs::path fieldFile(const Campaign& c, const std::string& key) {
    return c.folder() / "sections" / "fields" / (key + ".json");
}
}  // namespace

section::PointFigures figuresOf(const SectionFieldPoint& p, double reynolds) {
    section::PointFigures f;
    f.alpha = p.alpha, f.reynolds = reynolds;
    f.cl = p.cl, f.cd = p.cd, f.cdFriction = p.cdFriction, f.cm = p.cm;
    f.converged = p.settled, f.iterations = p.iterations, f.residual = p.residual;
    f.transition = {0.0, 0.0}, f.tripped = {true, true};
    for (const auto* side : {&p.upper, &p.lower})
        for (const auto& w : *side)
            if (w.Cp < f.lowestCp) f.lowestCp = w.Cp, f.lowestCpAt = w.x;
    return f;
}

json jsonOf(const SectionFieldPoint& p) {
    const auto wall = [](const auto& side) {
        json out = json::array();
        for (const auto& w : side) out.push_back({{"x", w.x}, {"cp", w.Cp}, {"cf", w.cf}});
        return out;
    };
    return {{"alpha_deg", p.alpha / degree},
            {"cl", p.cl},
            {"cd", p.cd},
            {"cd_friction", p.cdFriction},
            {"cm", p.cm},
            {"settled", p.settled},
            {"blew_up", p.blewUp},
            {"cells", p.cells},
            {"iterations", p.iterations},
            {"seconds", p.seconds},
            {"residual", std::isfinite(p.residual) ? json(p.residual) : json(nullptr)},
            {"highest_y_plus", p.highestYPlus},
            {"upper", wall(p.upper)},
            {"lower", wall(p.lower)}};
}

SectionFieldPoint fieldPointFrom(const json& j) {
    try {
        SectionFieldPoint p;
        p.alpha = j.at("alpha_deg").get<double>() * degree;
        p.cl = j.at("cl"), p.cd = j.at("cd"), p.cdFriction = j.at("cd_friction"), p.cm = j.at("cm");
        p.settled = j.at("settled"), p.blewUp = j.at("blew_up");
        p.cells = j.at("cells"), p.iterations = j.at("iterations"), p.seconds = j.at("seconds");
        p.residual = j.at("residual").is_number() ? j.at("residual").get<double>() : std::nan("");
        p.highestYPlus = j.at("highest_y_plus");
        const auto wall = [&](const char* side) {
            std::vector<SectionFieldPoint::Wall> out;
            for (const auto& w : j.at(side)) out.push_back({w.at("x"), w.at("cp"), w.at("cf")});
            return out;
        };
        p.upper = wall("upper"), p.lower = wall("lower");
        return p;
    } catch (const json::exception&) {
        throw base::InputError("a point of a section in the field lacks a part.", "sections/fields", "Solve it again.");
    }
}

std::vector<FieldAsked> fieldsAsked(const Campaign& c) {
    const SectionSettings& s = c.settings.sections;
    std::vector<FieldAsked> out;
    for (const ShownOutline& shown : shownOutlines(c)) {
        const json points = pointsForKey(shown.outline);
        for (const double re : s.reynolds) {
            SectionField what;
            what.reynolds = re, what.level = s.fieldLevel;
            const json key = {
                {"solver", flow::kSolverVersion}, {"version", kFieldsVersion}, {"re", re}, {"level", what.level},
                {"turbulence", what.turbulence},  {"outline", points}};
            out.push_back({shown, what, base::settingsKey(key.dump())});
        }
    }
    return out;
}

std::vector<SectionFieldPoint> storedFields(const Campaign& c, const std::string& key) {
    std::vector<SectionFieldPoint> out;
    try {
        std::error_code ec;
        if (!fs::exists(fieldFile(c, key), ec)) return {};
        const json file = base::readCheckedJson(fieldFile(c, key), kFieldsSchema);
        for (const auto& p : file.at("points")) out.push_back(fieldPointFrom(p));
    } catch (const std::exception&) {
        return {};
    }
    return out;
}

void storeField(const Campaign& c, const FieldAsked& asked, const SectionFieldPoint& point) {
    auto all = storedFields(c, asked.key);
    const auto same =
        std::find_if(all.begin(), all.end(), [&](const auto& p) { return std::abs(p.alpha - point.alpha) < 1e-9; });
    if (same == all.end())
        all.push_back(point);
    else if (point.settled || !same->settled)
        *same = point;
    std::sort(all.begin(), all.end(), [](const auto& a, const auto& b) { return a.alpha < b.alpha; });
    json list = json::array();
    for (const auto& p : all) list.push_back(jsonOf(p));
    std::error_code ec;
    fs::create_directories(c.folder() / "sections" / "fields", ec);
    base::replaceJson(fieldFile(c, asked.key), {{"schema", kFieldsSchema},
                                                {"key", asked.key},
                                                {"section", asked.section},
                                                {"flap_turn_deg", asked.flapTurn_deg},
                                                {"reynolds", asked.what.reynolds},
                                                {"level", asked.what.level},
                                                {"points", list}});
}

}  // namespace cvane::campaign
