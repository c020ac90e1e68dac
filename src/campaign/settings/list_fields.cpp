// Lists of campaign.json: parts, wheels, discs, sections and their like.
#include <fmt/format.h>

#include <algorithm>

#include "base/errors.h"
#include "campaign/settings/fields_inside.h"
#include "vehicle/outline_json.h"
#include "wing/aircraft_json.h"

namespace cvane::campaign {
using nlohmann::json;

namespace {

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
            known.reserve(rows.size());
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

template <class Item>
json arrayOf(const std::vector<Row<Item>>& rows, const std::vector<Item>& items) {
    json list = json::array();
    for (const Item& item : items) {
        json one;
        for (const auto& r : rows) one[r.name] = r.get(item);
        list.push_back(one);
    }
    return list;
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
    l.get = [rows, at](const Settings& s) { return arrayOf(rows, at(s)); };
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

std::vector<Row<FlowItem>> flowItemRows() {
    return {
        entry<FlowItem>("name", AT(name), "", {}, ""),
        entry<FlowItem>(
            "kind", AT(kind), "", {},
            "wall_lines: along the wall's shear, wall_arrows: the shear itself; cells: the grid along a plane",
            {"wall", "slice", "surface", "lines", "wall_lines", "arrows", "cells", "probe", "wall_arrows", "tunnel"}),
        entry<FlowItem>("shown", AT(shown), "", {}, "false: kept, not drawn"),
        entry<FlowItem>("quantity", AT(quantity), "", {},
                        "that it is coloured by, or that a surface has one value of; as `cvane quantities` lists, or a "
                        "formula"),
        entry<FlowItem>("value", AT(value), "", {-1e30, 1e30}, "of a surface"),
        entry<FlowItem>("colour", AT(colour), "", {}, "of a surface: what it is coloured by; empty: plain"),
        entry<FlowItem>("through_m", AT(through), "m", {-kFar, kFar},
                        "a place on a slice, on the plane of arrows or cells; place of a probe"),
        entry<FlowItem>("normal", AT(normal), "", {-1e6, 1e6}, "of that plane, of a ring or a lattice"),
        entry<FlowItem>("rake", AT(rake), "", {}, "places that lines pass through", {"line", "ring", "lattice"}),
        entry<FlowItem>("from_m", AT(from), "m", {-kFar, kFar}, "one end of the rake, a ring's middle, a corner"),
        entry<FlowItem>("to_m", AT(to), "m", {-kFar, kFar}, "its other end, a place on the ring, the opposite corner"),
        entry<FlowItem>("count", AT(count), "", {1, 5000}, "of lines; of arrows along the model or on its walls"),
        entry<FlowItem>("low", AT(low), "", {-1e30, 1e30}, "low end of the colour range"),
        entry<FlowItem>("high", AT(high), "", {-1e30, 1e30}, "its high end; equal ends: the range of the values"),
        entry<FlowItem>("steps", AT(steps), "", {0, 64}, "of the colours; 0: smooth"),
        entry<FlowItem>("contours", AT(contours), "", {}, "contour lines between the steps"),
        entry<FlowItem>("by_cell", AT(byCell), "", {}, "of a slice: cell values, not interpolated"),
        entry<FlowItem>("opacity", AT(opacity), "", {0, 1}, "0: not to be seen")};
}

std::vector<List> makeLists() {
    using enum Affects;
    std::vector<List> out;
    out.push_back(partsList());  // first: what follows names parts
    out.push_back(named<PartLevels>(
        "grid", "finer_parts", "part", Grid, "parts with smaller cells",
        {entry<PartLevels>("levels", AT(levels), "", grid::kPartLevels, "how many times they are halved")}, AT(part),
        [](const Settings& s) {
            std::vector<PartLevels> items;
            for (const auto& [part, levels] : s.grid.finerParts) items.push_back({s.model.idOf(part), levels});
            return items;
        },
        [](Settings& s, const std::vector<PartLevels>& items) {
            s.grid.finerParts.clear();
            for (const auto& i : items) s.grid.finerParts[s.model.nameOf(i.part)] = i.levels;
        }));

    const std::vector<Row<Condition>> condition{entry<Condition>("speed_m_s", AT(speed), "m/s", above(0, kFastest), ""),
                                                entry<Condition>("alpha_deg", AT(alpha_deg), "deg", {-90, 90}, ""),
                                                entry<Condition>("beta_deg", AT(beta_deg), "deg", {-90, 90}, "")};
    out.push_back(plain<Condition>(
        "schedule", "also", Reading, "conditions besides those of the lists", condition,
        [](auto& s) -> auto& { return s.schedule.also; }));
    out.push_back(plain<Condition>(
        "schedule", "left_out", Reading, "conditions of the lists that are not run", condition,
        [](auto& s) -> auto& { return s.schedule.leftOut; }));
    out.push_back(named<PointGroup>(
        "schedule", "groups", "group", Reading, "further conditions that can be left out together",
        {entry<PointGroup>("on", AT(on), "", {}, "false: not run"),
         entry<PointGroup>("speeds_m_s", AT(speeds), "m/s", above(0, kFastest), "each with every alpha and beta"),
         entry<PointGroup>("alphas_deg", AT(alphas_deg), "deg", {-90, 90}, ""),
         entry<PointGroup>("betas_deg", AT(betas_deg), "deg", {-90, 90}, ""),
         entry<PointGroup>("configuration", AT(configuration), "", {}, "empty: every one; base: the base alone"),
         entry<PointGroup>("set_up", AT(setUp), "", {}, "the same")},
        AT(name), [](const Settings& s) { return s.schedule.groups; },
        [](Settings& s, std::vector<PointGroup> groups) { s.schedule.groups = std::move(groups); }));
    out.push_back(plain<SinglePoint>(
        "schedule", "single", Reading, "conditions of one configuration in one set-up",
        {entry<SinglePoint>("speed_m_s", AT(condition.speed), "m/s", above(0, kFastest), ""),
         entry<SinglePoint>("alpha_deg", AT(condition.alpha_deg), "deg", {-90, 90}, ""),
         entry<SinglePoint>("beta_deg", AT(condition.beta_deg), "deg", {-90, 90}, ""),
         entry<SinglePoint>("configuration", AT(configuration), "", {}, "empty: the base"),
         entry<SinglePoint>("set_up", AT(setUp), "", {}, "empty: the base")},
        [](auto& s) -> auto& { return s.schedule.single; }));
    out.push_back(plain<HeldLift>(
        "schedule", "held", Reading, "lifts that runs shall have",
        {entry<HeldLift>("on", AT(on), "", {}, "false: not run"),
         entry<HeldLift>("of", AT(of), "", {}, "the coefficient, or the force in newtons", {"CL", "lift"}),
         entry<HeldLift>("value", AT(value), "", {-1e9, 1e9}, "that it shall have"),
         entry<HeldLift>("follows", AT(follows), "", {}, "what is changed until it has it", {"alpha", "speed"}),
         entry<HeldLift>("speed_m_s", AT(from.speed), "m/s", above(0, kFastest), "of the first try"),
         entry<HeldLift>("alpha_deg", AT(from.alpha_deg), "deg", {-90, 90}, "of the first try"),
         entry<HeldLift>("beta_deg", AT(from.beta_deg), "deg", {-90, 90}, ""),
         entry<HeldLift>("configuration", AT(configuration), "", {}, "empty: the base"),
         entry<HeldLift>("set_up", AT(setUp), "", {}, "empty: the base")},
        [](auto& s) -> auto& { return s.schedule.held; }));

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
    out.push_back(named<air::Gas>(
        "air", "own_gases", "gas", Flow, "gases besides those that `cvane gases` lists",
        {entry<air::Gas>("gas_constant_J_kgK", AT(gasConstant), "J/(kg K)", above(0, 1e5), ""),
         entry<air::Gas>("ratio_of_heats", AT(ratioOfHeats), "", {1, 2}, "above 1, up to 5/3"),
         entry<air::Gas>("viscosity_Pa_s", AT(viscosity), "Pa s", above(0, 1), "at viscosity_at_K"),
         entry<air::Gas>("viscosity_at_K", AT(viscosityAt), "K", above(0, 1e4), ""),
         entry<air::Gas>("sutherland_K", AT(sutherland), "K", {0, 1e4}, "of Sutherland's law"),
         entry<air::Gas>("prandtl", AT(prandtl), "", above(0, 1000), "")},
        AT(name), [](const Settings& s) { return s.air.ownGases; },
        [](Settings& s, std::vector<air::Gas> gases) { s.air.ownGases = std::move(gases); }));
    const auto items = flowItemRows();
    out.push_back(plain<FlowItem>(
        "view", "flow_items", Look, "what is drawn in a point's flow", items,
        [](auto& s) -> auto& { return s.flowItems; }));
    Row<SavedView> seen;
    seen.name = "items";
    seen.kind = Kind::Things;
    seen.help = "what is drawn, each as in view.flow_items";
    seen.get = [items](const SavedView& v) { return arrayOf(items, v.items); };
    seen.put = [items](SavedView& v, const json& j) {
        v.items.clear();
        for (const auto& one : j) v.items.push_back(itemFrom(items, one, "view.saved.items", "campaign.json"));
    };
    out.push_back(named<SavedView>(
        "view", "saved", "view", Look, "views that were kept",
        {entry<SavedView>("eye_m", AT(eye), "m", {-kFar, kFar}, "from where it looks"),
         entry<SavedView>("focus_m", AT(focus), "m", {-kFar, kFar}, "to where"),
         entry<SavedView>("up", AT(up), "", {-1e6, 1e6}, "what is upright in the picture"),
         entry<SavedView>("height_m", AT(height), "m", above(0, kFar), "of what is seen, at the focus"),
         entry<SavedView>("perspective", AT(perspective), "", {}, "near things larger"),
         entry<SavedView>("dark", AT(dark), "", {}, "on a dark ground"), seen},
        AT(name), [](const Settings& s) { return s.views; },
        [](Settings& s, std::vector<SavedView> views) { s.views = std::move(views); }));
    out.push_back(plain<PressurePlane>(
        "view", "pressure_planes", Look, "planes along which pressures are read",
        {entry<PressurePlane>("axis", AT(axis), "", {}, "that it is across", {"x", "y", "z"}),
         entry<PressurePlane>("at_m", AT(at), "m", {-kFar, kFar}, "its place")},
        [](auto& s) -> auto& { return s.pressurePlanes; }));
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
    List aircraft{"model",
                  "aircraft",
                  "field",
                  Affects::Look,
                  "an aircraft from numbers in place of a surface file, as its own file has it (below); none: {}",
                  {},
                  {},
                  {}};
    aircraft.get = [](const Settings& s) {
        return s.model.aircraft ? wing::toJson(*s.model.aircraft) : json::object();
    };
    aircraft.put = [](Settings& s, const json& j, const std::string& where) {
        s.model.aircraft.reset();
        if (!j.empty()) s.model.aircraft = wing::aircraftFrom(j, where + ", model.aircraft");
    };
    out.push_back(std::move(aircraft));
    List outline{"model",
                 "outline",
                 "field",
                 Affects::Look,
                 "a vehicle's outline in place of a surface file, as its own file has it (below); none: {}",
                 {},
                 {},
                 {}};
    outline.get = [](const Settings& s) {
        return s.model.outline ? vehicle::toJson(*s.model.outline) : json::object();
    };
    outline.put = [](Settings& s, const json& j, const std::string& where) {
        s.model.outline.reset();
        if (!j.empty()) s.model.outline = vehicle::outlineFrom(j, where + ", model.outline");
    };
    out.push_back(std::move(outline));
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
         entry<flow::PorousBlock>("across", AT(across), "", {0, 1e6}, "resistance ratio, transverse over axial")},
        AT(name), [](const Settings& s) { return s.devices.blocks; },
        [](Settings& s, std::vector<flow::PorousBlock> items) { s.devices.blocks = std::move(items); }));
    return out;
}
}  // namespace

json itemInJson(const FlowItem& item) {
    static const auto rows = flowItemRows();
    return arrayOf(rows, std::vector<FlowItem>{item})[0];
}

const std::vector<List>& settingLists() {
    static const std::vector<List> lists = makeLists();
    return lists;
}

}  // namespace cvane::campaign
