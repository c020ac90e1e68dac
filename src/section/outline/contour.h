#pragma once
#include <string>
#include <vector>

#include "section/outline/spline.h"

namespace cvane::section {

/// A section's outline: from the trailing edge along the upper side round the nose and along the lower side back to it
/// (counter-clockwise, x aft, z up). The first and the last point coincide on a sharp trailing edge and are the corners
/// of the base on a blunt one.
struct Contour {
    std::string name;
    std::vector<Vec2> points;
    bool operator==(const Contour&) const = default;

    Vec2 trailingEdge() const { return 0.5 * (points.front() + points.back()); }
};

/// What a section is, in chords.
struct Figures {
    Vec2 nose = Vec2::Zero(), tail = Vec2::Zero();  ///< ends of the chord line, as given
    double chord = 1.0;                             ///< length of the chord line [as given]
    double angle = 0.0;                             ///< of the chord line, nose up [rad]
    double thickness = 0.0, thicknessAt = 0.0;      ///< largest, across the chord line
    double camber = 0.0, camberAt = 0.0;            ///< largest by its amount, with its sign
    double noseRadius = 0.0;
    double gap = 0.0;             ///< of the trailing edge
    double trailingAngle = 0.0;   ///< between the two sides at the trailing edge [rad]
    std::vector<Vec2> meanLine;   ///< x/c, camber/c
    std::vector<Vec2> halfDepth;  ///< x/c, half thickness/c
};

/// An outline whose ends lie this near to (0, 0) and (1, 0) has its chord line between those: that of a cambered
/// section by formula ends at the nose of the mean line, not at the point farthest from the tail.
inline constexpr double kPlaced = 0.01;

/// z at x along the pieces of a curve whose x ascends; beyond its ends that of the end.
double heightAt(const std::vector<Vec2>& curve, double x);

/// Measures an outline. The nose is the point farthest from the middle of the trailing edge, unless it is placed.
/// Throws InputError: fewer than five points, no chord.
Figures measure(const Contour& contour);

/// Turned, moved and scaled so that the chord line lies from (0, 0) to (1, 0). Throws InputError as above.
Contour onUnitChord(const Contour& contour);

/// Points from the nose to the tail by upper side and lower side (each begins at the nose).
struct TwoSides {
    std::vector<Vec2> upper, lower;
};
TwoSides sidesOf(const Contour& contour);
/// The outline of two sides, each from nose to tail.
Contour fromSides(std::string name, const std::vector<Vec2>& upper, const std::vector<Vec2>& lower);

/// The outline of a mean line and a half thickness put on across it, with `n` points along each side, close at the
/// ends. Places are x/c; `slope` is of the mean line.
struct Ordinate {
    double x, camber, slope, half;
};
Contour fromOrdinates(std::string name, const std::vector<Ordinate>& fromNoseToTail);
/// n + 1 places from 0 to 1, close at both ends: (1 - cos) / 2.
std::vector<double> cosinePlaces(int n);

/// A blunt trailing edge this small [chords] is taken for a sharp one.
inline constexpr double kSharpGap = 2e-4;

}  // namespace cvane::section
