#include "campaign/settings/fields.h"

#include <fmt/format.h>

#include <algorithm>

#include "base/errors.h"
#include "base/text.h"
#include "base/units.h"
#include "campaign/settings/fields_inside.h"

namespace cvane::campaign {
using nlohmann::json;

namespace {
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

std::vector<Group> makeGroups() {
    using enum Affects;
    return {
        {"model",
         {setting("file", AT(model.file), Reading, "Surface file", "", {},
                  "within the campaign's folder; its content counts, not its name"),
          setting("unit", AT(model.unit), Grid, "Unit of the file", "", {}, "in which the file's lengths are",
                  symbols(base::lengthUnits())),
          setting("facet_tolerance_m", AT(model.facetTolerance), Grid, "Facet tolerance", "m", above(0, 1e3),
                  "of solids (STEP, IGES): how far facets stand off curved faces; null: 3e-4 of the size"),
          setting("rotation_deg", AT(model.placement.rotation_deg), Grid, "Turned by", "deg", {-3600, 3600},
                  "about x, then y, then z, through the origin"),
          setting("shift_m", AT(model.placement.shift), Grid, "Shifted by", "m", {-kFar, kFar}, "after it was turned"),
          setting("ride_height_m", AT(model.rideHeight), Grid, "Ride height of this configuration", "m", {-kFar, kFar},
                  "instead of the tunnel's; null: the tunnel's")}},
        {"reference",
         {setting("area_from", AT(reference.areaFrom), Reading, "Area", "", {},
                  "which area of the model the coefficients rest on; wing: that of the first surface of one built from "
                  "numbers, with its "
                  "mean chord, span and centre of gravity",
                  {"frontal", "side", "planform", "typed", "wing"}),
          setting("typed_area_m2", AT(reference.typedArea), Reading, "Typed area", "m2", above(0, 1e8),
                  "with area_from typed"),
          setting("length_m", AT(reference.length), Reading, "Length", "m", above(0, kFar),
                  "of the pitching moment; null: the model's along the wind"),
          setting("span_m", AT(reference.span), Reading, "Span", "m", above(0, kFar),
                  "of rolling and yawing moments; null: the model's across the wind"),
          setting("moment_centre_m", AT(reference.momentCentre), Reading, "Moment centre", "m", {-kFar, kFar},
                  "null: the middle of the model's box"),
          setting("front_axle_x_m", AT(reference.frontAxle), Reading, "Front axle at x", "m", {-kFar, kFar},
                  "that front lift acts on; null: that of the foremost wheels"),
          setting("rear_axle_x_m", AT(reference.rearAxle), Reading, "Rear axle at x", "m", {-kFar, kFar},
                  "null: that of the rearmost wheels")}},
        {"air",
         {setting("altitude_m", AT(air.altitude), Flow, "Altitude", "m", {-1000, 20000}, "of the standard atmosphere"),
          setting("temperature_offset_K", AT(air.temperatureOffset), Flow, "Warmer than standard by", "K", {-60, 60},
                  ""),
          setting("gas", AT(air.gas), Flow, "Gas", "", {}, "as `cvane gases` lists, or one of air.own_gases"),
          setting("pressure_Pa", AT(air.pressure), Flow, "Static pressure", "Pa", above(0, 1e9),
                  "null: that of the standard atmosphere"),
          setting("temperature_K", AT(air.temperature), Flow, "Static temperature", "K", above(0, 1e4),
                  "null: that of the standard atmosphere; water: 288.15")}},
        {"tunnel",
         {setting("upstream_lengths", AT(tunnel.upstream), Grid, "Ahead", "lengths", grid::kExtents,
                  "longest sides of the model from it to the inlet"),
          setting("downstream_lengths", AT(tunnel.downstream), Grid, "Behind", "lengths", grid::kExtents,
                  "to the outlet"),
          setting("sideways_lengths", AT(tunnel.sideways), Grid, "To each side", "lengths", grid::kCuttingExtents,
                  "below 0: that wall cuts the model"),
          setting("above_lengths", AT(tunnel.above), Grid, "Above", "lengths", grid::kCuttingExtents,
                  "below 0: that wall cuts the model"),
          setting("below_lengths", AT(tunnel.below), Grid, "Below", "lengths", grid::kCuttingExtents,
                  "without a ground; below 0: that wall cuts the model"),
          setting("ground", AT(tunnel.floor), Grid, "Ground", "", {}, "moving: with the air",
                  {"none", "fixed", "moving"}),
          setting("ground_layer", AT(tunnel.groundLayer), Grid, "Its boundary layer begins", "", {},
                  "of a fixed ground", {"from the inlet", "from ahead of the model", "from the model"}),
          setting("ground_layer_ahead_lengths", AT(tunnel.groundLayerAhead), Grid, "Ahead of the model by", "lengths",
                  {0, 1000}, "with ground_layer from ahead of the model"),
          setting("ride_height_m", AT(tunnel.rideHeight), Grid, "Ride height", "m", {-kFar, kFar},
                  "lowest point of the whole model, hidden parts too, above the ground"),
          setting(
              "model", AT(modelExtent), Grid, "Model", "", {},
              "half: the starboard half, mirrored at y = 0; half where symmetric: points without sideslip of a model "
              "that is its own mirror image, with half of the cells",
              {"whole", "half", "half where symmetric"}),
          setting("closed", AT(tunnel.closed), Flow, "Closed", "", {},
                  "walls that the air slips along on all four sides")}},
        {"grid",
         {setting("cell_budget", AT(grid.cellBudget), Grid, "Cell budget", "cells", grid::kCellBudgets, ""),
          setting("layers", AT(grid.layers), Grid, "Layers on the wall", "", grid::kLayers,
                  "0: as many as the growth asks for"),
          setting("layer_growth", AT(grid.layerGrowth), Grid, "Growth ratio of layers", "", grid::kLayerGrowths,
                  "at most, where layers is 0"),
          setting("first_height_m", AT(grid.firstHeight), Grid, "First height", "m", grid::kFirstHeights,
                  "of the cell on the wall; 0: a twentieth of the cell size"),
          setting(
              "target_y_plus", AT(targetYPlus), Grid, "Target y+", "", {0, 10000},
              "above 0: the first height follows from the fastest wind; a twentieth of the layer of a plate as long as "
              "the model at most, over the ratio by which cells are longer along a span"),
          setting("curvature_levels", AT(grid.curvatureLevels), Grid, "Levels by curvature", "", grid::kCurvatureLevels,
                  "how many times cells are halved where the model turns sharply"),
          setting("turn_angle_deg", AT(grid.turnAngle_deg), Grid, "Turning angle within a cell", "deg",
                  grid::kTurnAngles_deg, "above which it is halved"),
          setting("buffer_cells", AT(grid.bufferCells), Grid, "Buffer cells", "", grid::kBufferCells,
                  "before the next coarser one"),
          setting("gap_levels", AT(grid.gapLevels), Grid, "Levels in gaps", "", grid::kGapLevels,
                  "where the air between walls is narrow; -1: one, and as many as open gaps of 0.4 % of the longest "
                  "side or more"),
          setting("leave_gaps_filled", AT(leaveGapsFilled), Iteration, "Leave gaps filled", "", {},
                  "run although the grid has filled gaps, whichever they are"),
          setting("gaps_left_filled_m", AT(gapsLeftFilled), Iteration, "Gaps that stay filled", "m", {-kFar, kFar},
                  "x, y, z of a place in each, null: none; any other gap that the grid fills must be opened"),
          setting("wake_lengths", AT(grid.wakeLength), Grid, "Finer wake", "lengths", grid::kWakeLengths,
                  "behind the model"),
          setting("wake_alpha_deg", AT(wakeAlpha_deg), Grid, "Wake's alpha", "deg", grid::kWakeAngles_deg,
                  "of the wind along which it leads"),
          setting("wake_beta_deg", AT(wakeBeta_deg), Grid, "Wake's beta", "deg", grid::kWakeAngles_deg, ""),
          setting("stretch", AT(grid.stretch), Grid, "Stretch along x, y, z", "", grid::kStretches,
                  "how many times longer cells are; 0: as the model suits, for instance along a wing's span"),
          setting("cells_follow_flow", AT(cellsFollowFlow), Grid, "Flow-adapted cells", "", {},
                  "true: a first flow on half of the cells says where they are halved"),
          setting("close_leaks_up_to_m", AT(grid.sealWidth), Grid, "Close leaks up to", "m", grid::kSealWidths,
                  "0: 3 % of the longest side"),
          setting("sharp_angle_deg", AT(grid.sharpAngle_deg), Grid, "Feature edges from", "deg", grid::kSharpAngles_deg,
                  "which are kept")}},
        {"flow",
         {setting("model", AT(flow.model), Flow, "Turbulence", "", {}, "",
                  {"k-omega SST", "Spalart-Allmaras", "realisable k-epsilon", "laminar", "inviscid"}),
          setting("turbulence_intensity", AT(flow.turbulenceIntensity), Flow, "Free-stream turbulence intensity",
                  "of the speed", {0, 0.3}, "of the free stream: 0.01 is one per cent"),
          setting("turbulence_length_m", AT(flow.turbulenceLength), Flow, "Free-stream turbulence length", "m",
                  {0, kFar}, "0: so that omega = 5 V / longest side of the model"),
          setting("most_iterations", AT(flow.mostIterations), Iteration, "Iterations at most", "", {1, 1e8}, ""),
          setting("least_iterations", AT(flow.leastIterations), Iteration, "Iterations at least", "", {0, 1e8}, ""),
          setting("tolerance_CD_relative", AT(flow.toleranceCD), Iteration, "Convergence tolerance of CD", "of CD",
                  above(0, 1), "of its mean, that counts as settled"),
          setting("tolerance_CL", AT(flow.toleranceCL), Iteration, "Convergence tolerance of CL", "", above(0, 10),
                  "of CL, CY and Cm, that counts as settled; on the model's own frontal area, or its planform where it "
                  "is a wing"),
          setting("checkpoint_seconds", AT(flow.checkpointSeconds), Iteration, "Checkpoint every", "s", {0, 1e6},
                  "at most so often; less where one takes more than 3 % of that"),
          setting("relaxation", AT(flow.relaxation), Iteration, "Under-relaxation", "", {0.05, 1},
                  "of momentum at most; lowered while the flow works itself up"),
          setting("second_order", AT(flow.secondOrder), Flow, "Second order", "", {}, ""),
          setting("compressible", AT(flow.compressible), Flow, "Compressible", "", {},
                  "by Mach number: above 0.3 of the wind", {"by Mach number", "always", "never"}),
          setting("limiter", AT(flow.limiter), Flow, "Limiter", "", {}, "cells whose gradients are held back",
                  {"poor cells", "all cells", "none"}),
          setting("precision", AT(flow.precision), Iteration, "Precision of multigrid cycles", "", {}, "",
                  {"double", "mixed"}),
          setting("coarse_first", AT(flow.coarseFirst), Iteration, "Coarse grid first", "", {},
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
         {setting("speeds_m_s", AT(schedule.speeds), Reading, "Speeds", "m/s", above(0, kFastest), ""),
          setting("alphas_deg", AT(schedule.alphas_deg), Reading, "Alpha", "deg", {-90, 90}, ""),
          setting("betas_deg", AT(schedule.betas_deg), Reading, "Beta", "deg", {-90, 90}, ""),
          setting("methods", AT(schedule.methods), Reading, "Methods", "", {},
                  "by which each condition is run; both: lifting surface and field; the lifting surface needs a model "
                  "that was "
                  "built from numbers, panels a closed one",
                  {"field", "lifting_surface", "both", "panels", "panels_and_field", "all"}),
          setting("first_heights_wind", AT(schedule.heightsWind), Reading, "First heights are for", "", {-1000, 20000},
                  "speed in m/s, altitude in m, degrees above standard of the wind that a target y+ counts for; null: "
                  "the fastest of the schedule in its air")}},
        {"panels",
         {setting("count", AT(panels.count), Look, "Panels", "", {200, 200000},
                  "triangles that the surface is cut into"),
          setting("wakes", AT(panels.wakes), Look, "Wakes", "", {},
                  "from sharp edges that the flow leaves; without them there is no lift"),
          setting("wake_turn_deg", AT(panels.wakeTurn_deg), Look, "Sharp from", "deg", {30, 170},
                  "turn of the surface at an edge that sheds a wake"),
          setting("no_wake_near_m", AT(panels.noWakeNear), Look, "No wake near", "m", {-kFar, kFar},
                  "x, y, z in each: edges near there shed none; null: all do"),
          setting("friction", AT(panels.friction), Look, "Friction", "", {}, "boundary layers along surface lines")}},
        {"shown_units",
         {setting("length", AT(units.length), Look, "Lengths", "", {}, "", symbols(base::lengthUnits())),
          setting("speed", AT(units.speed), Look, "Speeds", "", {}, "", symbols(base::speedUnits())),
          setting("force", AT(units.force), Look, "Forces", "", {}, "", symbols(base::forceUnits())),
          setting("area", AT(units.area), Look, "Areas", "", {}, "", symbols(base::areaUnits()))}},
    };
}

}  // namespace

const std::vector<Group>& settingGroups() {
    static const std::vector<Group> groups = makeGroups();
    return groups;
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

namespace {
// A field: its name, range, default, and what it means.
std::string lineOf(const std::string& name, const std::string& range, const std::string& value,
                   const std::string& meaning) {
    constexpr std::size_t kWidth = 150;
    const auto inBrackets = value.empty() ? range : fmt::format("{}{}{}", range, range.empty() ? "" : "; ", value);
    const auto words = fmt::format("- `{}`{}{}{}", name, inBrackets.empty() ? "" : fmt::format(" ({})", inBrackets),
                                   meaning.empty() ? "" : ": ", meaning);
    return fmt::format("{}\n", base::wrapped(words, kWidth, "  "));
}

std::string inMarkdown(const List& l) {
    std::string out = lineOf(fmt::format("{}.{}", l.group, l.name),
                             l.keyedBy.empty() ? "a list" : fmt::format("an object by {}", l.keyedBy), "", l.help);
    for (const auto& f : l.fields)
        out += lineOf(fmt::format("{}.{}: {}", l.group, l.name, f.name), f.rangeText(), "", f.help);
    return out;
}
}  // namespace

std::string settingsInMarkdown() {
    std::string out;
    const Settings defaults;
    const auto text = [](const json& v) { return v.is_string() ? v.get<std::string>() : v.dump(); };
    for (const auto& g : settingGroups()) {
        for (const auto& r : g.rows) {
            const auto value = text(r.get(defaults));
            out += lineOf(fmt::format("{}.{}", g.name, r.name), r.rangeText(),
                          value.empty() ? "" : fmt::format("default {}", value),
                          fmt::format("{}{}{}", r.label, r.help.empty() ? "" : ", ", r.help));
        }
        for (const auto& l : settingLists()) {
            if (l.group == g.name) out += inMarkdown(l);
        }
    }
    // Groups that hold nothing but lists.
    for (const auto& l : settingLists())
        if (std::none_of(settingGroups().begin(), settingGroups().end(),
                         [&](const auto& g) { return g.name == l.group; }))
            out += inMarkdown(l);
    return out;
}

}  // namespace cvane::campaign
