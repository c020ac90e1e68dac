#pragma once
#include <utility>
#include <vector>

namespace cvane::shape {

/// A wing section with unit chord as a closed line of (x, z): from the trailing edge over the upper side to the leading
/// edge and back along the lower side. First and last point are the trailing edge.
using SectionLine = std::vector<std::pair<double, double>>;

/// Four-digit section with a sharp trailing edge. m: camber, p: its place, t: thickness, all in chords;
/// n points on each side, clustered by cosine to both ends.
/// Source: I. H. Abbott and A. E. von Doenhoff, Theory of Wing Sections, 1959, eq. 6.2 and 6.4, with the last thickness
/// coefficient 0.1036 so that the trailing edge closes.
SectionLine fourDigitSection(double m, double p, double t, int n);

}  // namespace cvane::shape
