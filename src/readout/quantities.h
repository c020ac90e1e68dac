#pragma once
#include <cmath>
#include <functional>
#include <optional>
#include <string>
#include <vector>

#include "readout/result.h"

namespace cvane::readout {

/// Where the wheels stand, for the loads on axles.
struct Axles {
    double front = 0.0, rear = 0.0;  ///< x [m]
    double height = 0.0;             ///< z of what they stand on [m]
};

/// In which units a quantity is given.
enum class Measure { Coefficient, Ratio, Share, Force, Moment, Area, Power, Length, Speed, Angle, MassFlow, Pressure };
std::string unitOf(Measure measure);  ///< SI, "deg" for angles; empty: none

/// A value with how far it may lie from that of very fine grids and many iterations, or why there is none.
struct Value {
    std::optional<double> value, band;
    std::string why;  ///< a sentence's half: "needs the axles' places"
};

/// Something that a result says.
struct ResultQuantity {
    std::string id, name;
    Measure measure = Measure::Coefficient;
    std::function<Value(const Result&, const std::optional<Axles>&)> of;
};

/// All of them, in the order in which they are listed: coefficients in wind, body and stability axes (docs/axes.md),
/// forces and moments, ratios, the centre of pressure, axle loads, the check from outside.
const std::vector<ResultQuantity>& resultQuantities();
/// Throws InputError with the nearest name: there is none.
const ResultQuantity& resultQuantity(const std::string& id);

/// A quantity of one result less that of a reference.
struct Difference {
    double reference = 0.0, value = 0.0, difference = 0.0;
    std::optional<double> percent;  ///< of the reference's size; nothing of zero
    /// How far the difference may be off: of coefficients without the errors that both grids share
    /// (bandOfDifference()), of others from each one's own band. Nothing where a point's grids say nothing.
    std::optional<double> band;
    bool within() const { return band && std::abs(difference) <= *band; }  ///< no larger than the doubt
};
/// Nothing where one of them has no such value; `why` then says which.
std::optional<Difference> differenceOf(const ResultQuantity& quantity, const Result& reference,
                                       const std::optional<Axles>& referenceAxles, const Result& other,
                                       const std::optional<Axles>& otherAxles, std::string* why = nullptr);

/// The result as if the model were this part alone, on the same reference. Throws InputError: no such part.
Result ofPart(const Result& whole, const std::string& part);

/// The line along which a force acts: a place on it and its way; the moment about it has no part across the force.
/// Nothing without a force.
struct ActionLine {
    Vec3 place, along;
};
std::optional<ActionLine> actionLine(const Vec3& force, const Vec3& moment, const Vec3& about);
/// Where it crosses a plane; nothing where it runs along it (within 1/50).
std::optional<Vec3> crossing(const ActionLine& line, const Vec3& on, const Vec3& normal);

}  // namespace cvane::readout
