#pragma once
#include <optional>
#include <string>

#include "section/outline/contour.h"

namespace cvane::section {

/// What is changed of a section; what is not given stays.
struct SectionEdit {
    std::optional<double> thickness, thicknessAt;  ///< chords
    std::optional<double> camber, camberAt;
    std::optional<double> noseRadius;
    bool operator==(const SectionEdit&) const = default;
};

/// The section with its half thickness and mean line scaled, and their places moved by a power of x. The nose radius is
/// scaled within the first tenth of the chord. Throws InputError: thickness outside 0.5 .. 60 %, camber beyond 25 %,
/// places outside 5 .. 95 %, a radius that is not positive, camber asked of a section that has none to scale.
Contour edited(const Contour& contour, const SectionEdit& edit);

/// (1 - share) of the first and share of the second, side by side at each x. Throws InputError: share outside 0 .. 1.
Contour between(const Contour& first, const Contour& second, double share);

/// "mix:4412+0012,30": 30 % of the second section in the first, as `between` makes it.
struct Mix {
    std::string first, second;
    double share = 0.5;  ///< of the second
};
/// Nothing: not of this form. Throws InputError: the share is no number from 0 to 100.
std::optional<Mix> mixFrom(const std::string& code);

/// A plain flap, hinged on the mean line at x/c and turned down by an angle [rad]: the side that opens follows an arc
/// about the hinge, the side that closes is cut where its halves meet. Throws InputError: hinge outside 0.3 .. 0.95,
/// angle beyond 45 degrees.
Contour withFlap(const Contour& contour, double hinge, double angle);

}  // namespace cvane::section
