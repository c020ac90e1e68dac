#pragma once
#include <filesystem>
#include <nlohmann/json.hpp>
#include <optional>
#include <string>
#include <vector>

#include "air/free_stream.h"
#include "flow/devices.h"
#include "flow/settings.h"
#include "grid/build.h"
#include "grid/tunnel.h"
#include "shape/placement.h"
#include "shape/surface.h"

namespace cvane::campaign {

/// Where the reference area comes from.
enum class AreaFrom { Frontal, Side, Planform, Typed };

/// Reference values; an empty one is computed from the placed model.
struct ReferenceSettings {
    AreaFrom areaFrom = AreaFrom::Frontal;
    double typedArea = 1.0;  ///< [m2]
    std::optional<double> length, span;
    std::optional<Vec3> momentCentre;
    bool operator==(const ReferenceSettings&) const = default;
};

struct ModelSettings {
    std::string file;         ///< within the campaign's folder: "models/name.stl"
    std::string unit = "m";   ///< of the file
    std::vector<shape::Part> parts;
    shape::Placement placement;
    bool operator==(const ModelSettings&) const = default;
};

struct AirSettings {
    double altitude = 0.0;           ///< [m]
    double temperatureOffset = 0.0;  ///< [K]
    bool operator==(const AirSettings&) const = default;
};

/// Speeds, angles of attack and sideslip that are combined into points.
struct Schedule {
    std::vector<double> speeds{20.0};     ///< [m/s]
    std::vector<double> alphas_deg{0.0};
    std::vector<double> betas_deg{0.0};
    bool operator==(const Schedule&) const = default;
};

/// A wheel: a part whose surface turns about its axle.
struct Wheel {
    std::string part;
    bool rolling = true;         ///< with the moving air or ground under it; else by rpm
    double rpm = 0.0;            ///< above 0 as when rolling forwards
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

/// Units in which values are shown; the files stay in SI.
struct ShownUnits {
    std::string length = "m", speed = "m/s", force = "N", area = "m2";
    bool operator==(const ShownUnits&) const = default;
};

/// All settings of one study. A value: comparing two says whether anything changed, keeping an old one is undo.
struct Settings {
    std::string name;
    ModelSettings model;
    ReferenceSettings reference;
    AirSettings air;
    grid::Tunnel tunnel;
    grid::GridSettings grid;
    bool leaveGapsFilled = false;  ///< run although the grid has filled gaps
    double targetYPlus = 0.0;  ///< above 0: the first wall height follows from the wind, grid.firstHeight is not used
    double wakeAlpha_deg = 0.0, wakeBeta_deg = 0.0;  ///< wind along which the refined wake leads
    flow::FlowSettings flow;
    Devices devices;
    Schedule schedule;
    ShownUnits units;
    bool operator==(const Settings&) const = default;
};

/// Settings as campaign.json; names carry units. docs/files.md describes every field.
nlohmann::json toJson(const Settings& settings);
/// Throws InputError naming the field: wrong type, not finite, newer schema.
Settings settingsFromJson(const nlohmann::json& json, const std::string& where);

/// A folder `name.cvane` on disk.
class Campaign {
  public:
    /// New folder around a copy of a model file. Throws InputError (exists already, cannot be written, bad model).
    static Campaign create(const std::filesystem::path& folder, const std::filesystem::path& modelFile, const std::string& unit);
    /// Throws InputError: not a campaign, damaged, newer version.
    static Campaign open(const std::filesystem::path& folder);

    void save() const;  ///< replaces campaign.json in one step
    const std::filesystem::path& folder() const { return folder_; }
    Settings settings;

    std::filesystem::path modelFile() const { return folder_ / settings.model.file; }

  private:
    explicit Campaign(std::filesystem::path folder) : folder_(std::move(folder)) {}
    std::filesystem::path folder_;
};

}  // namespace cvane::campaign
