#pragma once
#include "lifting/runs.h"
#include "view/item_shape.h"

namespace cvane::view {

/// How large loads are drawn; the same for all angles, so that one can be played through after the other.
struct LoadingScale {
    double length = 0.0;   ///< of a load per span of the dynamic pressure times the reference length [m]
    double deltaCp = 1.0;  ///< end of the colours
};
LoadingScale loadingScaleOf(const lifting::Outcome& outcome);

/// The load of one angle as something to be seen: the aircraft stands in the wind, which blows along x.
struct LoadingPicture {
    ItemShape panels;              ///< of both halves, by the pressure of the lower side less that of the upper one
    ItemShape loading;             ///< load per span, upright on the quarter line: a sheet a half
    ItemShape edge;                ///< its upper edge, and down at the tips
    ItemShape wakes;               ///< lines that leave the trailing edges
    ItemShape stalled;             ///< outlines of strips that carry more than their sections can
    Mat3 turn = Mat3::Identity();  ///< from the model frame, about `centre`
    Vec3 centre = Vec3::Zero();    ///< [m]
    Vec3 at(const Vec3& p) const { return centre + turn * (p - centre); }
};
/// @param row  number of an angle of the outcome
LoadingPicture loadingPicture(const wing::Aircraft& aircraft, const lifting::Asked& asked,
                              const lifting::Outcome& outcome, std::size_t row, const LoadingScale& scale);

}  // namespace cvane::view
