#pragma once
#include <string>
#include <vector>

#include "campaign/settings/settings.h"

namespace cvane::campaign {

/// Points as a table is pasted: a row of speed [m/s], alpha [deg] and where wanted beta [deg], configuration and set-up
/// ("base" or nothing: the base), parted by tabs, semicolons or commas, or by blanks where the row has none of these. A
/// head is passed over. Throws InputError naming the row: words in place of numbers, too few or too many fields, out of
/// range.
std::vector<SinglePoint> pointsInTable(const std::string& text, const std::string& where);

/// Adds single points that the schedule does not run yet. Throws InputError: a configuration or set-up that is not
/// there, too many. @return how many were new
int addPoints(Settings& settings, const std::vector<SinglePoint>& points);

/// Makes a configuration or a set-up for each value of one setting, by the side that it belongs to; those that the base
/// has already are left out. Of a vector one component may be named: "model.rotation_deg.y". Returns their names.
/// Throws InputError: the setting belongs to neither side, a value that it cannot have, a name that is taken.
std::vector<std::string> vary(Settings& settings, const std::string& setting, const std::vector<std::string>& values);

}  // namespace cvane::campaign
