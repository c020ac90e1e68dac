#pragma once
#include <cmath>
#include <functional>
#include <string>
#include <vector>

#include "campaign/settings/method.h"
#include "campaign/settings/settings.h"

namespace cvane::campaign {

/// Of a configuration or set-up, as people see it: the base has no name of its own.
inline std::string shownName(const std::string& name) {
    return name.empty() ? "base" : name;
}

/// What is run: a configuration in a set-up at a condition by a method. Empty names stand for the base.
struct Point {
    Condition condition;
    std::string configuration = {}, setUp = {};
    Method method = Method::Field;
    bool operator==(const Point&) const = default;
    /// That of the condition; where there is a configuration or set-up, followed by both, and by another method than
    /// the field: "v12.00_a0.00_b0.00@no wheels@base".
    std::string name() const;
};

/// Conditions of the schedule's lists in the order in which they are run: for each speed and sideslip from the smallest
/// angle outwards, so that each starts from a neighbour. Throws InputError: empty lists, speeds that are not above
/// zero, angles beyond 90.
std::vector<Condition> conditionsOf(const Schedule& schedule);

/// Puts another condition in the place of one, which alone changes: the lists of speeds and angles stay unless they
/// make this one only. Throws InputError: there is no such condition, the other is there already, or it is out of
/// range.
void replaceCondition(Schedule& schedule, const Condition& from, const Condition& to);

/// Whether it is one: 0 but for rounding is none.
inline bool isAngle(double degrees) {
    return std::abs(degrees) > 1e-9;
}
/// Why a tunnel cannot have a wind that pitches or yaws, a sentence; empty: it can.
std::string whyNotInTunnel(const grid::Tunnel& tunnel, bool pitches, bool yaws);
/// Throws InputError: a speed or an angle out of range, a wind that the tunnel of these settings cannot have.
void checkCondition(const Settings& settings, const Condition& condition);

/// Adds a condition to the schedule: of every build where there is the base only, else of the point's build alone.
/// @param settings  as the point's configuration and set-up make them
/// Throws InputError as above; it is there already.
void addPoint(Settings& settings, const Point& point);
/// Puts another condition in the place of a point's; of a condition of the lists in every build, of a single point in
/// its own. Throws InputError as above; the point is of a group, or the other is there already.
void movePoint(Settings& settings, const Point& point, const Condition& to);
/// Whether such a move is of every build, where there are several.
bool isOfEveryBuild(const Settings& settings, const Point& point);

/// All points: of each configuration, and in it of each set-up, the conditions of the lists, of groups and single ones.
/// Throws InputError as above; too many; a configuration or set-up that is not there.
std::vector<Point> pointsOf(const Settings& settings);

/// Throws InputError, in which `by` says what of the schedule has the name: no variant has it. Empty: the base.
void checkVariantNamed(const std::vector<Variant>& variants, const std::string& name, const char* by);

/// The conditions whose flows say where cells are halved: of the fastest speed the smallest and the largest alpha and
/// beta, and the one nearest to straight ahead.
std::vector<Condition> conditionsOfFirstFlow(const Schedule& schedule);

/// What air.gas may name: the common gases and the campaign's own.
std::vector<air::Gas> gasesOf(const AirSettings& air);
/// The air of the settings: of the standard atmosphere, or of another gas, pressure or temperature. Throws InputError:
/// no such gas, one that cannot be (air::stateOf).
air::Air airOf(const AirSettings& air);
/// Mach number up to which flow.compressible by Mach number takes air as incompressible.
inline constexpr double kIncompressible = 0.3;
/// Whether this wind is computed with a density of its own in every cell: by flow.compressible; a liquid never.
bool isCompressible(const Settings& settings, const air::FreeStream& wind);

air::FreeStream windOf(const Settings& settings, const Condition& condition);
/// Of all conditions [m/s] but single ones, the tries of a held lift among them: those ask for no other grid.
double fastestSpeed(const Schedule& schedule);

/// Whether the grid rests on a wind: by a target y+, or by the layer of a ground at rest.
bool heightsFollowWind(const Settings& settings);
/// Wind that first heights on the wall and the layer of a ground at rest are for: one that was kept, else the fastest.
/// Throws InputError: its speed is not above 0.
air::FreeStream heightsWindOf(const Settings& settings);
/// The same as the setting that keeps it: speed [m/s], altitude [m], degrees above standard [K].
Vec3 keptHeightsWind(const Settings& settings);

/// First wall height [m] for a y+ by a flat plate's friction at the model's length.
/// Source: F. M. White, Viscous Fluid Flow, turbulent plate, cf = 0.455 / ln^2(0.06 Re_x).
double firstHeightFor(double yPlus, const air::FreeStream& wind, double length);

/// Thickness [m] of the boundary layer that a ground at rest has where the model begins, as on a flat plate at the
/// fastest speed of the schedule.
/// @param length  of the model [m]
double groundLayerOf(const Settings& settings, double length);

/// Thickness [m] of the boundary layer at a place of the model: that of a plate which begins at its nose, in the wind
/// that first heights are for. Throws InputError as heightsWindOf.
/// @param nose  the model's least x [m]
std::function<double(const Vec3&)> layerOnModel(const Settings& settings, double nose);

/// Whether the grid is half of the one that the budget is for.
inline bool isHalfOfBudget(const Settings& s) {
    return s.tunnel.halfModel && s.modelExtent == ModelExtent::HalfWhereSymmetric;
}

/// How much of the model runs and why, a sentence; empty where that is what was asked for and no more is to be said.
/// @param s  as Campaign::of makes them
std::string extentSentence(const Settings& s);

/// Grid settings with the stretch and the first height resolved: of a plate's turbulent layer at the tail a twentieth
/// at most, and that over the largest stretch.
/// @param length   the model's extent along the wind [m]
/// @param stretch  how many times longer cells are along x, y, z (grid::stretchFor), 1 to 3
/// Settings of a half that stands for the whole have half of its cells.
grid::GridSettings gridSettingsOf(const Settings& settings, double length, const Vec3& stretch);

std::string listText(const std::vector<double>& values);

}  // namespace cvane::campaign
