#pragma once
#include <cmath>
#include <numbers>

#include "base/units.h"
#include "lifting/vortex_lattice.h"
#include "wing/measures.h"

namespace cvane::bench {

/// A wing of flat sections with a straight quarter line, chord 1 at the root.
inline wing::Aircraft flatWing(double halfSpan, double sweep_deg, double taper, int rows, int strips,
                               wing::Spacing spacing = wing::Spacing::Equal) {
    wing::Aircraft a;
    a.name = "flat wing";
    wing::LiftingSurface s;
    s.rows = rows;
    s.stations.resize(2);
    s.stations[0].strips = strips;
    s.stations[0].spacing = spacing;
    s.stations[1].along = halfSpan;
    s.stations[1].chord = taper;
    s.stations[1].leading = halfSpan * std::tan(sweep_deg * base::degree) + 0.25 * (1.0 - taper);
    a.surfaces.push_back(s);
    return a;
}

/// Elliptic planform by many straight panels, chord 1 at the root. @param straight  the line that has no sweep [chords]
inline wing::Aircraft ellipticWing(double aspect, int panels, int rows, double straight = 0.25) {
    wing::Aircraft a;
    a.name = "elliptic wing";
    wing::LiftingSurface s;
    s.rows = rows;
    const double half = aspect * std::numbers::pi / 8.0;
    for (int k = 0; k <= panels; ++k) {
        wing::Station t;
        const double place = std::sin(0.5 * std::numbers::pi * k / panels);
        t.along = half * place;
        t.chord = std::max(std::sqrt(1.0 - place * place), 0.01);
        t.leading = straight * (1.0 - t.chord);
        t.strips = 1;
        s.stations.push_back(t);
    }
    a.surfaces.push_back(s);
    return a;
}

inline lifting::Surroundings symmetric(const Vec3& wake = Vec3::UnitX()) {
    return {wake, 0.0, {}, true};
}
inline lifting::Loads loadsOf(const wing::Aircraft& a, const lifting::Surroundings& around, double alpha,
                              double beta = 0.0, const Vec3& rates = Vec3::Zero()) {
    const auto reference = wing::referenceOf(a);
    return lifting::VortexLattice(wing::latticeOf(a, around.symmetric), around)
        .at({{20.0, alpha, beta, {}}, rates, reference.momentCentre}, reference);
}
/// Lift slope about alpha 0 [1/rad].
inline double liftSlope(const wing::Aircraft& a, const lifting::Surroundings& around = symmetric()) {
    constexpr double h = 1e-4;
    return (loadsOf(a, around, h).coefficients.CL - loadsOf(a, around, -h).coefficients.CL) / (2.0 * h);
}
/// Rolling moment by p b / 2V.
inline double dampingInRoll(const wing::Aircraft& a) {
    const auto reference = wing::referenceOf(a);
    const double rate = 1e-3 * 2.0 * 20.0 / reference.span;
    return loadsOf(a, {}, 0.0, 0.0, Vec3(rate, 0.0, 0.0)).coefficients.Cl / 1e-3;
}

}  // namespace cvane::bench
