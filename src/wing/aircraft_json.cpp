#include "wing/aircraft_json.h"

#include <fmt/format.h>

#include <algorithm>
#include <array>

#include "base/errors.h"
#include "base/files.h"
#include "base/text.h"

namespace cvane::wing {
using nlohmann::json;

namespace {
constexpr int kSchema = 1;
constexpr std::array<std::pair<Spacing, const char*>, 4> kSpacings{{{Spacing::Equal, "equal"},
                                                                    {Spacing::BothEnds, "both_ends"},
                                                                    {Spacing::Inner, "inner"},
                                                                    {Spacing::Outer, "outer"}}};

/// Reads the fields of one object, and knows which it has been asked for.
class Fields {
  public:
    Fields(const json& j, std::string where) : j_(j), where_(std::move(where)) {
        if (!j.is_object()) fail("is no object with names.");
    }
    template <class T>
    void operator()(const char* name, T& to) {
        if (const json* j = at(name)) take(name, *j, to);
    }
    /// @param each  (json, where): reads one entry of a list
    template <class Each>
    void list(const char* name, Each&& each) {
        const json* j = at(name);
        if (!j) return;
        if (!j->is_array()) fail(fmt::format("\"{}\" is no list.", name));
        int n = 0;
        for (const auto& entry : *j) each(entry, fmt::format("{}, {} {}", where_, name, ++n));
    }
    const json* at(const char* name) {
        asked_.emplace_back(name);
        const auto it = j_.find(name);
        return it == j_.end() ? nullptr : &*it;
    }
    /// Throws InputError: there is a field that nobody has asked for.
    void done() const {
        for (const auto& [name, value] : j_.items())
            if (std::find(asked_.begin(), asked_.end(), name) == asked_.end())
                fail(fmt::format("\"{}\" is not known.", base::printable(name)));
    }
    [[noreturn]] void fail(const std::string& what) const {
        throw base::InputError(what, where_, "Correct it; docs/files.md says what an aircraft's file holds.");
    }

