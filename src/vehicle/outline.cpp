#include "vehicle/outline.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>
#include <set>

#include "base/errors.h"
#include "vehicle/body_skin.h"
#include "vehicle/outline_json.h"
#include "vehicle/rounded_line.h"

namespace cvane::vehicle {
namespace {
[[noreturn]] void refuse(const std::string& what, const std::string& where, const std::string& todo) {
    throw base::InputError(what, where, todo);
}

bool cross(const Corner& a, const Corner& b, const Corner& c, const Corner& d) {
    const auto side = [](const Corner& p, const Corner& q, const Corner& r) {
        return (q.x - p.x) * (r.z - p.z) - (q.z - p.z) * (r.x - p.x);
    };
    return side(a, b, c) * side(a, b, d) < 0.0 && side(c, d, a) * side(c, d, b) < 0.0;
}

void checkProfile(const Outline& o) {
    if (o.profile.size() < 3) refuse("has fewer than three corners.", "profile", "Add corners.");
    for (std::size_t k = 0; k < o.profile.size(); ++k)
        if (!(o.profile[k].radius >= 0.0) || !std::isfinite(o.profile[k].x) || !std::isfinite(o.profile[k].z))
            refuse(fmt::format("corner {} has a radius below 0, or is nowhere.", k + 1), "profile",
                   "Give lengths in metres.");
    // As it was typed first, so that corners have the numbers that they were given.
    RoundedLine(o.profile, true, 1e-3, "profile");
    const auto line = profileOf(o);
    const std::size_t n = line.size();
    for (std::size_t i = 0; i < n; ++i)
        for (std::size_t j = i + 2; j < n; ++j)
            if ((j + 1) % n != i && cross(line[i], line[i + 1], line[j], line[(j + 1) % n]))
                refuse(fmt::format("crosses itself near x {:.3g} m, z {:.3g} m.",
                                   0.5 * (line[j].x + line[(j + 1) % n].x), 0.5 * (line[j].z + line[(j + 1) % n].z)),
                       "profile", "Move a corner.");
    RoundedLine(line, true, 1e-3, "profile");
}

void checkPlan(const Outline& o) {
    if (o.plan.empty()) refuse("has no half width.", "plan", "Add one.");
    for (std::size_t k = 0; k < o.plan.size(); ++k) {
        if (!(o.plan[k].z > 0.0))
            refuse(fmt::format("half width {} is not above 0.", k + 1), "plan", "Give it in metres.");
        if (k > 0 && !(o.plan[k].x > o.plan[k - 1].x))
            refuse(fmt::format("place {} is not behind the one before it.", k + 1), "plan",
                   "Give places from nose to tail.");
    }
}

void checkWheels(const Outline& o) {
    const Box body = bodyBox(o);
    for (const auto& w : o.wheels) {
        if (!(w.radius > 0.0) || !(w.width > 0.0)) refuse("has no radius or no width.", w.name, "Give both in metres.");
        if (!(w.edge >= 0.0) || w.edge >= 0.5 * w.width || w.edge >= w.radius)
            refuse("has an edge that is rounder than it is wide.", w.name, "Make the edge's radius smaller.");
        if (w.x + w.radius < body.low.x() || w.x - w.radius > body.high.x())
            refuse(fmt::format("stands at x {:.3g} m, beside the body.", w.x), w.name, "Move it under the body.");
        if (body.low.z() <= 0.0)
            refuse("is in the middle of the body, which lies on the ground.", w.name, "Raise the clearance.");
        if (0.5 * w.track > body.high.y() + w.width)
            refuse(fmt::format("stands {:.3g} m aside, off the body.", 0.5 * w.track), w.name,
                   "Make the track narrower.");
    }
}

void checkPlates(const Outline& o) {
    for (const auto& p : o.plates) {
        if (!(p.length > 0.0) || !(p.width > 0.0) || !(p.height > 0.0))
            refuse("has no length, width or thickness.", p.name, "Give all three in metres.");
        if (!(p.edge >= 0.0) || 2.0 * p.edge >= std::min({p.length, p.width, p.height}))
            refuse("has edges that are rounder than it is thick.", p.name, "Make the edge's radius smaller.");
        if (std::abs(p.angle_deg) > 89.0) refuse("is turned by more than 89 degrees.", p.name, "Turn it less.");
    }
}
}  // namespace

void check(const Outline& o) {
    if (!(o.edge >= 0.0) || !(o.clearance >= 0.0))
        refuse("edge and clearance must not be below 0.", "outline", "Give them in metres.");
    if (o.diffuser_deg < 0.0 || o.diffuser_deg > 45.0 || o.diffuserLength < 0.0)
        refuse("the diffuser has 0 to 45 degrees and a length of 0 or more.", "outline", "Change it.");
    checkProfile(o);
    checkPlan(o);
    checkWheels(o);
    checkPlates(o);
    std::set<std::string> names{"body"};
    for (const auto& w : o.wheels)
        if (w.name.empty() || !names.insert(w.name).second)
            refuse("a wheel has no name of its own.", w.name.empty() ? "wheels" : w.name, "Give it another.");
    for (const auto& p : o.plates)
        if (p.name.empty() || !names.insert(p.name).second)
            refuse("a plate has no name of its own.", p.name.empty() ? "plates" : p.name, "Give it another.");
}

Outline startingOutline() {
    Outline o;
    o.name = "sketch";
    o.profile = {{0.0, 0.0, 0.08}, {0.0, 0.55, 0.15}, {0.75, 0.8, 0.2}, {1.35, 1.45, 0.35},
                 {3.6, 1.5, 0.12}, {3.75, 0.9, 0.1},  {3.75, 0.0, 0.05}};
    o.plan = {{0.0, 0.6, 0.0}, {0.35, 0.8, 0.5}, {3.3, 0.8, 0.8}, {3.75, 0.74, 0.0}};
    o.clearance = 0.18;
    o.edge = 0.07;
    o.diffuserLength = 0.6;
    o.diffuser_deg = 7.0;
    o.wheels = {{"front wheel", 0.7, 0.29, 0.19, 1.4, 0.03}, {"rear wheel", 3.0, 0.29, 0.19, 1.4, 0.03}};
    return o;
}

namespace {
using nlohmann::json;

/// A field's name without its unit, and the unit.
std::pair<std::string, std::string> wordsOf(std::string key) {
    std::string unit;
    for (const auto& [end, shown] : {std::pair{"_m", " m"}, std::pair{"_deg", "\u00b0"}})
        if (key.ends_with(end)) {
            unit = shown;
            key.resize(key.size() - std::string_view(end).size());
        }
    std::replace(key.begin(), key.end(), '_', ' ');
    return {key, unit};
}

std::string valueOf(const json& v) {
    if (v.is_number()) return fmt::format("{:.5g}", v.get<double>());
    if (v.is_boolean()) return v.get<bool>() ? "yes" : "no";
    return v.is_string() ? v.get<std::string>() : v.dump();
}

void addDifferences(const json& a, const json& b, const std::string& where, std::vector<std::string>& out) {
    for (const auto& [key, from] : a.items()) {
        const auto& to = b.at(key);
        if (from == to) continue;
        const auto [name, unit] = wordsOf(key);
        const std::string words = where.empty() ? name : fmt::format("{}: {}", where, name);
        if (from.is_array() && !from.empty() && from.front().is_number()) {
            const char* axes[] = {"x", "y", "z"};
            for (std::size_t k = 0; k < 3; ++k)
                if (from[k] != to[k])
                    out.push_back(fmt::format("{} {} {} \u2192 {}{} ({:+.4g})", words, axes[k], valueOf(from[k]),
                                              valueOf(to[k]), unit, to[k].get<double>() - from[k].get<double>()));
        } else if (from.is_number()) {
            out.push_back(fmt::format("{} {} \u2192 {}{} ({:+.4g})", words, valueOf(from), valueOf(to), unit,
                                      to.get<double>() - from.get<double>()));
        } else {
            out.push_back(fmt::format("{} {} \u2192 {}", words, valueOf(from), valueOf(to)));
        }
    }
}

/// Of lists whose members have a name each, by which they are found again.
void addNamed(const json& a, const json& b, const char* kind, std::vector<std::string>& out) {
    const auto named = [](const json& list, const json& name) -> const json* {
        for (const auto& e : list)
            if (e.at("name") == name) return &e;
        return nullptr;
    };
    for (const auto& e : a)
        if (const json* other = named(b, e.at("name")))
            addDifferences(e, *other, valueOf(e.at("name")), out);
        else
            out.push_back(fmt::format("{} {} is not there", kind, valueOf(e.at("name"))));
    for (const auto& e : b)
        if (!named(a, e.at("name"))) out.push_back(fmt::format("{} {} is new", kind, valueOf(e.at("name"))));
}
}  // namespace

std::vector<std::string> differences(const Outline& from, const Outline& to) {
    std::vector<std::string> out;
    json a = toJson(from), b = toJson(to);
    for (const auto& [list, words] : {std::pair{"profile", "side view"}, std::pair{"plan", "plan"}}) {
        if (a[list].size() != b[list].size()) {
            out.push_back(fmt::format("{}: {} \u2192 {} corners", words, a[list].size(), b[list].size()));
        } else {
            for (std::size_t k = 0; k < a[list].size(); ++k)
                addDifferences(a[list][k], b[list][k], fmt::format("{}, corner {}", words, k + 1), out);
        }
    }
    addNamed(a["wheels"], b["wheels"], "wheel", out);
    addNamed(a["plates"], b["plates"], "plate", out);
    for (const char* list : {"profile", "plan", "wheels", "plates"}) {
        a.erase(list);
        b.erase(list);
    }
    addDifferences(a, b, "", out);
    return out;
}

}  // namespace cvane::vehicle
