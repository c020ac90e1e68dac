#pragma once
#include <optional>

#include "air/free_stream.h"
#include "wing/aircraft.h"

namespace cvane::wing {

/// What a lifting surface measures, both halves of a mirrored one; projected on the plane in which its root lies.
struct SurfaceMeasures {
    double area = 0.0;                ///< [m2]
    double span = 0.0;                ///< [m]
    double aspect = 0.0;              ///< span^2 / area
    double taper = 0.0;               ///< chord of the tip over that of the root
    double sweep_deg = 0.0;           ///< of the quarter line from root to tip
    double meanChord = 0.0;           ///< mean aerodynamic chord [m]
    Vec3 meanQuarter = Vec3::Zero();  ///< its quarter point [m], of a mirrored surface in the mirror plane
    double developed = 0.0;           ///< area unrolled [m2]
};
SurfaceMeasures measure(const Aircraft& aircraft, const LiftingSurface& surface);

/// Volume of a surface as a tail of the first one: area times lever between their mean chords' quarter points, over the
/// first one's area and its mean chord (one that lies flat) or span (one that stands up). Nothing of the first itself.
std::optional<double> tailVolume(const Aircraft& aircraft, std::size_t surface);

/// Reference values of the first surface: area, mean aerodynamic chord, span; about the centre of gravity where there
/// is a mass, else about the quarter point of the mean chord.
air::Reference referenceOf(const Aircraft& aircraft);

}  // namespace cvane::wing