  private:
    void take(const char* name, const json& j, double& to) const {
        if (!j.is_number()) fail(fmt::format("\"{}\" is no number.", name));
        to = j.get<double>();
    }
    void take(const char* name, const json& j, int& to) const {
        if (!j.is_number_integer() || j.get<double>() < -1e9 || j.get<double>() > 1e9)
            fail(fmt::format("\"{}\" is no whole number.", name));
        to = j.get<int>();
    }
    void take(const char* name, const json& j, bool& to) const {
        if (!j.is_boolean()) fail(fmt::format("\"{}\" is neither true nor false.", name));
        to = j.get<bool>();
    }
    void take(const char* name, const json& j, std::string& to) const {
        if (!j.is_string()) fail(fmt::format("\"{}\" is no text.", name));
        to = j.get<std::string>();
    }
    void take(const char* name, const json& j, Vec3& to) const {
        if (!j.is_array() || j.size() != 3 ||
            !std::all_of(j.begin(), j.end(), [](const json& v) { return v.is_number(); }))
            fail(fmt::format("\"{}\" is no list of three numbers.", name));
        to = Vec3(j[0].get<double>(), j[1].get<double>(), j[2].get<double>());
    }
    void take(const char* name, const json& j, Spacing& to) const {
        for (const auto& [spacing, word] : kSpacings)
            if (j == word) {
                to = spacing;
                return;
            }
        fail(fmt::format("\"{}\" is none of equal, both_ends, inner, outer.", name));
    }
    const json& j_;
    std::string where_;
    std::vector<std::string> asked_;
};

/// The same names for writing.
class Names {
  public:
    template <class T>
    void operator()(const char* name, T& v) {
        if constexpr (std::is_same_v<T, Vec3>)
            out[name] = {v.x(), v.y(), v.z()};
        else if constexpr (std::is_same_v<T, Spacing>)
            out[name] =
                std::find_if(kSpacings.begin(), kSpacings.end(), [&](const auto& s) { return s.first == v; })->second;
        else
            out[name] = v;
    }
    json out = json::object();
};

// What each of them is made of, for reading and writing alike.
template <class Visit>
void each(Visit& v, Station& s) {
    v("along_span_m", s.along);
    v("leading_edge_m", s.leading);
    v("chord_m", s.chord);
    v("twist_deg", s.twist_deg);
    v("section", s.section);
    v("dihedral_deg", s.dihedral_deg);
    v("strips", s.strips);
    v("spacing", s.spacing);
}
template <class Visit>
void each(Visit& v, Control& c) {
    v("name", c.name);
    v("from_m", c.from);
    v("to_m", c.to);
    v("hinge_chords", c.hinge);
    v("angle_deg", c.angle_deg);
    v("against", c.against);
}
template <class Visit>
void each(Visit& v, LiftingSurface& s) {
    v("name", s.name);
    v("place_m", s.place);
    v("incidence_deg", s.incidence_deg);
    v("roll_deg", s.roll_deg);
    v("mirrored", s.mirrored);
    v("rows", s.rows);
    v("row_spacing", s.rowSpacing);
    v("round_tip", s.roundTip);
}
template <class Visit>
void each(Visit& v, BodyStation& s) {
    v("x_m", s.x);
    v("z_m", s.z);
    v("width_m", s.width);
    v("height_m", s.height);
    v("power", s.power);
}
template <class Visit>
void each(Visit& v, Body& b) {
    v("name", b.name);
    v("place_m", b.place);
    v("mirrored", b.mirrored);
}
template <class Visit>
void each(Visit& v, Propeller& p) {
    v("name", p.name);
    v("place_m", p.centre);
    v("axis", p.axis);
    v("diameter_m", p.diameter);
    v("hub_m", p.hub);
    v("thrust_N", p.thrust);
    v("rpm", p.rpm);
    v("mirrored", p.mirrored);
}
template <class Visit>
void each(Visit& v, Aircraft& a) {
    v("name", a.name);
    v("mass_kg", a.mass);
    v("centre_of_gravity_m", a.centreOfGravity);
}

template <class T>
json written(T v) {
    Names names;
    each(names, v);
    return names.out;
}
template <class T>
json listOf(const std::vector<T>& all) {
    json out = json::array();
    for (const T& v : all) out.push_back(written(v));
    return out;
}
template <class T>
T readOne(const json& j, const std::string& where) {
    T v;
    Fields in(j, where);
    each(in, v);
    in.done();
    return v;
}

section::Contour outlineFrom(const json& j, const std::string& name, const std::string& where) {
    section::Contour c{name, {}};
    const auto isPoint = [](const json& p) {
        return p.is_array() && p.size() == 2 && p[0].is_number() && p[1].is_number();
    };
    if (!j.is_array() || j.size() < 5 || !std::all_of(j.begin(), j.end(), isPoint))
        throw base::InputError("is no list of five or more pairs of numbers.", where,
                               "Give x/c and z/c from the trailing edge over the upper side and back.");
    for (const auto& p : j) c.points.emplace_back(p[0].get<double>(), p[1].get<double>());
    section::onUnitChord(c);  // refuses what has no chord
    return c;
}
}  // namespace

json toJson(const Aircraft& a) {
    json j = written(a);
    j["schema"] = kSchema;
    j["kind"] = "aircraft";
    j["surfaces"] = json::array();
    for (const auto& s : a.surfaces) {
        json one = written(s);
        one["stations"] = listOf(s.stations);
        one["controls"] = listOf(s.controls);
        j["surfaces"].push_back(one);
    }
    j["bodies"] = json::array();
    for (const auto& b : a.bodies) {
        json one = written(b);
        one["frames"] = listOf(b.stations);
        j["bodies"].push_back(one);
    }
    if (!a.propellers.empty()) j["propellers"] = listOf(a.propellers);
    j["sections"] = json::object();
    for (const auto& [name, outline] : a.sections) {
        json& points = j["sections"][name] = json::array();
        for (const auto& p : outline.points) points.push_back({p.x(), p.y()});
    }
    return j;
}

Aircraft aircraftFrom(const json& j, const std::string& where) {
    Fields in(j, where);
    int schema = kSchema;
    std::string kind = "aircraft";
    in("schema", schema);
    in("kind", kind);
    if (schema > kSchema)
        throw base::InputError("was written by a newer version.", where, "Open it with that version.");
    if (kind != "aircraft") in.fail(fmt::format("is of the kind \"{}\", no aircraft.", base::printable(kind)));
    Aircraft a;
    each(in, a);
    in.list("surfaces", [&](const json& one, const std::string& at) {
        LiftingSurface s;
        Fields f(one, at);
        each(f, s);
        f.list("stations", [&](const json& t, const std::string& w) { s.stations.push_back(readOne<Station>(t, w)); });
        f.list("controls", [&](const json& t, const std::string& w) { s.controls.push_back(readOne<Control>(t, w)); });
        f.done();
        a.surfaces.push_back(std::move(s));
    });
    in.list("bodies", [&](const json& one, const std::string& at) {
        Body b;
        Fields f(one, at);
        each(f, b);
        f.list("frames",
               [&](const json& t, const std::string& w) { b.stations.push_back(readOne<BodyStation>(t, w)); });
        f.done();
        a.bodies.push_back(std::move(b));
    });
    in.list("propellers",
            [&](const json& one, const std::string& at) { a.propellers.push_back(readOne<Propeller>(one, at)); });
    if (const json* own = in.at("sections")) {
        if (!own->is_object()) in.fail("\"sections\" is no object with names.");
        for (const auto& [name, points] : own->items())
            a.sections[name] =
                outlineFrom(points, name, fmt::format("{}, section \"{}\"", where, base::printable(name)));
    }
    in.done();
    check(a);
    return a;
}

Aircraft readAircraft(const std::filesystem::path& file) {
    return aircraftFrom(base::readJson(file), file.filename().string());
}

void writeAircraft(const Aircraft& a, const std::filesystem::path& file) {
    base::replaceFile(file, toJson(a).dump(2) + "\n");
}

}  // namespace cvane::wing
