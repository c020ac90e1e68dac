#pragma once
#include <filesystem>
#include <string>

#include "section/outline/contour.h"

namespace cvane::section {

/// Reads a text of points. Taken are: one loop from the trailing edge round the nose and back in either sense, or from
/// the nose round; two lists, upper and lower, each from nose to tail; with a line of words before them (the name),
/// with a line of the two lists' counts; numbers parted by blanks, tabs, commas or semicolons (decimal commas too when
/// parted by anything else); Windows line ends; doubled points at nose and tail; unit chord, per cent or any length.
/// The order is recognised. A chord line that lies within 1 % of (0, 0) to (1, 0) is taken as it is, any other is laid
/// there.
/// Throws InputError: nothing to read, a line that is not two numbers, a number that is not finite, fewer than 7 or
/// more than 5,000 points, no chord, a side that is missing.
Contour readCoordinates(const std::string& text, const std::string& name);
Contour readCoordinateFile(const std::filesystem::path& path);

enum class PointOrder { Loop, TwoLists };
/// The outline as a text with its name, in chords; six digits behind the point.
std::string writeCoordinates(const Contour& contour, PointOrder order);

/// A section from a file, a code or a mix of such; a file of that name goes first.
Contour sectionFrom(const std::string& fileOrCode);

}  // namespace cvane::section
