#include <fmt/format.h>

#include <cmath>

#include "base/errors.h"
#include "campaign/campaign.h"

namespace cvane::campaign {
namespace {
using nlohmann::json;
constexpr int kSchema = 1;

json vec(const Vec3& v) { return {v.x(), v.y(), v.z()}; }

template <class E>
struct Word {
    E value;
    const char* name;
};
constexpr Word<AreaFrom> kAreas[] = {{AreaFrom::Frontal, "frontal"}, {AreaFrom::Side, "side"}, {AreaFrom::Planform, "planform"}, {AreaFrom::Typed, "typed"}};
constexpr Word<grid::Floor> kFloors[] = {{grid::Floor::None, "none"}, {grid::Floor::Fixed, "fixed"}, {grid::Floor::Moving, "moving"}};
constexpr Word<grid::LayerFrom> kLayerFrom[] = {{grid::LayerFrom::Inlet, "from the inlet"}, {grid::LayerFrom::Ahead, "from ahead of the model"}, {grid::LayerFrom::Model, "from the model"}};
constexpr Word<flow::Model> kModels[] = {{flow::Model::Sst, "k-omega SST"}, {flow::Model::SpalartAllmaras, "Spalart-Allmaras"}, {flow::Model::KEpsilon, "realisable k-epsilon"},
                                          {flow::Model::Laminar, "laminar"}, {flow::Model::Inviscid, "inviscid"}};
constexpr Word<flow::Limiter> kLimiters[] = {{flow::Limiter::PoorCells, "poor cells"}, {flow::Limiter::AllCells, "all cells"}, {flow::Limiter::None, "none"}};
constexpr Word<flow::Precision> kPrecisions[] = {{flow::Precision::Double, "double"}, {flow::Precision::Mixed, "mixed"}};

template <class E, std::size_t n>
const char* nameIn(const Word<E> (&words)[n], E value) {
    for (const auto& w : words)
        if (w.value == value) return w.name;
    return "";
}

/// Reads one group; every complaint names the file and the field.
class Group {
  public:
    Group(const json& j, std::string name, std::string where) : j_(j), name_(std::move(name)), where_(std::move(where)) {
        if (!j_.is_object()) fail("", "is not a group of fields");
    }
    Group group(const char* key) const {
        static const json empty = json::object();
        return {j_.contains(key) ? j_.at(key) : empty, path(key), where_};
    }
    void read(const char* key, double& v) const {
        if (!j_.contains(key)) return;
        if (!j_.at(key).is_number() || !std::isfinite(j_.at(key).get<double>())) fail(key, "is not a number");
        v = j_.at(key).get<double>();
    }
    void read(const char* key, int& v) const {
        if (!j_.contains(key)) return;
        if (!j_.at(key).is_number_integer()) fail(key, "is not a whole number");
        v = j_.at(key).get<int>();
    }
    void read(const char* key, bool& v) const {
        if (!j_.contains(key)) return;
        if (!j_.at(key).is_boolean()) fail(key, "is neither true nor false");
        v = j_.at(key).get<bool>();
    }
    void read(const char* key, std::string& v) const {
        if (!j_.contains(key)) return;
        if (!j_.at(key).is_string()) fail(key, "is not a text");
        v = j_.at(key).get<std::string>();
    }
    void read(const char* key, Vec3& v) const {
        if (!j_.contains(key)) return;
        std::vector<double> list;
        read(key, list);
        if (list.size() != 3) fail(key, "does not have three numbers");
        v = Vec3(list[0], list[1], list[2]);
    }
    void read(const char* key, std::vector<double>& v) const {
        if (!j_.contains(key)) return;
        if (!j_.at(key).is_array()) fail(key, "is not a list");
        std::vector<double> list;
        for (const auto& e : j_.at(key)) {
            if (!e.is_number() || !std::isfinite(e.get<double>())) fail(key, "holds something that is not a number");
            list.push_back(e.get<double>());
        }
        v = list;
    }
    template <class T>
    void read(const char* key, std::optional<T>& v) const {
        if (!j_.contains(key) || j_.at(key).is_null()) return;
        T value{};
        read(key, value);
        v = value;
    }
    template <class E, std::size_t n>
    void read(const char* key, E& v, const Word<E> (&words)[n]) const {
        std::string text = nameIn(words, v);
        read(key, text);
        std::string known;
        for (const auto& w : words) {
            if (text == w.name) {
                v = w.value;
                return;
            }
            known += std::string(known.empty() ? "" : ", ") + w.name;
        }
        fail(key, "is none of: " + known);
    }
    /// Calls `visit` with each entry of a list of groups.
    template <class Visit>
    void forEach(const char* key, Visit&& visit) const {
        if (!j_.contains(key)) return;
        if (!j_.at(key).is_array()) fail(key, "is not a list");
        for (const auto& e : j_.at(key)) visit(Group(e, path(key), where_));
    }
    [[noreturn]] void fail(const std::string& key, const std::string& what) const {
        throw base::InputError(fmt::format("the field \"{}\" {}.", path(key), what), where_, "Correct it, or restore the file from a copy.");
    }
    const json& raw() const { return j_; }

