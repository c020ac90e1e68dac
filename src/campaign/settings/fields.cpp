#include "campaign/settings/fields.h"

#include <fmt/format.h>

#include <algorithm>

#include "base/errors.h"
#include "base/units.h"

// A row names its member once.
#define AT(member)         \
    [](auto& s) -> auto& { \
        return s.member;   \
    }

namespace cvane::campaign {
using nlohmann::json;

namespace {
constexpr double kFar = 1e5;  ///< [m] no model or tunnel of air is larger

std::vector<std::string> symbols(std::span<const base::Unit> units) {
    std::vector<std::string> out;
    for (const auto& u : units) out.emplace_back(u.symbol);
    return out;
}

template <class At>
Row<Settings> setting(std::string name, At at, Affects affects, std::string label, std::string unit, Limits limits,
                      std::string help, std::vector<std::string> words = {}) {
    return row<Settings>(std::move(name), at, affects, std::move(label), std::move(unit), limits, std::move(help),
                         std::move(words));
}
constexpr Limits above(double low, double high) {
    return {low, high, true};
}

std::vector<Group> makeGroups() {
    using enum Affects;
    return {
        {"model",
         {setting("file", AT(model.file), Reading, "Surface file", "", {},
                  "within the campaign's folder; its content counts, not its name"),
          setting("unit", AT(model.unit), Grid, "Unit of the file", "", {}, "in which the file's lengths are",
                  symbols(base::lengthUnits())),
          setting("rotation_deg", AT(model.placement.rotation_deg), Grid, "Turned by", "deg", {-3600, 3600},
                  "about x, then y, then z, through the origin"),
          setting("shift_m", AT(model.placement.shift), Grid, "Shifted by", "m", {-kFar, kFar},
                  "after it was turned")}},
        {"reference",
         {setting("area_from", AT(reference.areaFrom), Reading, "Area", "", {},
                  "which area of the model the coefficients rest on", {"frontal", "side", "planform", "typed"}),
          setting("typed_area_m2", AT(reference.typedArea), Reading, "Typed area", "m2", above(0, 1e8),
                  "with area_from typed"),
          setting("length_m", AT(reference.length), Reading, "Length", "m", above(0, kFar),
                  "of the pitching moment; null: the model's along the wind"),
          setting("span_m", AT(reference.span), Reading, "Span", "m", above(0, kFar),
                  "of rolling and yawing moments; null: the model's across the wind"),
          setting("moment_centre_m", AT(reference.momentCentre), Reading, "Moment centre", "m", {-kFar, kFar},
                  "null: the middle of the model's box")}},
        {"air",
         {setting("altitude_m", AT(air.altitude), Flow, "Altitude", "m", {-1000, 20000}, "of the standard atmosphere"),
          setting("temperature_offset_K", AT(air.temperatureOffset), Flow, "Warmer than standard by", "K", {-60, 60},
                  "")}},
        {"tunnel",
         {setting("upstream_lengths", AT(tunnel.upstream), Grid, "Ahead", "lengths", above(0, 1000),
                  "longest sides of the model from it to the inlet"),
          setting("downstream_lengths", AT(tunnel.downstream), Grid, "Behind", "lengths", above(0, 1000),
                  "to the outlet"),
          setting("sideways_lengths", AT(tunnel.sideways), Grid, "To each side", "lengths", {-1, 1000},
                  "below 0: that wall cuts the model"),
          setting("above_lengths", AT(tunnel.above), Grid, "Above", "lengths", {-1, 1000},
                  "below 0: that wall cuts the model"),
          setting("below_lengths", AT(tunnel.below), Grid, "Below", "lengths", {-1, 1000},
                  "without a ground; below 0: that wall cuts the model"),
          setting("ground", AT(tunnel.floor), Grid, "Ground", "", {}, "moving: with the air",
                  {"none", "fixed", "moving"}),
          setting("ground_layer", AT(tunnel.groundLayer), Grid, "Its boundary layer begins", "", {},
                  "of a fixed ground", {"from the inlet", "from ahead of the model", "from the model"}),
          setting("ground_layer_ahead_lengths", AT(tunnel.groundLayerAhead), Grid, "Ahead of the model by", "lengths",
                  {0, 1000}, "with ground_layer from ahead of the model"),
          setting("ride_height_m", AT(tunnel.rideHeight), Grid, "Ride height", "m", {-kFar, kFar},
                  "lowest point of the model above the ground"),
          setting("half_model", AT(tunnel.halfModel), Grid, "Half model", "", {},
                  "the starboard half, mirrored at y = 0"),
          setting("closed", AT(tunnel.closed), Flow, "Closed", "", {},
                  "walls that the air slips along on all four sides")}},
        {"grid",
         {setting("cell_budget", AT(grid.cellBudget), Grid, "Cell budget", "cells", {500, 1e9}, ""),
          setting("layers", AT(grid.layers), Grid, "Layers on the wall", "", {0, 200},
                  "0: as many as the growth asks for"),
          setting("layer_growth", AT(grid.layerGrowth), Grid, "Growth of layers", "", {1.01, 5},
                  "height ratio of neighbours, where layers is 0"),
          setting("first_height_m", AT(grid.firstHeight), Grid, "First height", "m", {0, 1000},
                  "of the cell on the wall; 0: a twentieth of the cell size"),
          setting("target_y_plus", AT(targetYPlus), Grid, "Target y+", "", {0, 10000},
                  "above 0: the first height follows from the fastest wind"),
          setting("curvature_levels", AT(grid.curvatureLevels), Grid, "Levels by curvature", "", {0, 12},
                  "how many times cells are halved where the model turns sharply"),
          setting("turn_angle_deg", AT(grid.turnAngle_deg), Grid, "Turn within a cell", "deg", above(0, 180),
                  "above which it is halved"),
          setting("buffer_cells", AT(grid.bufferCells), Grid, "Cells of one size", "", {1, 20},
                  "before the next coarser one"),
          setting("gap_levels", AT(grid.gapLevels), Grid, "Levels in gaps", "", {-1, 12},
                  "where the air between walls is narrow; -1: one, and as many as open gaps of 0.4 % of the longest "
                  "side or more"),
          setting("leave_gaps_filled", AT(leaveGapsFilled), Iteration, "Leave gaps filled", "", {},
                  "run although the grid has filled gaps"),
          setting("wake_lengths", AT(grid.wakeLength), Grid, "Finer wake", "lengths", {0, 1000}, "behind the model"),
          setting("wake_alpha_deg", AT(wakeAlpha_deg), Grid, "Wake's alpha", "deg", {-90, 90},
                  "of the wind along which it leads"),
          setting("wake_beta_deg", AT(wakeBeta_deg), Grid, "Wake's beta", "deg", {-90, 90}, ""),
          setting("stretch", AT(grid.stretch), Grid, "Stretch along x, y, z", "", {1, grid::kMostStretch},
                  "of the cells"),
          setting("close_leaks_up_to_m", AT(grid.sealWidth), Grid, "Close leaks up to", "m", {0, kFar},
                  "0: 3 % of the longest side"),
          setting("sharp_angle_deg", AT(grid.sharpAngle_deg), Grid, "Sharp edges from", "deg", above(0, 180),
                  "which are kept")}},
        {"flow",
         {setting("model", AT(flow.model), Flow, "Turbulence", "", {}, "",
                  {"k-omega SST", "Spalart-Allmaras", "realisable k-epsilon", "laminar", "inviscid"}),
          setting("turbulence_intensity", AT(flow.turbulenceIntensity), Flow, "Turbulence intensity", "of the speed",
                  {0, 0.3}, "of the free stream: 0.01 is one per cent"),
          setting("turbulence_length_m", AT(flow.turbulenceLength), Flow, "Turbulence length", "m", {0, kFar},
                  "0: so that omega = 5 V / longest side of the model"),
          setting("most_iterations", AT(flow.mostIterations), Iteration, "Iterations at most", "", {1, 1e8}, ""),
          setting("least_iterations", AT(flow.leastIterations), Iteration, "Iterations at least", "", {0, 1e8}, ""),
          setting("tolerance_CD_relative", AT(flow.toleranceCD), Iteration, "Drift of CD", "of CD", above(0, 1),
                  "of its mean, that counts as settled"),
          setting("tolerance_CL", AT(flow.toleranceCL), Iteration, "Drift of CL", "", above(0, 10),
                  "of CL, CY and Cm, that counts as settled"),
          setting("checkpoint_seconds", AT(flow.checkpointSeconds), Iteration, "Checkpoint every", "s", {0, 1e6}, ""),
          setting("relaxation", AT(flow.relaxation), Iteration, "Relaxation", "", {0.05, 1},
                  "of momentum at most; lowered while the flow works itself up"),
          setting("second_order", AT(flow.secondOrder), Flow, "Second order", "", {}, ""),
          setting("limiter", AT(flow.limiter), Flow, "Limiter", "", {}, "cells whose gradients are held back",
                  {"poor cells", "all cells", "none"}),
          setting("precision", AT(flow.precision), Iteration, "Precision of cycles", "", {}, "", {"double", "mixed"}),
          setting("coarse_first", AT(flow.coarseFirst), Iteration, "A quarter of the cells first", "", {},
                  "a start, and the grid's part of the band")}},
        {"sections",
         {setting("reynolds", AT(sections.reynolds), Look, "Reynolds numbers", "", {1e3, 1e9},
                  "of the polars, on the chord"),
          setting("fixed_lift", AT(sections.fixedLift), Look, "Re changes with lift", "", {},
                  "true: reynolds are Re sqrt(cl), of a wing that carries its weight at any speed"),
          setting("mach", AT(sections.mach), Look, "Mach numbers", "", {0, 0.7}, "of the wind"),
          setting("flap_turns_deg", AT(sections.flapTurns_deg), Look, "Flap turned by", "deg", {-45, 45},
                  "on top of each section's own flap angle"),
          setting("n_critical", AT(sections.nCritical), Look, "n of transition", "", {0.5, 20},
                  "amplification exponent at which a layer turns turbulent: 9 in quiet air"),
          setting("trip_upper", AT(sections.tripUpper), Look, "Upper trip", "x/c", {0, 1}, "1: not tripped"),
          setting("trip_lower", AT(sections.tripLower), Look, "Lower trip", "x/c", {0, 1}, "1: not tripped"),
          setting("first_deg", AT(sections.first_deg), Look, "First angle", "deg", {-30, 30}, "of the polars"),
          setting("last_deg", AT(sections.last_deg), Look, "Last angle", "deg", {-30, 30}, "of the polars"),
          setting("step_deg", AT(sections.step_deg), Look, "Step", "deg", {0.05, 10}, "between angles"),
          setting("panels", AT(sections.panels), Look, "Panels", "", {40, 600}, "on a section"),
          setting("field_angles_deg", AT(sections.fieldAngles_deg), Look, "Angles in the field", "deg", {-30, 30},
                  "solved when asked for"),
          setting("field_level", AT(sections.fieldLevel), Look, "Grid in the field", "", {0, 2},
                  "0, 1, 2: some 5,000, 19,000, 77,000 cells")}},
        {"schedule",
         {setting("speeds_m_s", AT(schedule.speeds), Reading, "Speeds", "m/s", above(0, 300), ""),
          setting("alphas_deg", AT(schedule.alphas_deg), Reading, "Alpha", "deg", {-90, 90}, ""),
          setting("betas_deg", AT(schedule.betas_deg), Reading, "Beta", "deg", {-90, 90}, "")}},
        {"shown_units",
         {setting("length", AT(units.length), Look, "Lengths", "", {}, "", symbols(base::lengthUnits())),
          setting("speed", AT(units.speed), Look, "Speeds", "", {}, "", symbols(base::speedUnits())),
          setting("force", AT(units.force), Look, "Forces", "", {}, "", symbols(base::forceUnits())),
          setting("area", AT(units.area), Look, "Areas", "", {}, "", symbols(base::areaUnits()))}},
    };
}

/// A part as campaign.json knows it, under its id.
struct PartEntry {
    std::string id;
    int number = 0;
    std::string name;
    bool inTheAir = true;
};
struct PartLevels {
    std::string part;
    int levels = 1;
};

template <class Item, class At>
Row<Item> entry(std::string name, At at, std::string unit, Limits limits, std::string help,
                std::vector<std::string> words = {}) {
    return row<Item>(std::move(name), at, Affects::Flow, "", std::move(unit), limits, std::move(help),
                     std::move(words));
}

// Checks the fields of one thing and takes those that are given.
template <class Item>
Item itemFrom(const std::vector<Row<Item>>& rows, const json& j, const std::string& path, const std::string& where) {
    if (!j.is_object())
        throw base::InputError(fmt::format("the field \"{}\" is not a group of fields.", path), where,
                               "Correct it, or restore the file from a copy.");
    Item item;
    for (const auto& [key, value] : j.items()) {
        const auto it = std::find_if(rows.begin(), rows.end(), [&, k = key](const auto& r) { return r.name == k; });
        if (it == rows.end()) {
            std::vector<std::string> known;
            for (const auto& r : rows) known.push_back(r.name);
            const auto near = nearestName(key, known);
            throw base::InputError(fmt::format("the field \"{}.{}\" is unknown.", path, key), where,
                                   near.empty() ? "Take it out." : fmt::format("Is \"{}\" meant?", near));
        }
        it->check(value, path + "." + key, where);
        it->put(item, value);
    }
    return item;
}

// A list of things under their names: an object in JSON.
template <class Item, class NameOf, class Read, class Take>
List named(std::string group, std::string name, std::string keyedBy, Affects affects, std::string help,
           std::vector<Row<Item>> rows, NameOf nameOf, Read read, Take take) {
    List l{group, name, std::move(keyedBy), affects, std::move(help), {rows.begin(), rows.end()}, {}, {}};
    l.get = [=](const Settings& s) {
        json out = json::object();
        for (const Item& item : read(s)) {
            json one = json::object();
            for (const auto& r : rows) one[r.name] = r.get(item);
            out[nameOf(item)] = one;
        }
        return out;
    };
    l.put = [=, path = group + "." + name](Settings& s, const json& j, const std::string& where) {
        if (!j.is_object())
            throw base::InputError(fmt::format("the field \"{}\" is not a group of named things.", path), where,
                                   "Correct it, or restore the file from a copy.");
        std::vector<Item> items;
        for (const auto& [key, value] : j.items()) {
            items.push_back(itemFrom(rows, value, path + "." + key, where));
            nameOf(items.back()) = key;
        }
        take(s, std::move(items));
    };
    return l;
}

// A list of things without names: an array in JSON. @param at  returns a reference to the list
template <class Item, class At>
List plain(const std::string& group, const std::string& name, Affects affects, std::string help,
           std::vector<Row<Item>> rows, At at) {
    List l{group, name, "", affects, std::move(help), {rows.begin(), rows.end()}, {}, {}};
    l.get = [rows, at](const Settings& s) {
        json list = json::array();
        for (const Item& item : at(s)) {
            json one;
            for (const auto& r : rows) one[r.name] = r.get(item);
            list.push_back(one);
        }
        return list;
    };
    l.put = [rows, at, path = group + "." + name](Settings& s, const json& j, const std::string& where) {
        if (!j.is_array())
            throw base::InputError(fmt::format("the field \"{}\" is not a list.", path), where,
                                   "Correct it, or restore the file from a copy.");
        at(s).clear();
        for (const auto& one : j) at(s).push_back(itemFrom(rows, one, path, where));
    };
    return l;
}

List partsList() {
    return named<PartEntry>(
        "model", "parts", "part, by the name that it came with", Affects::Grid, "the model's pieces",
        {entry<PartEntry>("number", AT(number), "", {0, 1e6}, "its place in the file"),
         entry<PartEntry>("name", AT(name), "", {}, "as it is shown"),
         entry<PartEntry>("in_the_air", AT(inTheAir), "", {}, "false: hidden, takes no part")},
        AT(id),
        [](const Settings& s) {
            std::vector<PartEntry> out;
            for (const auto& p : s.model.parts)
                out.push_back({p.id(), static_cast<int>(out.size()), p.name, p.inTheAir});
            return out;
        },
        [](Settings& s, std::vector<PartEntry> items) {
            std::stable_sort(items.begin(), items.end(),
                             [](const auto& a, const auto& b) { return a.number < b.number; });
            s.model.parts.clear();
            for (auto& i : items) {
                if (i.name.empty()) i.name = i.id;
                s.model.parts.push_back({i.name, i.inTheAir, i.name == i.id ? std::string() : i.id});
            }
        });
}

std::vector<List> makeLists() {
    using enum Affects;
    std::vector<List> out;
    out.push_back(partsList());  // first: what follows names parts
    out.push_back(named<PartLevels>(
        "grid", "finer_parts", "part", Grid, "parts with smaller cells",
        {entry<PartLevels>("levels", AT(levels), "", {-12, 12}, "how many times they are halved")}, AT(part),
        [](const Settings& s) {
            std::vector<PartLevels> items;
            for (const auto& [part, levels] : s.grid.finerParts) items.push_back({s.model.idOf(part), levels});
            return items;
        },
        [](Settings& s, const std::vector<PartLevels>& items) {
            s.grid.finerParts.clear();
            for (const auto& i : items) s.grid.finerParts[s.model.nameOf(i.part)] = i.levels;
        }));

    const std::vector<Row<Condition>> condition{entry<Condition>("speed_m_s", AT(speed), "m/s", above(0, 300), ""),
                                                entry<Condition>("alpha_deg", AT(alpha_deg), "deg", {-90, 90}, ""),
                                                entry<Condition>("beta_deg", AT(beta_deg), "deg", {-90, 90}, "")};
    out.push_back(plain<Condition>(
        "schedule", "also", Reading, "conditions besides those of the lists", condition,
        [](auto& s) -> auto& { return s.schedule.also; }));
    out.push_back(plain<Condition>(
        "schedule", "left_out", Reading, "conditions of the lists that are not run", condition,
        [](auto& s) -> auto& { return s.schedule.leftOut; }));

    const std::vector<Row<grid::FinerPlace>> place{
        entry<grid::FinerPlace>("shape", AT(shape), "", {}, "", {"box", "ball", "cylinder"}),
        entry<grid::FinerPlace>("from_m", AT(from), "m", {-kFar, kFar}, "corner, middle, or middle of one end"),
        entry<grid::FinerPlace>("to_m", AT(to), "m", {-kFar, kFar}, "opposite corner, or middle of the other end"),
        entry<grid::FinerPlace>("radius_m", AT(radius), "m", {0, kFar}, "of a ball or cylinder"),
        entry<grid::FinerPlace>("cell_m", AT(cell), "m", {0, kFar}, "largest cell inside")};
    out.push_back(plain<grid::FinerPlace>(
        "grid", "finer_places", Grid, "places with smaller cells", place,
        [](auto& s) -> auto& { return s.grid.finerPlaces; }));

    out.push_back(named<SectionEntry>(
        "sections", "list", "section", Look, "sections whose polars are computed",
        {entry<SectionEntry>("source", AT(source), "", {},
                             "a code such as 4412, or a file within the campaign's folder"),
         entry<SectionEntry>("thickness", AT(thickness), "of the chord", {0.005, 0.6}, "null: as it comes"),
         entry<SectionEntry>("thickness_at", AT(thicknessAt), "of the chord", {0.05, 0.95}, "null: as it comes"),
         entry<SectionEntry>("camber", AT(camber), "of the chord", {-0.25, 0.25}, "null: as it comes"),
         entry<SectionEntry>("camber_at", AT(camberAt), "of the chord", {0.05, 0.95}, "null: as it comes"),
         entry<SectionEntry>("nose_radius", AT(noseRadius), "of the chord", {1e-5, 0.3}, "null: as it comes"),
         entry<SectionEntry>("flap_hinge", AT(flapHinge), "of the chord", {0.3, 0.95}, "place of a flap's hinge"),
         entry<SectionEntry>("flap_deg", AT(flapAngle_deg), "deg", {-45, 45}, "down positive; 0: no flap"),
         entry<SectionEntry>("shown", AT(shown), "", {}, "false: takes no part in polars and plots")},
        AT(name), [](const Settings& s) { return s.sections.sections; },
        [](Settings& s, std::vector<SectionEntry> items) { s.sections.sections = std::move(items); }));
    out.push_back(named<Wheel>(
        "devices", "wheels", "part", Flow, "parts that turn about their axles",
        {entry<Wheel>("rolling", AT(rolling), "", {}, "with the moving air or ground; else by rpm"),
         entry<Wheel>("rpm", AT(rpm), "1/min", {-1e6, 1e6}, "above 0 as when rolling forwards"),
         entry<Wheel>("axis", AT(axis), "", {-1e6, 1e6}, "null: found from the shape"),
         entry<Wheel>("centre_m", AT(centre), "m", {-kFar, kFar}, "null: found from the shape")},
        AT(part),
        [](const Settings& s) {
            auto items = s.devices.wheels;
            for (auto& w : items) w.part = s.model.idOf(w.part);
            return items;
        },
        [](Settings& s, std::vector<Wheel> items) {
            for (auto& w : items) w.part = s.model.nameOf(w.part);
            s.devices.wheels = std::move(items);
        }));
    out.push_back(named<flow::RoughPart>(
        "devices", "rough_parts", "part", Flow, "parts with a rough surface",
        {entry<flow::RoughPart>("sand_grain_m", AT(sandGrain), "m", {0, 10}, "height of equivalent sand grains")},
        AT(part),
        [](const Settings& s) {
            auto items = s.devices.roughParts;
            for (auto& r : items) r.part = s.model.idOf(r.part);
            return items;
        },
        [](Settings& s, std::vector<flow::RoughPart> items) {
            for (auto& r : items) r.part = s.model.nameOf(r.part);
            s.devices.roughParts = std::move(items);
        }));
    out.push_back(named<flow::Disc>(
        "devices", "discs", "disc", Flow, "propellers and fans that push the air",
        {entry<flow::Disc>("centre_m", AT(centre), "m", {-kFar, kFar}, ""),
         entry<flow::Disc>("axis", AT(axis), "", {-1e6, 1e6}, "the way in which the air is pushed"),
         entry<flow::Disc>("inner_radius_m", AT(inner), "m", {0, kFar}, ""),
         entry<flow::Disc>("outer_radius_m", AT(outer), "m", {0, kFar}, ""),
         entry<flow::Disc>("thrust_N", AT(thrust), "N", {-1e9, 1e9}, ""),
         entry<flow::Disc>("power_W", AT(power), "W", {0, 1e12}, "used without a thrust"),
         entry<flow::Disc>("rpm", AT(rpm), "1/min", {-1e6, 1e6}, "0: no swirl")},
        AT(name), [](const Settings& s) { return s.devices.discs; },
        [](Settings& s, std::vector<flow::Disc> items) { s.devices.discs = std::move(items); }));
    out.push_back(named<flow::PorousBlock>(
        "devices", "porous_blocks", "block", Flow, "radiator cores that resist the air",
        {entry<flow::PorousBlock>("from_m", AT(from), "m", {-kFar, kFar}, "corner"),
         entry<flow::PorousBlock>("to_m", AT(to), "m", {-kFar, kFar}, "opposite corner"),
         entry<flow::PorousBlock>("axis", AT(axis), "", {0, 2}, "the way through: 0, 1, 2 for x, y, z"),
         entry<flow::PorousBlock>("linear_1_m2", AT(linear), "1/m2", {0, 1e14}, "resistance to slow flow"),
         entry<flow::PorousBlock>("quadratic_1_m", AT(quadratic), "1/m", {0, 1e10}, "resistance to fast flow"),
         entry<flow::PorousBlock>("across", AT(across), "", {0, 1e6}, "resistance across over along")},
        AT(name), [](const Settings& s) { return s.devices.blocks; },
        [](Settings& s, std::vector<flow::PorousBlock> items) { s.devices.blocks = std::move(items); }));
    return out;
}
}  // namespace

const std::vector<Group>& settingGroups() {
    static const std::vector<Group> groups = makeGroups();
    return groups;
}

const std::vector<List>& settingLists() {
    static const std::vector<List> lists = makeLists();
    return lists;
}

const Row<Settings>& settingNamed(const std::string& path, const std::string& where) {
    std::vector<std::string> paths;
    for (const auto& g : settingGroups())
        for (const auto& r : g.rows) {
            if (g.name + "." + r.name == path) return r;
            paths.push_back(g.name + "." + r.name);
        }
    const auto near = nearestName(path, paths);
    std::string groups;
    for (const auto& g : settingGroups()) groups += (groups.empty() ? "" : ", ") + g.name;
    std::string todo = fmt::format("The groups are {}.", groups);
    for (const auto& g : settingGroups())
        if (path.starts_with(g.name + ".")) {
            std::vector<std::string> fields;
            for (const auto& r : g.rows) fields.push_back(r.name);
            todo = fmt::format("This group has: {}.", fmt::join(fields, ", "));
        }
    throw base::InputError("there is no such field.", where,
                           near.empty() ? todo : fmt::format("Is \"{}\" meant?", near));
}

json changedFrom(const Settings& defaults, const Settings& s, const std::vector<Affects>& affects) {
    const auto counts = [&](Affects a) { return std::find(affects.begin(), affects.end(), a) != affects.end(); };
    json out = json::object();
    for (const auto& g : settingGroups())
        for (const auto& r : g.rows)
            if (counts(r.affects) && r.get(s) != r.get(defaults)) out[g.name][r.name] = r.get(s);
    for (const auto& l : settingLists())
        if (l.name != "parts" && counts(l.affects) && !l.get(s).empty()) {
            // Of things in a list too, what is at its default stays out.
            auto list = l.get(s);
            out[l.group][l.name] = std::move(list);
        }
    return out;
}

std::string settingsInMarkdown() {
    std::string out = "| field | range | default | meaning |\n| --- | --- | --- | --- |\n";
    const Settings defaults;
    const auto text = [](const json& v) { return v.is_string() ? v.get<std::string>() : v.dump(); };
    for (const auto& g : settingGroups()) {
        for (const auto& r : g.rows)
            out += fmt::format("| {}.{} | {} | {} | {}{}{} |\n", g.name, r.name, r.rangeText(), text(r.get(defaults)),
                               r.label, r.help.empty() ? "" : ": ", r.help);
        for (const auto& l : settingLists()) {
            if (l.group != g.name) continue;
            out += fmt::format("| {}.{} | | | {}{} |\n", g.name, l.name, l.help,
                               l.keyedBy.empty() ? "; a list" : fmt::format("; an object by {}", l.keyedBy));
            for (const auto& f : l.fields)
                out += fmt::format("| {}.{}: {} | {} | | {} |\n", g.name, l.name, f.name, f.rangeText(), f.help);
        }
    }
    for (const auto& l : settingLists())
        if (l.group == "devices") {
            out += fmt::format("| devices.{} | | | {}; an object by {} |\n", l.name, l.help, l.keyedBy);
            for (const auto& f : l.fields)
                out += fmt::format("| devices.{}: {} | {} | | {} |\n", l.name, f.name, f.rangeText(), f.help);
        }
    return out;
}

}  // namespace cvane::campaign
