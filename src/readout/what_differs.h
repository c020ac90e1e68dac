#pragma once
#include <optional>
#include <string>

#include "readout/loading.h"
#include "readout/result.h"

namespace cvane::readout {

/// A stretch along an axis [m].
struct Stretch {
    double from = 0.0, to = 0.0;
};

/// A force along an axis, over its dynamic pressure: what one point brings into a comparison.
struct Carrying {
    const Loading& loading;
    Vec3 way;        ///< the force's way that counts, of unit length
    double q = 1.0;  ///< [Pa]
};

/// The shortest stretch in which 60 % of the difference of two forces lie. Nothing where that is more than half of
/// both models' extent, or where they differ by nothing.
std::optional<Stretch> stretchOfDifference(const Carrying& reference, const Carrying& other);

/// The part whose drag coefficient differs the most the way that the whole does; a part that one of them does not have
/// counts with all that it has. Nothing where no part has three tenths of the difference or more, or there is one part
/// only.
std::optional<std::string> partOfDifference(const Result& reference, const Result& other);

/// "no wheels less base: CD -0.0624 (-55.9 %) +- 0.0031, CL +0.012 +- 0.004; most of it between x 0.6 and 1 m (front
/// wheels)." Says where a band is not known, and where the difference is no larger than its band.
/// @param where  of the difference in drag, along x
std::string sentenceOfDifference(const std::string& otherName, const std::string& referenceName,
                                 const Result& reference, const Result& other, const std::optional<Stretch>& where);

}  // namespace cvane::readout
