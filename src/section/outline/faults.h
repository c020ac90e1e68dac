#pragma once
#include <string>
#include <vector>

#include "section/outline/contour.h"

namespace cvane::section {

/// Something about an outline that spoils a flow around it.
struct Fault {
    enum class Kind { Crossing, OutOfOrder, Kink, FewAtNose, OpenTail, OffChord };
    enum class Mend { None, Refair, CloseTail, CutTail, OntoChord };
    Kind kind;
    Vec2 place;
    std::string sentence;
    Mend mend = Mend::None;
};

/// In order of weight; of one kind the worst five.
std::vector<Fault> faultsOf(const Contour& contour);

/// Smooth sides of the same section: each is sqrt(x) (1 - x) times a polynomial plus its share of the gap, by least
/// squares. Source: B. M. Kulfan, J. Aircraft 45(1), 2008. @param departs out: the farthest that a point was moved
/// [chords]. Throws InputError: as measure.
Contour refaired(const Contour& contour, double& departs);
/// The gap taken out, by as much at each x as x / c.
Contour withClosedTail(const Contour& contour);
/// The part behind x [chords] taken away, which leaves a blunt edge. Throws InputError: x outside 0.5 .. 1.
Contour cutAt(const Contour& contour, double x);
Contour mended(const Contour& contour, Fault::Mend mend);

}  // namespace cvane::section
