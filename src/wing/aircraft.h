#pragma once
#include <map>
#include <string>
#include <vector>

#include "base/vec3.h"
#include "section/outline/contour.h"

namespace cvane::wing {

/// How the strips or rows of a panel grow: alike, narrow at both ends, or narrow at one of them.
enum class Spacing { Equal, BothEnds, Inner, Outer };

/// A rib of a lifting surface, and the panel from it to the next one.
struct Station {
    double along = 0.0;            ///< place along the surface, unrolled, from its root [m]
    double leading = 0.0;          ///< leading edge aft of that of the root [m]
    double chord = 1.0;            ///< [m]
    double twist_deg = 0.0;        ///< about the quarter chord, nose up
    std::string section = "0012";  ///< a code, or a name of Aircraft::sections
    double dihedral_deg = 0.0;     ///< of the panel outboard of it, tip up
    int strips = 8;                ///< of that panel
    Spacing spacing = Spacing::Equal;
    bool operator==(const Station&) const = default;
};

/// A part of a surface that turns about a hinge line.
struct Control {
    std::string name;
    double from = 0.0, to = 1.0;  ///< places along the surface [m]
    double hinge = 0.75;          ///< [chords]
    double angle_deg = 0.0;       ///< trailing edge towards the surface's lower side
    bool against = false;         ///< turns the other way on the mirrored half, as an aileron does
    bool operator==(const Control&) const = default;
};

/// Wing, tail, fin, canard or winglet.
struct LiftingSurface {
    std::string name = "wing";
    Vec3 place = Vec3::Zero();   ///< leading edge of the root [m]
    double incidence_deg = 0.0;  ///< of the whole, about its root's quarter chord, nose up
    double roll_deg = 0.0;       ///< about x through the root: 0 lies flat to starboard, 90 stands up
    bool mirrored = true;        ///< in y = 0
    int rows = 8;                ///< along the chord
    Spacing rowSpacing = Spacing::Equal;
    bool roundTip = false;
    std::vector<Station> stations;
    std::vector<Control> controls;
    bool operator==(const LiftingSurface&) const = default;
};

/// A frame of a body: a superellipse |y / (w/2)|^n + |z / (h/2)|^n = 1.
struct BodyStation {
    double x = 0.0, z = 0.0;           ///< of its middle, from the body's place [m]
    double width = 0.0, height = 0.0;  ///< [m]; 0 at a point
    double power = 2.0;                ///< n: 2 is an ellipse, more is fuller
    bool operator==(const BodyStation&) const = default;
};
struct Body {
    std::string name = "body";
    Vec3 place = Vec3::Zero();  ///< [m]
    bool mirrored = false;      ///< in y = 0
    std::vector<BodyStation> stations;
    bool operator==(const Body&) const = default;
};

/// A propeller as the disc that it sweeps, which pushes the air evenly.
struct Propeller {
    std::string name = "propeller";
    Vec3 centre = Vec3::Zero();        ///< [m]
    Vec3 axis = Vec3::UnitX();         ///< the way in which the air is pushed; any length
    double diameter = 0.3, hub = 0.0;  ///< of the ring [m]
    double thrust = 0.0;               ///< of each [N]
    double rpm = 0.0;                  ///< right-handed about the axis; 0: the slipstream does not turn
    bool mirrored = false;             ///< in y = 0, turning the other way
    bool operator==(const Propeller&) const = default;
};

/// An aircraft from a few numbers, in the model frame.
struct Aircraft {
    std::string name;
    std::vector<LiftingSurface> surfaces;  ///< the first is the one that reference values are of
    std::vector<Body> bodies;
    std::vector<Propeller> propellers;
    double mass = 0.0;                                 ///< [kg]; 0: not known
    Vec3 centreOfGravity = Vec3::Zero();               ///< [m]
    std::map<std::string, section::Contour> sections;  ///< outlines of its own, by name
    bool operator==(const Aircraft&) const = default;
};

/// Throws InputError that names surface and station: chords that are not above 0, stations out of order, sections that
/// are neither a code nor its own, controls beyond their surface, bodies that run backwards, propellers without a ring,
/// too many panels.
void check(const Aircraft& aircraft);

/// Those of an aircraft with the images of the mirrored ones, which are called "NAME, port" and turn the other way.
std::vector<Propeller> propellersOf(const Aircraft& aircraft);

/// How many panels its lattice has, both halves of mirrored surfaces.
std::size_t panelsOf(const Aircraft& aircraft);
inline constexpr std::size_t kMostPanels = 20000;

}  // namespace cvane::wing