  private:
    std::string path(const std::string& key) const { return name_.empty() ? key : key.empty() ? name_ : name_ + "." + key; }
    const json& j_;
    std::string name_, where_;
};

constexpr Word<grid::FinerPlace::Shape> kShapes[] = {{grid::FinerPlace::Shape::Box, "box"}, {grid::FinerPlace::Shape::Ball, "ball"}, {grid::FinerPlace::Shape::Cylinder, "cylinder"}};

json placesJson(const std::vector<grid::FinerPlace>& places) {
    json out = json::array();
    for (const auto& p : places) out.push_back({{"shape", nameIn(kShapes, p.shape)}, {"from_m", vec(p.from)}, {"to_m", vec(p.to)}, {"radius_m", p.radius}, {"cell_m", p.cell}});
    return out;
}
json partsJson(const std::map<std::string, int>& parts) {
    json out = json::array();
    for (const auto& [name, levels] : parts) out.push_back({{"name", name}, {"levels", levels}});
    return out;
}

json devicesJson(const Devices& d) {
    json wheels = json::array(), rough = json::array(), discs = json::array(), blocks = json::array();
    for (const Wheel& w : d.wheels)
        wheels.push_back({{"part", w.part}, {"rolling", w.rolling}, {"rpm", w.rpm}, {"axis", w.axis ? vec(*w.axis) : json(nullptr)}, {"centre_m", w.centre ? vec(*w.centre) : json(nullptr)}});
    for (const auto& r : d.roughParts) rough.push_back({{"part", r.part}, {"sand_grain_m", r.sandGrain}});
    for (const auto& p : d.discs)
        discs.push_back({{"name", p.name}, {"centre_m", vec(p.centre)}, {"axis", vec(p.axis)}, {"inner_radius_m", p.inner}, {"outer_radius_m", p.outer}, {"thrust_N", p.thrust}, {"power_W", p.power}, {"rpm", p.rpm}});
    for (const auto& b : d.blocks)
        blocks.push_back({{"name", b.name}, {"from_m", vec(b.from)}, {"to_m", vec(b.to)}, {"axis", b.axis}, {"linear_1_m2", b.linear}, {"quadratic_1_m", b.quadratic}, {"across", b.across}});
    return {{"wheels", wheels}, {"rough_parts", rough}, {"discs", discs}, {"porous_blocks", blocks}};
}

json orNull(const std::optional<double>& v) { return v ? json(*v) : json(nullptr); }

}  // namespace

json toJson(const Settings& s) {
    json parts = json::array();
    for (const auto& p : s.model.parts) parts.push_back({{"name", p.name}, {"in_the_air", p.inTheAir}});
    return {
        {"schema", kSchema},
        {"name", s.name},
        {"model", {{"file", s.model.file}, {"unit", s.model.unit}, {"parts", parts}, {"rotation_deg", vec(s.model.placement.rotation_deg)}, {"shift_m", vec(s.model.placement.shift)}}},
        {"reference",
         {{"area_from", nameIn(kAreas, s.reference.areaFrom)},
          {"typed_area_m2", s.reference.typedArea},
          {"length_m", orNull(s.reference.length)},
          {"span_m", orNull(s.reference.span)},
          {"moment_centre_m", s.reference.momentCentre ? vec(*s.reference.momentCentre) : json(nullptr)}}},
        {"air", {{"altitude_m", s.air.altitude}, {"temperature_offset_K", s.air.temperatureOffset}}},
        {"tunnel",
         {{"upstream_lengths", s.tunnel.upstream},
          {"downstream_lengths", s.tunnel.downstream},
          {"sideways_lengths", s.tunnel.sideways},
          {"above_lengths", s.tunnel.above},
          {"below_lengths", s.tunnel.below},
          {"ground", nameIn(kFloors, s.tunnel.floor)},
          {"ground_layer", nameIn(kLayerFrom, s.tunnel.groundLayer)},
          {"ground_layer_ahead_lengths", s.tunnel.groundLayerAhead},
          {"ride_height_m", s.tunnel.rideHeight},
          {"half_model", s.tunnel.halfModel},
          {"closed", s.tunnel.closed}}},
        {"grid",
         {{"cell_budget", s.grid.cellBudget},
          {"layers", s.grid.layers},
          {"layer_growth", s.grid.layerGrowth},
          {"first_height_m", s.grid.firstHeight},
          {"target_y_plus", s.targetYPlus},
          {"curvature_levels", s.grid.curvatureLevels},
          {"turn_angle_deg", s.grid.turnAngle_deg},
          {"buffer_cells", s.grid.bufferCells},
          {"gap_levels", s.grid.gapLevels},
          {"leave_gaps_filled", s.leaveGapsFilled},
          {"wake_lengths", s.grid.wakeLength},
          {"wake_alpha_deg", s.wakeAlpha_deg},
          {"wake_beta_deg", s.wakeBeta_deg},
          {"stretch", vec(s.grid.stretch)},
          {"close_leaks_up_to_m", s.grid.sealWidth},
          {"sharp_angle_deg", s.grid.sharpAngle_deg},
          {"finer_places", placesJson(s.grid.finerPlaces)},
          {"finer_parts", partsJson(s.grid.finerParts)}}},
        {"flow",
         {{"model", nameIn(kModels, s.flow.model)},
          {"turbulence_intensity", s.flow.turbulenceIntensity},
          {"turbulence_length_m", s.flow.turbulenceLength},
          {"most_iterations", s.flow.mostIterations},
          {"least_iterations", s.flow.leastIterations},
          {"tolerance_CD_relative", s.flow.toleranceCD},
          {"tolerance_CL", s.flow.toleranceCL},
          {"checkpoint_seconds", s.flow.checkpointSeconds},
          {"relaxation", s.flow.relaxation},
          {"second_order", s.flow.secondOrder},
          {"limiter", nameIn(kLimiters, s.flow.limiter)},
          {"precision", nameIn(kPrecisions, s.flow.precision)},
          {"coarse_first", s.flow.coarseFirst}}},
        {"devices", devicesJson(s.devices)},
        {"schedule", {{"speeds_m_s", s.schedule.speeds}, {"alphas_deg", s.schedule.alphas_deg}, {"betas_deg", s.schedule.betas_deg}}},
        {"shown_units", {{"length", s.units.length}, {"speed", s.units.speed}, {"force", s.units.force}, {"area", s.units.area}}},
    };
}

Settings settingsFromJson(const json& j, const std::string& where) {
    const Group top(j, "", where);
    int schema = 0;
    top.read("schema", schema);
    if (schema == 0) throw base::InputError("is not a campaign file: it has no \"schema\".", where, "Choose a folder made by this program.");
    if (schema > kSchema)
        throw base::InputError(fmt::format("was written by a newer version (schema {}, this program knows {}).", schema, kSchema), where, "Open it with that version.");
    Settings s;
    top.read("name", s.name);
    const Group m = top.group("model");
    m.read("file", s.model.file);
    m.read("unit", s.model.unit);
    m.read("rotation_deg", s.model.placement.rotation_deg);
    m.read("shift_m", s.model.placement.shift);
    m.forEach("parts", [&](const Group& g) {
        shape::Part part;
        g.read("name", part.name);
        g.read("in_the_air", part.inTheAir);
        s.model.parts.push_back(part);
    });
    const Group r = top.group("reference");
    r.read("area_from", s.reference.areaFrom, kAreas);
    r.read("typed_area_m2", s.reference.typedArea);
    r.read("length_m", s.reference.length);
    r.read("span_m", s.reference.span);
    r.read("moment_centre_m", s.reference.momentCentre);
    const Group a = top.group("air");
    a.read("altitude_m", s.air.altitude);
    a.read("temperature_offset_K", s.air.temperatureOffset);
    const Group t = top.group("tunnel");
    t.read("upstream_lengths", s.tunnel.upstream);
    t.read("downstream_lengths", s.tunnel.downstream);
    t.read("sideways_lengths", s.tunnel.sideways);
    t.read("above_lengths", s.tunnel.above);
    t.read("below_lengths", s.tunnel.below);
    t.read("ground", s.tunnel.floor, kFloors);
    t.read("ground_layer", s.tunnel.groundLayer, kLayerFrom);
    t.read("ground_layer_ahead_lengths", s.tunnel.groundLayerAhead);
    t.read("ride_height_m", s.tunnel.rideHeight);
    t.read("half_model", s.tunnel.halfModel);
    t.read("closed", s.tunnel.closed);
    const Group g = top.group("grid");
    g.read("cell_budget", s.grid.cellBudget);
    g.read("layers", s.grid.layers);
    g.read("layer_growth", s.grid.layerGrowth);
    g.read("first_height_m", s.grid.firstHeight);
    g.read("target_y_plus", s.targetYPlus);
    g.read("curvature_levels", s.grid.curvatureLevels);
    g.read("turn_angle_deg", s.grid.turnAngle_deg);
    g.read("buffer_cells", s.grid.bufferCells);
    g.read("gap_levels", s.grid.gapLevels);
    g.read("leave_gaps_filled", s.leaveGapsFilled);
    g.read("wake_lengths", s.grid.wakeLength);
    g.read("wake_alpha_deg", s.wakeAlpha_deg);
    g.read("wake_beta_deg", s.wakeBeta_deg);
    g.read("stretch", s.grid.stretch);
    g.read("close_leaks_up_to_m", s.grid.sealWidth);
    g.read("sharp_angle_deg", s.grid.sharpAngle_deg);
    g.forEach("finer_places", [&](const Group& one) {
        grid::FinerPlace p;
        one.read("shape", p.shape, kShapes);
        one.read("from_m", p.from);
        one.read("to_m", p.to);
        one.read("radius_m", p.radius);
        one.read("cell_m", p.cell);
        s.grid.finerPlaces.push_back(p);
    });
    g.forEach("finer_parts", [&](const Group& one) {
        std::string name;
        int levels = 1;
        one.read("name", name);
        one.read("levels", levels);
        s.grid.finerParts[name] = levels;
    });
    const Group f = top.group("flow");
    f.read("model", s.flow.model, kModels);
    f.read("turbulence_intensity", s.flow.turbulenceIntensity);
    f.read("turbulence_length_m", s.flow.turbulenceLength);
    f.read("most_iterations", s.flow.mostIterations);
    f.read("least_iterations", s.flow.leastIterations);
    f.read("tolerance_CD_relative", s.flow.toleranceCD);
    f.read("tolerance_CL", s.flow.toleranceCL);
    f.read("checkpoint_seconds", s.flow.checkpointSeconds);
    f.read("relaxation", s.flow.relaxation);
    f.read("second_order", s.flow.secondOrder);
    f.read("limiter", s.flow.limiter, kLimiters);
    f.read("precision", s.flow.precision, kPrecisions);
    f.read("coarse_first", s.flow.coarseFirst);
    const Group v = top.group("devices");
    v.forEach("wheels", [&](const Group& one) {
        Wheel w;
        one.read("part", w.part);
        one.read("rolling", w.rolling);
        one.read("rpm", w.rpm);
        one.read("axis", w.axis);
        one.read("centre_m", w.centre);
        s.devices.wheels.push_back(w);
    });
    v.forEach("rough_parts", [&](const Group& one) {
        flow::RoughPart p;
        one.read("part", p.part);
        one.read("sand_grain_m", p.sandGrain);
        s.devices.roughParts.push_back(p);
    });
    v.forEach("discs", [&](const Group& one) {
        flow::Disc p;
        one.read("name", p.name);
        one.read("centre_m", p.centre);
        one.read("axis", p.axis);
        one.read("inner_radius_m", p.inner);
        one.read("outer_radius_m", p.outer);
        one.read("thrust_N", p.thrust);
        one.read("power_W", p.power);
        one.read("rpm", p.rpm);
        s.devices.discs.push_back(p);
    });
    v.forEach("porous_blocks", [&](const Group& one) {
        flow::PorousBlock b;
        one.read("name", b.name);
        one.read("from_m", b.from);
        one.read("to_m", b.to);
        one.read("axis", b.axis);
        one.read("linear_1_m2", b.linear);
        one.read("quadratic_1_m", b.quadratic);
        one.read("across", b.across);
        s.devices.blocks.push_back(b);
    });
    const Group d = top.group("schedule");
    d.read("speeds_m_s", s.schedule.speeds);
    d.read("alphas_deg", s.schedule.alphas_deg);
    d.read("betas_deg", s.schedule.betas_deg);
    const Group u = top.group("shown_units");
    u.read("length", s.units.length);
    u.read("speed", s.units.speed);
    u.read("force", s.units.force);
    u.read("area", s.units.area);
    return s;
}

}  // namespace cvane::campaign
