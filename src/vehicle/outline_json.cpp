#include "vehicle/outline_json.h"

#include <fmt/format.h>

#include <set>

#include "base/errors.h"
#include "base/files.h"
#include "vehicle/body_skin.h"

namespace cvane::vehicle {
using nlohmann::json;

namespace {
constexpr int kSchema = 1;
constexpr int kSkinVersion = 1;  // raised whenever the same numbers give another surface

json cornersJson(const std::vector<Corner>& corners, const char* second) {
    json list = json::array();
    for (const auto& c : corners) list.push_back({{"x_m", c.x}, {second, c.z}, {"radius_m", c.radius}});
    return list;
}

/// Takes fields out of an object and refuses what is left over.
class Fields {
  public:
    Fields(const json& j, std::string where) : j_(j), where_(std::move(where)) {
        if (!j.is_object()) throw base::InputError("is no group of fields.", where_, "Correct the file.");
        for (const auto& [key, value] : j.items()) left_.insert(key);
    }
    template <class Value>
    void take(const char* name, Value& into) {
        if (left_.erase(name) == 0) return;
        try {
            into = j_.at(name).get<Value>();
        } catch (const json::exception&) {
            throw base::InputError(fmt::format("the field \"{}\" is of another kind.", name), where_,
                                   "Correct the file.");
        }
    }
    void take(const char* name, Vec3& into) {
        std::vector<double> v{into.x(), into.y(), into.z()};
        take(name, v);
        if (v.size() != 3)
            throw base::InputError(fmt::format("the field \"{}\" is not three numbers.", name), where_,
                                   "Correct the file.");
        into = Vec3(v[0], v[1], v[2]);
    }
    json list(const char* name) {
        json out = json::array();
        take(name, out);
        if (!out.is_array())
            throw base::InputError(fmt::format("the field \"{}\" is no list.", name), where_, "Correct the file.");
        return out;
    }
    void done() const {
        if (!left_.empty())
            throw base::InputError(fmt::format("the field \"{}\" is unknown.", *left_.begin()), where_, "Take it out.");
    }

  private:
    const json& j_;
    std::string where_;
    std::set<std::string> left_;
};

std::vector<Corner> cornersFrom(const json& list, const char* second, const std::string& where) {
    std::vector<Corner> out;
    for (const auto& c : list) {
        Fields f(c, fmt::format("{}, corner {}", where, out.size() + 1));
        Corner corner;
        f.take("x_m", corner.x);
        f.take(second, corner.z);
        f.take("radius_m", corner.radius);
        f.done();
        out.push_back(corner);
    }
    return out;
}
}  // namespace

json toJson(const Outline& o) {
    json j{{"schema", kSchema},
           {"name", o.name},
           {"profile", cornersJson(o.profile, "z_m")},
           {"plan", cornersJson(o.plan, "half_width_m")},
           {"clearance_m", o.clearance},
           {"edge_radius_m", o.edge},
           {"diffuser_length_m", o.diffuserLength},
           {"diffuser_deg", o.diffuser_deg},
           {"wheels", json::array()},
           {"plates", json::array()}};
    for (const auto& w : o.wheels)
        j["wheels"].push_back({{"name", w.name},
                               {"x_m", w.x},
                               {"radius_m", w.radius},
                               {"width_m", w.width},
                               {"track_m", w.track},
                               {"edge_radius_m", w.edge}});
    for (const auto& p : o.plates)
        j["plates"].push_back({{"name", p.name},
                               {"middle_m", {p.middle.x(), p.middle.y(), p.middle.z()}},
                               {"length_m", p.length},
                               {"width_m", p.width},
                               {"height_m", p.height},
                               {"angle_deg", p.angle_deg},
                               {"edge_radius_m", p.edge},
                               {"mirrored", p.mirrored}});
    return j;
}

Outline outlineFrom(const json& j, const std::string& where) {
    Outline o;
    Fields f(j, where);
    int schema = kSchema;
    f.take("schema", schema);
    if (schema > kSchema) throw base::InputError("was written by a newer version.", where, "Use that version.");
    f.take("name", o.name);
    o.profile = cornersFrom(f.list("profile"), "z_m", where + ", profile");
    o.plan = cornersFrom(f.list("plan"), "half_width_m", where + ", plan");
    f.take("clearance_m", o.clearance);
    f.take("edge_radius_m", o.edge);
    f.take("diffuser_length_m", o.diffuserLength);
    f.take("diffuser_deg", o.diffuser_deg);
    for (const auto& item : f.list("wheels")) {
        Fields g(item, where + ", wheels");
        Wheel w;
        g.take("name", w.name);
        g.take("x_m", w.x);
        g.take("radius_m", w.radius);
        g.take("width_m", w.width);
        g.take("track_m", w.track);
        g.take("edge_radius_m", w.edge);
        g.done();
        o.wheels.push_back(w);
    }
    for (const auto& item : f.list("plates")) {
        Fields g(item, where + ", plates");
        Plate p;
        g.take("name", p.name);
        g.take("middle_m", p.middle);
        g.take("length_m", p.length);
        g.take("width_m", p.width);
        g.take("height_m", p.height);
        g.take("angle_deg", p.angle_deg);
        g.take("edge_radius_m", p.edge);
        g.take("mirrored", p.mirrored);
        g.done();
        o.plates.push_back(p);
    }
    f.done();
    check(o);
    return o;
}

Outline readOutline(const std::filesystem::path& file) {
    return outlineFrom(base::readJson(file), file.filename().string());
}

std::string OutlineSource::sum() const {
    auto j = toJson(outline_);
    j.erase("name");
    j["skin"] = kSkinVersion;
    return shape::sumOf(j);
}

shape::Surface OutlineSource::surface() const {
    return skinOf(outline_);
}

}  // namespace cvane::vehicle
