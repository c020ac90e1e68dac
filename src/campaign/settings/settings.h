#pragma once
#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <vector>

#include "air/free_stream.h"
#include "air/gas.h"
#include "campaign/settings/flow_items.h"
#include "campaign/settings/schedule.h"
#include "flow/devices.h"
#include "flow/settings.h"
#include "grid/build.h"
#include "grid/tunnel.h"
#include "shape/placement.h"
#include "shape/surface.h"
#include "vehicle/outline.h"
#include "wing/aircraft.h"

namespace cvane::campaign {

/// Where the reference area comes from.
enum class AreaFrom { Frontal, Side, Planform, Typed, Wing };

/// How much of the model stands in the tunnel.
enum class ModelExtent {
    Whole,
    Half,               ///< the starboard half, whatever is at port
    HalfWhereSymmetric  ///< the half in a wind without sideslip where model and settings are their own mirror image
};

/// Reference values; an empty one is computed from the placed model.
struct ReferenceSettings {
    AreaFrom areaFrom = AreaFrom::Frontal;
    double typedArea = 1.0;  ///< [m2]
    std::optional<double> length, span;
    std::optional<Vec3> momentCentre;
    std::optional<double> frontAxle, rearAxle;  ///< x [m]; empty: those of the wheels
    bool operator==(const ReferenceSettings&) const = default;
};

struct ModelSettings {
    std::string file;                         ///< within the campaign's folder: "models/name.stl"; empty: none
    std::optional<wing::Aircraft> aircraft;   ///< from numbers, in place of a file
    std::optional<vehicle::Outline> outline;  ///< of a vehicle, in place of a file
    std::string unit = "m";                   ///< of the file; solids know their own
    std::optional<double> facetTolerance;     ///< of solids [m]; empty: the usual one of their size
    std::vector<shape::Part> parts;
    shape::Placement placement;
    std::optional<double> rideHeight;  ///< [m]; empty: the tunnel's
    bool any() const { return !file.empty() || aircraft.has_value() || outline.has_value(); }
    bool operator==(const ModelSettings&) const = default;

