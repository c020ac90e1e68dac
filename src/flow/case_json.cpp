#include "flow/case_json.h"

#include <algorithm>
#include <array>
#include <string_view>
#include <type_traits>

#include "base/errors.h"
#include "base/units.h"

namespace cvane::flow {
using nlohmann::json;

namespace {

// Words of enumerations, in the order of their values.
template <class E>
struct Words;
template <>
struct Words<Model> {
    static constexpr std::array all{"k-omega SST", "Spalart-Allmaras", "realisable k-epsilon", "laminar", "inviscid"};
};
template <>
struct Words<Limiter> {
    static constexpr std::array all{"poor cells", "all cells", "none"};
};
template <>
struct Words<Precision> {
    static constexpr std::array all{"double", "mixed"};
};
template <>
struct Words<Compressible> {
    static constexpr std::array all{"by Mach number", "always", "never"};
};
template <>
struct Words<grid::Floor> {
    static constexpr std::array all{"none", "fixed", "moving"};
};
template <>
struct Words<grid::LayerFrom> {
    static constexpr std::array all{"inlet", "ahead", "model"};
};

/// Radians that a file has in degrees.
struct Angle {
    double& radians;
};

// What a file's object holds, one line a field, for writing and reading alike.
template <class Visit>
void forEachField(Visit& v, grid::Tunnel& t) {
    v("upstream_lengths", t.upstream);
    v("downstream_lengths", t.downstream);
    v("sideways_lengths", t.sideways);
    v("above_lengths", t.above);
    v("below_lengths", t.below);
    v("ground", t.floor);
    v("ride_height_m", t.rideHeight);
    v("half_model", t.halfModel);
    v("mirrored", t.mirrored);
    v("closed", t.closed);
    v("ground_layer", t.groundLayer);
    v("ground_layer_ahead_lengths", t.groundLayerAhead);
}
template <class Visit>
void forEachField(Visit& v, FlowSettings& s) {
    v("model", s.model);
    v("turbulence_intensity", s.turbulenceIntensity);
    v("turbulence_length_m", s.turbulenceLength);
    v("most_iterations", s.mostIterations);
    v("least_iterations", s.leastIterations);
    v("tolerance_CD_relative", s.toleranceCD);
    v("tolerance_CL", s.toleranceCL);
    v("checkpoint_seconds", s.checkpointSeconds);
    v("relaxation", s.relaxation);
    v("second_order", s.secondOrder);
    v("compressible", s.compressible);
    v("limiter", s.limiter);
    v("precision", s.precision);
    v("coarse_first", s.coarseFirst);
}
template <class Visit>
void forEachField(Visit& v, air::FreeStream& w) {
    v("speed_m_s", w.speed);
    v("alpha_deg", Angle{w.alpha});
    v("beta_deg", Angle{w.beta});
    v("temperature_K", w.air.temperature);
    v("pressure_Pa", w.air.pressure);
    v("density_kg_m3", w.air.density);
    v("viscosity_Pa_s", w.air.viscosity);
    v("sound_speed_m_s", w.air.soundSpeed);
    v("sutherland_K", w.air.sutherland);
    v("prandtl", w.air.prandtl);
    v("liquid", w.air.isLiquid);
}
template <class Visit>
void forEachField(Visit& v, air::Reference& r) {
    v("area_m2", r.area);
    v("length_m", r.length);
    v("span_m", r.span);
    v("moment_centre_m", r.momentCentre);
}
template <class Visit>
void forEachField(Visit& v, MovingPart& m) {
    v("part", m.part);
    v("velocity_m_s", m.velocity);
    v("spin_rad_s", m.spin);
    v("centre_m", m.centre);
}
template <class Visit>
void forEachField(Visit& v, RoughPart& r) {
    v("part", r.part);
    v("sand_grain_m", r.sandGrain);
}
template <class Visit>
void forEachField(Visit& v, Disc& d) {
    v("name", d.name);
    v("centre_m", d.centre);
    v("axis", d.axis);
    v("inner_m", d.inner);
    v("outer_m", d.outer);
    v("thrust_N", d.thrust);
    v("power_W", d.power);
    v("rpm", d.rpm);
}
template <class Visit>
void forEachField(Visit& v, PorousBlock& b) {
    v("name", b.name);
    v("from_m", b.from);
    v("to_m", b.to);
    v("axis", b.axis);
    v("linear_1_m2", b.linear);
    v("quadratic_1_m", b.quadratic);
    v("across", b.across);
}
template <class Visit>
void forEachField(Visit& v, Case& c) {
    v("wind", c.wind);
    v("tunnel", c.tunnel);
    v("reference", c.reference);
    v("solution", c.settings);
    v("compressible", c.compressible);
    v("ground_layer_from_m", c.groundLayerFrom);
    v("moving", c.moving);
    v("rough", c.rough);
    v("discs", c.discs);
    v("blocks", c.blocks);
    v("vortex_at_m", c.vortexAt);
}

template <class T>
json written(T& value);
template <class T>
json written(std::vector<T>& list);
template <class T>
json written(std::optional<T>& value);

struct Writer {
    json out = json::object();
    template <class T>
    void operator()(const char* name, T& value) {
        out[name] = written(value);
    }
    void operator()(const char* name, Angle a) { out[name] = a.radians / base::degree; }
};

template <class T>
json written(std::vector<T>& list) {
    json out = json::array();
    for (T& v : list) out.push_back(written(v));
    return out;
}
template <class T>
json written(std::optional<T>& value) {
    return value ? written(*value) : json(nullptr);
}
template <class T>
json written(T& value) {
    if constexpr (std::is_enum_v<T>) {
        return Words<T>::all[static_cast<std::size_t>(value)];
    } else if constexpr (std::is_same_v<T, Vec3>) {
        return {value.x(), value.y(), value.z()};
    } else if constexpr (std::is_arithmetic_v<T> || std::is_same_v<T, std::string>) {
        return value;
    } else {
        Writer w;
        forEachField(w, value);
        return w.out;
    }
}

template <class T>
void read(const json& j, T& value);
template <class T>
void read(const json& j, std::vector<T>& list);
template <class T>
void read(const json& j, std::optional<T>& value);

struct Reader {
    const json& in;
    template <class T>
    void operator()(const char* name, T& value) {
        if (const auto it = in.find(name); it != in.end()) read(*it, value);
    }
    void operator()(const char* name, Angle a) {
        if (const auto it = in.find(name); it != in.end()) a.radians = it->get<double>() * base::degree;
    }
};

template <class T>
void read(const json& j, std::vector<T>& list) {
    list.clear();
    for (const json& one : j) read(one, list.emplace_back());
}
template <class T>
void read(const json& j, std::optional<T>& value) {
    value.reset();
    if (!j.is_null()) read(j, value.emplace());
}
template <class T>
void read(const json& j, T& value) {
    if constexpr (std::is_enum_v<T>) {
        const auto word = j.get<std::string>();
        const auto& all = Words<T>::all;
        const auto it = std::find(all.begin(), all.end(), std::string_view(word));
        if (it == all.end())
            throw base::InputError("has the word \"" + word + "\", which this version does not know.", "case",
                                   "Open it with the version that wrote it.");
        value = static_cast<T>(it - all.begin());
    } else if constexpr (std::is_same_v<T, Vec3>) {
        value = Vec3(j.at(0).get<double>(), j.at(1).get<double>(), j.at(2).get<double>());
    } else if constexpr (std::is_arithmetic_v<T> || std::is_same_v<T, std::string>) {
        value = j.get<T>();
    } else {
        Reader r{j};
        forEachField(r, value);
    }
}
}  // namespace

json toJson(const Case& c) {
    Case copy = c;  // the fields are visited in one way for writing and reading
    return written(copy);
}

Case caseFromJson(const json& j) {
    Case c;
    read(j, c);
    return c;
}

}  // namespace cvane::flow
