#pragma once
#include <array>
#include <iterator>
#include <string>

#include "air/standard_atmosphere.h"
#include "base/vec3.h"

namespace cvane::air {

/// The wind that blows on the model: speed [m/s], angle of attack and sideslip [rad], and the air it is made of.
/// Positive alpha = nose up, positive beta = wind from starboard (model frame: x aft, y starboard, z up).
struct FreeStream {
    double speed = 22.0, alpha = 0.0, beta = 0.0;
    Air air;
    bool operator==(const FreeStream&) const = default;

    double dynamicPressure() const { return 0.5 * air.density * speed * speed; }
    double mach() const { return speed / air.soundSpeed; }
    double reynolds(double referenceLength) const { return speed * referenceLength / air.kinematicViscosity(); }
    Vec3 velocity() const { return speed * dragAxis(); }
    Vec3 dragAxis() const;  ///< unit vector along the free stream
    Vec3 liftAxis() const;
    Vec3 sideAxis() const;
};

/// Speed [m/s] at which this air flows at a Mach number, or at a Reynolds number on a length [m].
double speedFromMach(double mach, const Air& air);
double speedFromReynolds(double reynolds, double referenceLength, const Air& air);

/// What coefficients are measured against; SI, model frame.
struct Reference {
    double area = 1.0;    ///< S [m2]
    double length = 1.0;  ///< c [m], pitching moment and Reynolds number
    double span = 1.0;    ///< b [m], rolling and yawing moment
    Vec3 momentCentre = Vec3::Zero();
    bool operator==(const Reference&) const = default;
};

/// Force and moment coefficients in wind axes; signs and axes: docs/axes.md.
struct Coefficients {
    double CL = 0, CD = 0, CY = 0, Cl = 0, Cm = 0, Cn = 0;
};
struct NamedCoefficient {
    const char* name;
    double Coefficients::*member;
};
inline constexpr NamedCoefficient kNamedCoefficients[] = {{"CL", &Coefficients::CL}, {"CD", &Coefficients::CD},
                                                          {"CY", &Coefficients::CY}, {"Cl", &Coefficients::Cl},
                                                          {"Cm", &Coefficients::Cm}, {"Cn", &Coefficients::Cn}};
/// The same without their names.
inline constexpr auto kAllCoefficients = [] {
    std::array<double Coefficients::*, std::size(kNamedCoefficients)> all{};
    for (std::size_t i = 0; i < all.size(); ++i) all[i] = kNamedCoefficients[i].member;
    return all;
}();

/// Coefficients of a force [N] and a moment [N m] about the moment centre, both in the model frame:
/// CL, CD, CY = force / (q S); Cm = My / (q S c); Cl = -Mx / (q S b); Cn = -Mz / (q S b).
Coefficients coefficients(const Vec3& force, const Vec3& moment, const FreeStream& wind, const Reference& reference);

/// "Air at 22.0 m/s, alpha 2.0 deg, beta 0.0 deg -> Re 1.50 M, Mach 0.065, q 296 Pa"
std::string windSentence(const FreeStream& wind, double referenceLength);

}  // namespace cvane::air