    /// Under which a part of this name is known to grids, runs and patches; a name that no part has is returned as it
    /// is.
    const std::string& idOf(const std::string& name) const;
    const std::string& nameOf(const std::string& id) const;  ///< and back
};

struct AirSettings {
    double altitude = 0.0;           ///< [m]
    double temperatureOffset = 0.0;  ///< [K]
    std::string gas = "air";         ///< one of air::commonGases() or of ownGases
    /// Typed in place of the standard atmosphere's [Pa], [K].
    std::optional<double> pressure, temperature;
    std::vector<air::Gas> ownGases;
    bool operator==(const AirSettings&) const = default;
};

/// A wheel: a part whose surface turns about its axle.
struct Wheel {
    std::string part;
    bool rolling = true;               ///< with the moving air or ground under it; else by rpm
    double rpm = 0.0;                  ///< above 0 as when rolling forwards
    std::optional<Vec3> axis, centre;  ///< found from the part's shape when not typed
    bool operator==(const Wheel&) const = default;
};

/// What moves, roughens, pushes and brakes the air in the tunnel.
struct Devices {
    std::vector<Wheel> wheels;
    std::vector<flow::RoughPart> roughParts;
    std::vector<flow::Disc> discs;
    std::vector<flow::PorousBlock> blocks;
    bool operator==(const Devices&) const = default;
};

/// A section of the campaign: where its outline comes from, and what is changed of it.
struct SectionEntry {
    std::string name;
    /// A code ("4412"), a file within the campaign's folder ("sections/name.dat"), or a mix of named sections and
    /// codes.
    std::string source;
    std::optional<double> thickness, thicknessAt, camber, camberAt, noseRadius;  ///< chords; empty: as it comes
    double flapHinge = 0.75, flapAngle_deg = 0.0;                                ///< 0: no flap
    bool shown = true;                                                           ///< takes part in polars and plots
    bool operator==(const SectionEntry&) const = default;
};

/// Sections and what their polars are computed for.
struct SectionSettings {
    std::vector<SectionEntry> sections;
    std::vector<double> reynolds{1e6};
    std::vector<double> mach{0.0}, nCritical{9.0};
    std::vector<double> flapTurns_deg{0.0};   ///< on top of each section's own flap angle
    double tripUpper = 1.0, tripLower = 1.0;  ///< x/c; 1: not tripped
    bool fixedLift = false;                   ///< reynolds are Re sqrt(cl)
    double first_deg = -6.0, last_deg = 16.0, step_deg = 1.0;
    int panels = 160;
    std::vector<double> fieldAngles_deg{0.0, 4.0, 8.0};
    int fieldLevel = 1;  ///< of the C grid: 0, 1, 2
    bool operator==(const SectionSettings&) const = default;
};

/// How panels find the flow of a point.
struct PanelSettings {
    int count = 4000;
    bool wakes = true;
    double wakeTurn_deg = 60.0;
    std::optional<std::vector<double>> noWakeNear;  ///< x, y, z in each [m]
    bool friction = true;
    bool operator==(const PanelSettings&) const = default;
};

/// Units in which values are shown; the files stay in SI.
struct ShownUnits {
    std::string length = "m", speed = "m/s", force = "N", area = "m2";
    bool operator==(const ShownUnits&) const = default;
};

/// A change of the base settings under a name: of the model's side (a configuration) or of the tunnel's (a set-up).
struct Variant {
    std::string name;
    nlohmann::json patch = nlohmann::json::object();  ///< JSON merge patch (RFC 7396) on the base's campaign.json
    bool operator==(const Variant&) const = default;
};

/// All settings of one study. A value: comparing two says whether anything changed, keeping an old one is undo.
struct Settings {
    std::string name;
    ModelSettings model;
    ReferenceSettings reference;
    AirSettings air;
    /// Its halfModel and mirrored follow from modelExtent, the model and the wind: Campaign::of.
    grid::Tunnel tunnel;
    ModelExtent modelExtent = ModelExtent::HalfWhereSymmetric;
    grid::GridSettings grid;
    bool cellsFollowFlow = false;                       ///< a first flow says where cells are halved
    bool leaveGapsFilled = false;                       ///< run although the grid has filled gaps
    std::optional<std::vector<double>> gapsLeftFilled;  ///< of those that may stay filled x, y, z in each [m]
    double targetYPlus = 0.0;  ///< above 0: the first wall height follows from the wind, grid.firstHeight is not used
    double wakeAlpha_deg = 0.0, wakeBeta_deg = 0.0;  ///< wind along which the refined wake leads
    flow::FlowSettings flow;
    Devices devices;
    Schedule schedule;
    SectionSettings sections;
    PanelSettings panels;
    ShownUnits units;
    std::vector<FlowItem> flowItems;  ///< in the order in which they are listed
    std::vector<SavedView> views;
    std::vector<PressurePlane> pressurePlanes;    ///< in the order in which they are gone through
    std::vector<Variant> configurations, setUps;  ///< besides the base, which is run too
    bool operator==(const Settings&) const = default;
};

/// Settings as campaign.json; names carry units. docs/files.md describes every field.
nlohmann::json toJson(const Settings& settings);
/// Of any schema up to the present one. Throws InputError naming the field: unknown (with the nearest known name),
/// wrong type, out of its range; a newer schema.
Settings settingsFromJson(const nlohmann::json& json, const std::string& where);
/// Throws InputError naming the first field that is out of its range.
void checkRanges(const Settings& settings, const std::string& where);

/// Gives a part another name, with all that refers to it. Throws InputError: no such part, a name that is empty or
/// taken.
void renamePart(Settings& settings, const std::string& from, const std::string& to);

/// Makes an aircraft from numbers the model. Its parts are those that its surfaces and bodies are; what was hidden or
/// renamed of them stays so. Throws InputError: it cannot be (wing::check).
void setAircraft(Settings& settings, const wing::Aircraft& aircraft);
/// The same of a vehicle's outline; its parts are body, wheels and plates. Throws InputError (vehicle::check).
void setOutline(Settings& settings, const vehicle::Outline& outline);

}  // namespace cvane::campaign
