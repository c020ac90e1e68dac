#pragma once
#include <optional>
#include <string>

#include "section/outline/contour.h"

namespace cvane::section {

/// Mean line and half thickness of a family of sections; in chords.
struct FormulaSection {
    /// z and slope of the mean line at x/c.
    struct Mean {
        double z = 0.0, slope = 0.0;
    };
    enum class MeanLine { None, TwoArcs, ThreeDigit, ThreeDigitReflexed, UniformLoad };
    enum class Thickness { FourDigit, FourDigitModified, Ellipse, Laminar };
    MeanLine mean = MeanLine::None;
    double camber = 0.0, camberAt = 0.4;  ///< of two arcs, and the place of the camber in the three-digit lines
    double designLift = 0.0;              ///< cl of the three-digit lines and of uniform load
    double loadUntil = 1.0;               ///< a: the load is uniform to there and falls to 0 at the trailing edge
    Thickness form = Thickness::FourDigit;
    double thickness = 0.12;
    std::optional<double> tail;  ///< thickness of the trailing edge of the four-digit form; nothing: the published one
    double noseIndex = 6.0, thicknessAt = 0.3;  ///< of the modified four-digit form
    double lowestPressureAt = 0.4;              ///< of the laminar form
};

/// The outline with n points along each side. Throws InputError: what is beyond its range (the message says which).
/// Sources: four-digit, NACA Report 460 (1933); modified four-digit, NACA Report 492 (1934); five-digit mean lines,
/// NACA Reports 537 (1935) and 610 (1937, reflexed); uniform load, NACA Report 824 (1945), appendix; laminar forms are
/// computed for each (section/outline/laminar_form.h).
Contour outlineOf(const FormulaSection& section, std::string name, int n = 120);

/// A section by its code:
///   4412             four digits: camber [%], its place [tenths], thickness [%]
///   arcs:2.5,40,13   the same from numbers: camber [%], its place [%], thickness [%]; with ,0 a trailing edge of that
///                    thickness [%]
///   0012-64          four digits with nose index 6 and largest thickness at 4 tenths
///   23012, 23112     five digits: 3/20 of the design lift, twice the place of camber [tenths], 1 if reflexed
///   ellipse:12       thickness [%]
///   plate:2          a plate with round edges, thickness [%]
///   laminar:15,40    thickness [%], lowest pressure at [%]; with ,0.3 a mean line of uniform load for cl 0.3, and
///   laminar:15,40,0.3,0.8   of uniform load to 0.8 of the chord
///   load:0.4,0.8,12  the same mean line under the four-digit thickness of 12 %
/// A code is told from a file's name by its look. Throws InputError: no such code (which ones there are), numbers
/// beyond their range.
Contour sectionFromCode(const std::string& code);
bool looksLikeCode(const std::string& text);

}  // namespace cvane::section
