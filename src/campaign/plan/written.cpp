#include "campaign/plan/written.h"

#include <fmt/format.h>

#include <algorithm>
#include <cctype>
#include <sstream>

#include "base/errors.h"
#include "base/number_list.h"
#include "base/text.h"
#include "campaign/plan/points.h"
#include "campaign/settings/fields.h"
#include "campaign/settings/set_field.h"
#include "campaign/settings/variants.h"

namespace cvane::campaign {
namespace {
std::string trimmed(const std::string& text) {
    const auto from = text.find_first_not_of(" \t\r\""), to = text.find_last_not_of(" \t\r\"");
    return from == std::string::npos ? std::string() : text.substr(from, to - from + 1);
}

std::vector<std::string> fieldsOf(const std::string& row) {
    std::vector<std::string> out;
    std::istringstream in(row);
    std::string one;
    for (const char by : {'\t', ';', ','})
        if (row.find(by) != std::string::npos) {
            while (std::getline(in, one, by)) out.push_back(trimmed(one));
            return out;
        }
    while (in >> one) out.push_back(one);
    return out;
}

constexpr std::string_view kAxes = "xyz";

// "model.rotation_deg.y": the setting, and which component of it; -1: the whole.
std::pair<std::string, int> componentIn(const std::string& setting) {
    const auto n = setting.size();
    if (std::count(setting.begin(), setting.end(), '.') < 2 || setting[n - 2] != '.') return {setting, -1};
    const auto axis = kAxes.find(setting[n - 1]);
    if (axis == std::string_view::npos) return {setting, -1};
    return {setting.substr(0, n - 2), static_cast<int>(axis)};
}

bool beginsWithNumber(const std::string& text) {
    return !text.empty() &&
           (std::isdigit(static_cast<unsigned char>(text[0])) || text[0] == '-' || text[0] == '+' || text[0] == '.');
}
}  // namespace

std::vector<SinglePoint> pointsInTable(const std::string& text, const std::string& where) {
    std::vector<SinglePoint> out;
    std::istringstream in(text);
    std::string row;
    for (int number = 1; std::getline(in, row); ++number) {
        const auto fields = fieldsOf(row);
        if (fields.empty() || fields[0].starts_with('#')) continue;
        const auto at = fmt::format("{}, row {}", where, number);
        if (!beginsWithNumber(fields[0])) {
            if (out.empty() && std::none_of(fields.begin(), fields.end(), beginsWithNumber)) continue;  // the head
            throw base::InputError(fmt::format("\"{}\" is no speed.", base::printable(fields[0])), at,
                                   "Begin each row with a speed in m/s.");
        }
        if (fields.size() < 2 || fields.size() > 6)
            throw base::InputError(fmt::format("has {} fields.", fields.size()), at,
                                   "Give speed, alpha, and where wanted beta, configuration, set-up and method.");
        // Methods are the schedule's for all points; a row of one that there is stands for its condition.
        if (fields.size() == 6) methodNamed(fields[5]);
        const auto numberAt = [&](std::size_t i) {
            if (i >= fields.size() || fields[i].empty()) return 0.0;
            return base::numberIn(fields[i], at);
        };
        const auto nameAt = [&](std::size_t i) {
            return i < fields.size() && fields[i] != "base" ? fields[i] : std::string();
        };
        out.push_back({{numberAt(0), numberAt(1), numberAt(2)}, nameAt(3), nameAt(4)});
    }
    if (out.empty())
        throw base::InputError("holds no points.", where, "Give rows of speed [m/s], alpha and beta [deg].");
    return out;
}

int addPoints(Settings& s, const std::vector<SinglePoint>& points) {
    Settings next = s;
    const auto known = pointsOf(s);
    for (const auto& p : points) {
        const Point point{p.condition, p.configuration, p.setUp};
        const auto& single = next.schedule.single;
        if (std::find(known.begin(), known.end(), point) == known.end() &&
            std::find(single.begin(), single.end(), p) == single.end())
            next.schedule.single.push_back(p);
    }
    pointsOf(next);
    const auto added = static_cast<int>(next.schedule.single.size() - s.schedule.single.size());
    s = std::move(next);
    return added;
}

std::vector<std::string> vary(Settings& s, const std::string& setting, const std::vector<std::string>& values) {
    const auto [path, part] = componentIn(setting);
    const auto& row = settingNamed(path, setting);
    if (part >= 0 && row.kind != Kind::Vector)
        throw base::InputError("has no components.", path, "Name the setting alone.");
    const auto group = setting.substr(0, setting.find('.'));
    const bool model = isModelSide(group);
    if (!model && !isTunnelSide(group))
        throw base::InputError("is a setting of the campaign as a whole.", setting,
                               "Vary one of model, reference, devices, tunnel, grid, flow or air.");
    Settings next = s;
    std::vector<std::string> names;
    for (const auto& value : values) {
        Settings changed = s;
        if (part < 0) {
            setField(changed, path + "=" + value);
        } else {
            auto vector = row.get(s);
            if (vector.is_null()) vector = {0.0, 0.0, 0.0};
            vector[static_cast<std::size_t>(part)] = base::numberIn(value, setting);
            row.check(vector, path, setting);
            row.put(changed, vector);
        }
        if (row.get(changed) == row.get(s)) continue;
        auto& variants = model ? next.configurations : next.setUps;
        auto name = fmt::format("{}{} {}", row.name,
                                part < 0 ? "" : fmt::format(" {}", kAxes[static_cast<std::size_t>(part)]), value);
        for (char& c : name)
            if (const auto u = static_cast<unsigned char>(c);
                !std::isalnum(u) && c != ' ' && c != '-' && c != '_' && c != '.' && c != '+' && u < 0x80)
                c = '_';
        variants.push_back({name, nlohmann::json::object()});
        checkVariantName(variants, setting);
        next = withVariantChanged(next, model ? name : "", model ? "" : name, changed);
        names.push_back(name);
    }
    if (names.empty()) throw base::InputError("none of the values differs from the base's.", setting, "Give others.");
    pointsOf(next);
    s = std::move(next);
    return names;
}

}  // namespace cvane::campaign
