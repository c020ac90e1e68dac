#pragma once
#include <string>
#include <vector>

#include "campaign/campaign.h"

namespace cvane::campaign {

/// One condition of the schedule.
struct Point {
    double speed = 0, alpha_deg = 0, beta_deg = 0;
    bool operator==(const Point&) const = default;
    std::string name() const;  ///< folder name: "v12.00_a-2.00_b0.00"
};

/// Points of the schedule in the order in which they are run: for each speed and sideslip from the smallest angle outwards,
/// so that each starts from a neighbour. Throws InputError: empty lists, speeds that are not above zero, angles beyond 90.
std::vector<Point> pointsOf(const Schedule& schedule);

air::FreeStream windOf(const Settings& settings, const Point& point);

/// First wall height [m] for a y+ by a flat plate's friction at the model's length.
/// Source: F. M. White, Viscous Fluid Flow, turbulent plate, cf = 0.455 / ln^2(0.06 Re_x).
double firstHeightFor(double yPlus, const air::FreeStream& wind, double length);

/// Thickness [m] of the boundary layer that a ground at rest has where the model begins, as on a flat plate at the fastest speed of the schedule.
/// @param length  of the model [m]
double groundLayerOf(const Settings& settings, double length);

/// Grid settings with the first height resolved; `length` is the model's extent along the wind.
grid::GridSettings gridSettingsOf(const Settings& settings, double length);

/// "2, 4:10:2" -> 2 4 6 8 10. Throws InputError naming what cannot be read.
std::vector<double> parseList(const std::string& text, const std::string& where);
std::string listText(const std::vector<double>& values);

}  // namespace cvane::campaign
