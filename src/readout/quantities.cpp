#include "readout/quantities.h"

#include <fmt/format.h>

#include <algorithm>
#include <cmath>

#include "base/errors.h"
#include "base/units.h"

namespace cvane::readout {
namespace {
using air::Coefficients;

double qS(const Result& r) {
    return r.wind.dynamicPressure() * r.reference.area;
}

/// Axes that a force or moment is taken along: aft, to starboard, up.
struct Axes {
    Vec3 aft, side, up;
};
Axes bodyAxes() {
    return {Vec3::UnitX(), Vec3::UnitY(), Vec3::UnitZ()};
}
Axes stabilityAxes(const Result& r) {
    const double a = r.wind.alpha;
    return {{std::cos(a), 0.0, std::sin(a)}, Vec3::UnitY(), {-std::sin(a), 0.0, std::cos(a)}};
}
Axes windAxes(const Result& r) {
    return {r.wind.dragAxis(), r.wind.sideAxis(), r.wind.liftAxis()};
}

/// Force [N] and moment [N m] as the coefficients have them: means of a swinging flow, whole models of halves.
Vec3 forceOf(const Result& r, const Coefficients& c) {
    return qS(r) * (c.CL * r.wind.liftAxis() + c.CD * r.wind.dragAxis() + c.CY * r.wind.sideAxis());
}
Vec3 momentOf(const Result& r, const Coefficients& c) {
    return qS(r) * Vec3(-c.Cl * r.reference.span, c.Cm * r.reference.length, -c.Cn * r.reference.span);
}

// How far a force along a way may be off, from the bands of its three coefficients.
double forceBand(const Result& r, const Vec3& along) {
    const Coefficients t = r.trust();
    return qS(r) * std::hypot(t.CL * r.wind.liftAxis().dot(along), t.CD * r.wind.dragAxis().dot(along),
                              t.CY * r.wind.sideAxis().dot(along));
}
double momentBand(const Result& r, const Vec3& along) {
    const Coefficients t = r.trust();
    return qS(r) * std::hypot(t.Cl * r.reference.span * along.x(), t.Cm * r.reference.length * along.y(),
                              t.Cn * r.reference.span * along.z());
}

using Of = std::function<Value(const Result&, const std::optional<Axles>&)>;

Of coefficient(double Coefficients::*which) {
    return [which](const Result& r, const auto&) -> Value {
        return {r.coefficients.*which + 0.0, r.trust().*which, {}};
    };
}

// A force's share along one of some axes, over q S or in newtons.
Of force(const std::function<Vec3(const Result&)>& way, bool over) {
    return [way, over](const Result& r, const auto&) -> Value {
        const Vec3 along = way(r);
        const double by = over ? qS(r) : 1.0;
        return {forceOf(r, r.coefficients).dot(along) / by, forceBand(r, along) / by, {}};
    };
}
/// @param sign  aft and up axes count the other way (docs/axes.md)
Of moment(const std::function<Vec3(const Result&)>& way, double sign, double air::Reference::*length) {
    return [=](const Result& r, const auto&) -> Value {
        const Vec3 along = way(r);
        const double by = length ? qS(r) * r.reference.*length : 1.0;
        return {sign * momentOf(r, r.coefficients).dot(along) / by, momentBand(r, along) / by, {}};
    };
}

Value ratio(double above, double aboveBand, double below, double belowBand, const char* why) {
    if (!(std::abs(below) > 1e-12)) return {{}, {}, why};
    const double v = above / below;
    return {v, std::hypot(aboveBand / below, v * belowBand / below), {}};
}

// What stands on the front axle, and on the rear one: the force on the ground's height, shared by its moment.
Value axleLoad(const Result& r, const std::optional<Axles>& axles, bool front) {
    if (!axles) return {{}, {}, "needs the axles' places (reference.front_axle_x_m, rear_axle_x_m, or wheels)"};
    const double base = axles->rear - axles->front;
    if (!(std::abs(base) > 1e-9)) return {{}, {}, "needs two axles at different places"};
    const Vec3 F = forceOf(r, r.coefficients), M = momentOf(r, r.coefficients);
    // Nose-up moment about the other axle, at the height of the ground.
    const Vec3 about(front ? axles->rear : axles->front, r.reference.momentCentre.y(), axles->height);
    const Vec3 there = M + (r.reference.momentCentre - about).cross(F);
    const double load = (front ? 1.0 : -1.0) * there.y() / base;
    const Vec3 arm = r.reference.momentCentre - about;
    const double band = std::hypot(momentBand(r, Vec3::UnitY()), arm.z() * forceBand(r, Vec3::UnitX()),
                                   arm.x() * forceBand(r, Vec3::UnitZ())) /
                        std::abs(base);
    return {load, band, {}};
}

Value scaled(Value v, double by) {
    if (v.value) *v.value *= by;
    if (v.band) *v.band *= std::abs(by);
    return v;
}

Value centreOfPressure(const Result& r, int axis, const Vec3& normal) {
    const auto line = actionLine(forceOf(r, r.coefficients), momentOf(r, r.coefficients), r.reference.momentCentre);
    if (!line) return {{}, {}, "there is no force"};
    const auto at = crossing(*line, r.reference.momentCentre, normal);
    if (!at) return {{}, {}, "the force runs along the plane"};
    // The moment's doubt moves it along by its arm.
    const double across = std::abs(forceOf(r, r.coefficients).dot(normal));
    return {(*at)[axis], momentBand(r, Vec3::UnitY()) / std::max(across, 1e-300), {}};
}

// What discs and porous blocks read; each of them alone stands in the result.
void addDevices(std::vector<ResultQuantity>& all) {
    using enum Measure;
    const auto add = [&](const char* id, const char* name, Measure m, Of of) {
        all.push_back({id, name, m, std::move(of)});
    };
    const auto ofBlocks = [](auto value) {
        return [value](const Result& r, const auto&) -> Value {
            if (r.readings().blocks.empty()) return {{}, {}, "there is no porous block"};
            return {value(r), {}, {}};
        };
    };
    const auto through = [](const Result& r) {
        double sum = 0.0;
        for (const auto& b : r.readings().blocks) sum += b.massFlow;
        return sum;
    };
    add("mass_flow", "air through the porous blocks", MassFlow, ofBlocks(through));
    add("pressure_drop", "pressure drop of the porous blocks, by the air through each", Pressure,
        ofBlocks([through](const Result& r) {
            const double all = through(r);
            double sum = 0.0;
            for (const auto& b : r.readings().blocks)
                sum += (all != 0.0 ? b.massFlow / all : 1.0 / static_cast<double>(r.readings().blocks.size())) *
                       b.pressureDrop;
            return sum;
        }));
    const auto ofDiscs = [](auto value) {
        return [value](const Result& r, const auto&) -> Value {
            if (r.readings().discs.empty()) return {{}, {}, "there is no disc"};
            double thrust = 0.0, power = 0.0;
            for (const auto& d : r.readings().discs) thrust += d.thrust, power += d.power;
            return value(r, thrust, power);
        };
    };
    add("disc_thrust", "thrust of the discs", Force, ofDiscs([](const Result&, double thrust, double) -> Value {
            return {thrust, {}, {}};
        }));
    add("disc_power", "power that the discs give to the air", Power,
        ofDiscs([](const Result&, double, double power) -> Value {
            return {power, {}, {}};
        }));
    add("disc_efficiency", "thrust times speed over the power of the discs", Share,
        ofDiscs([](const Result& r, double thrust, double power) {
            return ratio(thrust * r.wind.speed, 0.0, power, 0.0, "the discs take no power");
        }));
}

std::vector<ResultQuantity> makeQuantities() {
    using enum Measure;
    std::vector<ResultQuantity> all;
    const auto add = [&](const char* id, const char* name, Measure m, Of of) {
        all.push_back({id, name, m, std::move(of)});
    };
    add("CL", "lift coefficient", Coefficient, coefficient(&Coefficients::CL));
    add("CD", "drag coefficient", Coefficient, coefficient(&Coefficients::CD));
    add("CY", "side force coefficient", Coefficient, coefficient(&Coefficients::CY));
    add("Cl", "rolling moment coefficient", Coefficient, coefficient(&Coefficients::Cl));
    add("Cm", "pitching moment coefficient", Coefficient, coefficient(&Coefficients::Cm));
    add("Cn", "yawing moment coefficient", Coefficient, coefficient(&Coefficients::Cn));
    add("CD_pressure", "drag coefficient of the pressure", Coefficient, [](const Result& r, const auto&) -> Value {
        return {r.total.pressureForce.dot(r.wind.dragAxis()) / qS(r), {}, {}};
    });
    add("CD_friction", "drag coefficient of the friction", Coefficient, [](const Result& r, const auto&) -> Value {
        return {r.total.frictionForce.dot(r.wind.dragAxis()) / qS(r), {}, {}};
    });
    const auto body = [](Vec3 Axes::*which) { return [which](const Result&) { return bodyAxes().*which; }; };
    const auto stability = [](Vec3 Axes::*w) { return [w](const Result& r) { return stabilityAxes(r).*w; }; };
    const auto wind = [](Vec3 Axes::*w) { return [w](const Result& r) { return windAxes(r).*w; }; };
    add("CA", "axial force coefficient, body axes", Coefficient, force(body(&Axes::aft), true));
    add("CN", "normal force coefficient, body axes", Coefficient, force(body(&Axes::up), true));
    add("CS_body", "side force coefficient, body axes", Coefficient, force(body(&Axes::side), true));
    add("CD_stability", "drag coefficient, stability axes", Coefficient, force(stability(&Axes::aft), true));
    add("CY_stability", "side force coefficient, stability axes", Coefficient, force(stability(&Axes::side), true));
    add("Cl_stability", "rolling moment coefficient, stability axes", Coefficient,
        moment(stability(&Axes::aft), -1.0, &air::Reference::span));
    add("Cn_stability", "yawing moment coefficient, stability axes", Coefficient,
        moment(stability(&Axes::up), -1.0, &air::Reference::span));
    add("Cl_wind", "rolling moment coefficient, wind axes", Coefficient,
        moment(wind(&Axes::aft), -1.0, &air::Reference::span));
    add("Cm_wind", "pitching moment coefficient, wind axes", Coefficient,
        moment(wind(&Axes::side), 1.0, &air::Reference::length));
    add("Cn_wind", "yawing moment coefficient, wind axes", Coefficient,
        moment(wind(&Axes::up), -1.0, &air::Reference::span));
    add("drag", "drag", Force, force(wind(&Axes::aft), false));
    add("lift", "lift", Force, force(wind(&Axes::up), false));
    add("side", "side force", Force, force(wind(&Axes::side), false));
    add("rolling_moment", "rolling moment, body axes", Moment, moment(body(&Axes::aft), -1.0, nullptr));
    add("pitching_moment", "pitching moment, body axes", Moment, moment(body(&Axes::side), 1.0, nullptr));
    add("yawing_moment", "yawing moment, body axes", Moment, moment(body(&Axes::up), -1.0, nullptr));
    add("L_over_D", "lift over drag", Ratio, [](const Result& r, const auto&) {
        const auto t = r.trust();
        return ratio(r.coefficients.CL, t.CL, r.coefficients.CD, t.CD, "there is no drag");
    });
    add("downforce_over_drag", "downforce over drag", Ratio, [](const Result& r, const auto&) {
        const auto t = r.trust();
        return ratio(-r.coefficients.CL, t.CL, r.coefficients.CD, t.CD, "there is no drag");
    });
    add("drag_area", "drag area, CD S", Area, [](const Result& r, const auto&) -> Value {
        return {r.coefficients.CD * r.reference.area, r.trust().CD * r.reference.area, {}};
    });
    add("lift_area", "lift area, CL S", Area, [](const Result& r, const auto&) -> Value {
        return {r.coefficients.CL * r.reference.area, r.trust().CL * r.reference.area, {}};
    });
    add("power", "drag power at this speed", Power, [](const Result& r, const auto&) -> Value {
        return {r.coefficients.CD * qS(r) * r.wind.speed, r.trust().CD * qS(r) * r.wind.speed, {}};
    });
    add("glide_angle", "glide angle", Angle, [](const Result& r, const auto&) -> Value {
        if (!(r.coefficients.CL > 0.0)) return {{}, {}, "there is no lift"};
        return {std::atan2(r.coefficients.CD, r.coefficients.CL) / base::degree, {}, {}};
    });
    add("sink", "sink rate at this speed", Speed, [](const Result& r, const auto&) -> Value {
        if (!(r.coefficients.CL > 0.0)) return {{}, {}, "there is no lift"};
        return {r.wind.speed * std::sin(std::atan2(r.coefficients.CD, r.coefficients.CL)), {}, {}};
    });
    add("pressure_share", "pressure share of drag", Share, [](const Result& r, const auto&) -> Value {
        return {r.pressureShareOfDrag, {}, {}};
    });
    add("cp_x", "centre of pressure, x where the force crosses the height of the moment centre", Length,
        [](const Result& r, const auto&) { return centreOfPressure(r, 0, Vec3::UnitZ()); });
    add("cp_z", "centre of pressure, z where the force crosses the place of the moment centre", Length,
        [](const Result& r, const auto&) { return centreOfPressure(r, 2, Vec3::UnitX()); });
    add("front_lift", "lift on the front axle", Force,
        [](const Result& r, const auto& a) { return axleLoad(r, a, true); });
    add("rear_lift", "lift on the rear axle", Force,
        [](const Result& r, const auto& a) { return axleLoad(r, a, false); });
    add("CLF", "lift coefficient of the front axle", Coefficient,
        [](const Result& r, const auto& a) { return scaled(axleLoad(r, a, true), 1.0 / qS(r)); });
    add("CLR", "lift coefficient of the rear axle", Coefficient,
        [](const Result& r, const auto& a) { return scaled(axleLoad(r, a, false), 1.0 / qS(r)); });
    add("front_share", "share of the front axle in the lift", Share, [](const Result& r, const auto& a) -> Value {
        const auto f = axleLoad(r, a, true), b = axleLoad(r, a, false);
        if (!f.value) return f;
        return ratio(*f.value, *f.band, *f.value + *b.value, *b.band, "there is no lift");
    });
    add("outside_CD", "drag coefficient from momentum through the tunnel's sides", Coefficient,
        [](const Result& r, const auto&) -> Value {
            if (!r.readings().forceFromOutside) return {{}, {}, "was not found in this run"};
            return {r.total.coefficients.CD + r.outsideCD(), {}, {}};
        });
    addDevices(all);
    return all;
}
}  // namespace

std::string unitOf(Measure m) {
    switch (m) {
        case Measure::Force:
            return "N";
        case Measure::Moment:
            return "N m";
        case Measure::Area:
            return "m2";
        case Measure::Power:
            return "W";
        case Measure::Length:
            return "m";
        case Measure::Speed:
            return "m/s";
        case Measure::Angle:
            return "deg";
        case Measure::MassFlow:
            return "kg/s";
        case Measure::Pressure:
            return "Pa";
        case Measure::Coefficient:
        case Measure::Ratio:
        case Measure::Share:
            break;
    }
    return {};
}

const std::vector<ResultQuantity>& resultQuantities() {
    static const auto all = makeQuantities();
    return all;
}

const ResultQuantity& resultQuantity(const std::string& id) {
    std::string known;
    for (const auto& q : resultQuantities()) {
        if (q.id == id) return q;
        known += (known.empty() ? "" : ", ") + q.id;
    }
    throw base::InputError(fmt::format("there is no quantity \"{}\".", id), "quantity",
                           fmt::format("There are: {}.", known));
}

std::optional<Difference> differenceOf(const ResultQuantity& q, const Result& reference,
                                       const std::optional<Axles>& referenceAxles, const Result& other,
                                       const std::optional<Axles>& otherAxles, std::string* why) {
    const auto x = q.of(reference, referenceAxles), y = q.of(other, otherAxles);
    if (!x.value || !y.value) {
        if (why) *why = x.value ? y.why : x.why;
        return std::nullopt;
    }
    Difference d{*x.value, *y.value, *y.value - *x.value, {}, {}};
    if (std::abs(d.reference) > 1e-12) d.percent = 100.0 * d.difference / std::abs(d.reference);
    const auto shared = bandOfDifference(other, reference);
    for (const auto& [id, which] : air::kNamedCoefficients)
        if (shared && q.id == id) d.band = (*shared).*which;
    // Without a word of the grids a band is that of the iteration alone: too small to judge a difference by.
    if (!d.band && x.band && y.band && reference.gridBand() && other.gridBand()) d.band = std::hypot(*x.band, *y.band);
    return d;
}

Result ofPart(const Result& whole, const std::string& part) {
    std::string known;
    for (const auto& p : whole.parts) {
        known += (known.empty() ? "" : ", ") + p.name;
        if (p.name != part) continue;
        Result r = whole;
        r.total = p;
        r.coefficients = p.coefficients;
        const double drag = p.force().dot(r.wind.dragAxis());
        r.pressureShareOfDrag = drag != 0.0 ? p.pressureForce.dot(r.wind.dragAxis()) / drag : 0.0;
        // Bands and the check from outside are those of the whole: of a part they are not known.
        for (const auto m : air::kAllCoefficients) r.band.*m = std::nan("");
        r.coarse.reset();
        if (r.field) r.field->forceFromOutside.reset();
        return r;
    }
    throw base::InputError(fmt::format("has no part \"{}\".", part), "the result",
                           fmt::format("There are: {}.", known));
}

std::optional<ActionLine> actionLine(const Vec3& force, const Vec3& moment, const Vec3& about) {
    const double F2 = force.squaredNorm();
    if (!(F2 > 0.0)) return std::nullopt;
    return ActionLine{about + force.cross(moment) / F2, force.normalized()};
}

std::optional<Vec3> crossing(const ActionLine& line, const Vec3& on, const Vec3& normal) {
    const Vec3 n = normal.normalized();
    const double rise = line.along.dot(n);
    if (std::abs(rise) < 0.02) return std::nullopt;
    return line.place + (on - line.place).dot(n) / rise * line.along;
}

}  // namespace cvane::readout
