#include "readout/re_reference.h"

#include <fmt/format.h>

#include <cmath>

namespace cvane::readout {

using C = air::Coefficients;

namespace {
// Half widths: the arm's part cannot be less certain than the sum of what it is made of.
C bandOn(const C& band, const air::FreeStream& wind, const air::Reference& from, const air::Reference& to) {
    const double area = from.area / to.area;
    const Vec3 arm = (from.momentCentre - to.momentCentre).cwiseAbs();
    const Vec3 force = (band.CL * wind.liftAxis()).cwiseAbs() + (band.CD * wind.dragAxis()).cwiseAbs() +
                       (band.CY * wind.sideAxis()).cwiseAbs();
    const Vec3 moment(arm.y() * force.z() + arm.z() * force.y(), arm.z() * force.x() + arm.x() * force.z(),
                      arm.x() * force.y() + arm.y() * force.x());
    return {band.CL * area,
            band.CD * area,
            band.CY * area,
            area * (band.Cl * from.span + moment.x()) / to.span,
            area * (band.Cm * from.length + moment.y()) / to.length,
            area * (band.Cn * from.span + moment.z()) / to.span};
}

bool same(const air::Reference& a, const air::Reference& b) {
    return a.area == b.area && a.length == b.length && a.span == b.span && a.momentCentre == b.momentCentre;
}
}  // namespace

C onReference(const C& c, const air::FreeStream& wind, const air::Reference& from, const air::Reference& to) {
    const double qS = wind.dynamicPressure() * from.area;
    const Vec3 force = qS * (c.CL * wind.liftAxis() + c.CD * wind.dragAxis() + c.CY * wind.sideAxis());
    const Vec3 moment = qS * Vec3(-c.Cl * from.span, c.Cm * from.length, -c.Cn * from.span);
    return air::coefficients(force, moment + (from.momentCentre - to.momentCentre).cross(force), wind, to);
}

Result onReference(Result r, const air::Reference& to) {
    const air::Reference from = r.reference;
    const bool known =
        from.area > 0.0 && to.area > 0.0 && to.length > 0.0 && to.span > 0.0 && r.wind.dynamicPressure() > 0.0;
    if (!known || same(from, to)) return r;
    const auto move = [&](PartBalance& p) {
        p.moment += (from.momentCentre - to.momentCentre).cross(p.force());
        p.coefficients = air::coefficients(p.force(), p.moment, r.wind, to);
    };
    r.coefficients = onReference(r.coefficients, r.wind, from, to);
    move(r.total);
    for (auto& p : r.parts) move(p);
    r.band = bandOn(r.band, r.wind, from, to);
    r.swing = bandOn(r.swing, r.wind, from, to);
    if (r.coarse) {
        r.coarse->coefficients = onReference(r.coarse->coefficients, r.wind, from, to);
        for (auto& c : r.coarse->coarser) c.coefficients = onReference(c.coefficients, r.wind, from, to);
    }
    if (!r.asked && !r.remark.empty() && from.area != to.area)
        r.remark += fmt::format(" (Coefficients in this remark rest on {:.5g} m2.)", from.area);
    r.reference = to;
    return r;
}

}  // namespace cvane::readout
