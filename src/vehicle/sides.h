#pragma once
#include <cstddef>

#include "vehicle/outline.h"

namespace cvane::vehicle {

/// The straight side of a profile from one corner to the next, as a drawing gives its size.
struct Side {
    double length = 0.0;     ///< between the corners [m]
    double slope_deg = 0.0;  ///< of the line on which it lies, up to the rear: above -90, up to 90
};

/// @param from  index of the side's first corner; the last one's side closes the line.
///              Throws InputError where there is none.
Side sideOf(const std::vector<Corner>& line, std::size_t from);

/// Moves the side's second corner along the side, which keeps its slope. Throws InputError for a length that is not
/// above 0.
void setLength(std::vector<Corner>& line, std::size_t from, double length);

/// Turns the side about its first corner by less than a right angle, so that it keeps its length and the way it runs.
/// Throws InputError for a slope beyond -90 and 90.
void setSlope(std::vector<Corner>& line, std::size_t from, double slope_deg);

}  // namespace cvane::vehicle
