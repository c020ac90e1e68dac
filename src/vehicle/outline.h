#pragma once
#include <string>
#include <vector>

#include "base/vec3.h"

namespace cvane::vehicle {

/// A corner of a profile, rounded by an arc.
struct Corner {
    double x = 0.0, z = 0.0;  ///< [m]; in plan z is the half width
    double radius = 0.0;      ///< [m]
    bool operator==(const Corner&) const = default;
};

/// Wheels on one axle, or one wheel.
struct Wheel {
    std::string name = "wheel";
    double x = 0.0;       ///< of its centre [m]
    double radius = 0.3;  ///< it stands on the ground [m]
    double width = 0.2;   ///< [m]
    double track = 1.4;   ///< between the middles of both [m]; 0: one in the middle
    double edge = 0.02;   ///< radius of its edges [m]
    bool operator==(const Wheel&) const = default;
};

/// A splitter, sill, spoiler or end plate: a box with rounded edges.
struct Plate {
    std::string name = "plate";
    Vec3 middle = Vec3::Zero();                       ///< [m], z from the ground
    double length = 0.2, width = 1.0, height = 0.02;  ///< along the wind, across it, up [m]
    double angle_deg = 0.0;                           ///< nose up about y
    double edge = 0.005;                              ///< radius of its edges [m]
    bool mirrored = false;                            ///< in y = 0
    bool operator==(const Plate&) const = default;
};

/// A vehicle from its outline: nose at small x, ground at z = 0, symmetric in y = 0.
struct Outline {
    std::string name;
    std::vector<Corner> profile;  ///< side view of the body, from the nose over the roof to the tail and back below
    std::vector<Corner> plan;     ///< half widths from nose to tail
    double clearance = 0.15;      ///< of the profile's z = 0 over the ground [m]
    double edge = 0.05;           ///< radius along the body, between its top, sides and underside [m]
    double diffuserLength = 0.0, diffuser_deg = 0.0;  ///< of the underside, up to the tail [m]
    std::vector<Wheel> wheels;
    std::vector<Plate> plates;
    bool operator==(const Outline&) const = default;
};

/// One that a sketch can begin with: a small delivery van.
Outline startingOutline();

/// Throws InputError that names the corner, wheel or plate: fewer than three corners, a line that crosses itself, a
/// radius that its corner's sides have no room for, half widths that are not above 0 or do not reach over the profile,
/// an edge too round for the body, a wheel that does not reach below the body or stands beside it, a plate without
/// thickness, names that come twice.
void check(const Outline& outline);

/// What is different between two, a line each, in numbers with units. Corners are told by their number, wheels and
/// plates by their name.
std::vector<std::string> differences(const Outline& from, const Outline& to);

}  // namespace cvane::vehicle
