#include "wing/measures.h"

#include <cmath>

#include "base/units.h"
#include "wing/layout.h"

namespace cvane::wing {

SurfaceMeasures measure(const Aircraft& a, const LiftingSurface& s) {
    SurfaceMeasures m;
    const Layout layout(a, s, false);
    double squares = 0.0, width = 0.0;
    Vec3 quarters = Vec3::Zero();
    for (std::size_t i = 0; i + 1 < s.stations.size(); ++i) {
        const Station &t = s.stations[i], &u = s.stations[i + 1];
        const double length = u.along - t.along, across = length * std::abs(std::cos(t.dihedral_deg * base::degree));
        width += across;
        m.area += 0.5 * (t.chord + u.chord) * across;
        m.developed += 0.5 * (t.chord + u.chord) * length;
        squares += (t.chord * t.chord + t.chord * u.chord + u.chord * u.chord) / 3.0 * across;
        // Both factors run straight along the panel: Simpson's rule is exact.
        const Vec3 q0 = layout.quarter(t.along), q1 = layout.quarter(std::nextafter(u.along, t.along));
        quarters += across / 6.0 * (t.chord * q0 + 2.0 * (t.chord + u.chord) * 0.5 * (q0 + q1) + u.chord * q1);
    }
    const Station &root = s.stations.front(), &tip = s.stations.back();
    m.taper = tip.chord / root.chord;
    m.sweep_deg = std::atan2(tip.leading + 0.25 * tip.chord - root.leading - 0.25 * root.chord, width) / base::degree;
    m.meanChord = squares / m.area;
    m.meanQuarter = quarters / m.area;
    const double both = s.mirrored ? 2.0 : 1.0;
    if (s.mirrored) m.meanQuarter.y() = 0.0;
    m.span = both * width;
    if (s.mirrored) m.span += 2.0 * std::abs(s.place.y());
    m.area *= both;
    m.developed *= both;
    m.aspect = m.span * m.span / m.area;
    return m;
}

std::optional<double> tailVolume(const Aircraft& a, std::size_t k) {
    if (k == 0) return std::nullopt;
    const auto wing = measure(a, a.surfaces[0]), tail = measure(a, a.surfaces[k]);
    const double lever = tail.meanQuarter.x() - wing.meanQuarter.x();
    const bool stands = std::abs(std::sin(a.surfaces[k].roll_deg * base::degree)) > std::sqrt(0.5);
    return tail.area * lever / (wing.area * (stands ? wing.span : wing.meanChord));
}

air::Reference referenceOf(const Aircraft& a) {
    const auto m = measure(a, a.surfaces.front());
    return {m.area, m.meanChord, m.span, a.mass > 0.0 ? a.centreOfGravity : m.meanQuarter};
}

}  // namespace cvane::wing
