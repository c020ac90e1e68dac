#pragma once
#include <string>
#include <vector>

#include "vehicle/outline.h"

namespace cvane::vehicle {

using Point2 = Eigen::Vector2d;

/// A closed or open line of corners with their arcs, as places that can be moved inwards together.
class RoundedLine {
  public:
    /// @param where  for errors.  Throws InputError: a radius without room, corners in one place.
    RoundedLine(const std::vector<Corner>& corners, bool closed, double chord, const std::string& where);
    /// Places at a distance to the left of the line [m]: as many whatever the distance. An arc that has no room any
    /// more becomes the point at which its sides meet.
    std::vector<Point2> inset(double distance) const;
    /// Cuts the pieces between places where they pass from one of these x to the next [m]. @return of each place the
    /// number of its x
    /// @param x  rising; each place at this distance has one of them, but for a rounding
    std::vector<std::size_t> cutAt(const std::vector<double>& x, double distance);
    /// The greatest distance at which no straight piece has turned round, up to `most`; the corner that it is at.
    std::pair<double, std::size_t> room(double most) const;

  private:
    struct Place {
        std::size_t corner;
        Point2 direction;  ///< from the arc's centre, unit; zero: at the mitre
    };
    struct Cut {
        std::size_t place;  ///< between this and the next
        double share;
    };
    struct Round {
        Point2 at, in, out;               ///< corner; unit directions of the sides
        double radius = 0.0, turn = 0.0;  ///< turn to the left above 0 [rad]
    };
    Point2 mitre(std::size_t corner, double distance) const;
    Point2 arc(std::size_t corner, const Point2& direction, double distance) const;
    std::pair<Point2, Point2> straight(std::size_t corner, double distance) const;  ///< behind the corner
    bool closed_;
    std::vector<Round> rounds_;
    std::vector<Place> places_;
    std::vector<Cut> cuts_;  ///< what is returned: places (share 0) and what lies between them
    std::vector<Point2> placesAt(double distance) const;
};

}  // namespace cvane::vehicle
