#pragma once
#include <algorithm>
#include <cmath>

#include "air/free_stream.h"
#include "base/vec3.h"

namespace cvane::flow {

/// An ideal gas of constant heats as the solver sees it. Kinematic: pressures are those above the free stream's over
/// the free stream's density [m2/s2], densities are shares of it, enthalpies are total ones less the free stream's
/// [m2/s2]. What an iteration may bring for a moment is kept above a hundredth of the free stream's pressure and a
/// twentieth of its temperature.
struct GasLaw {
    double gamma = 1.4, R = 287.05;     ///< ratio of heats; [J/(kg K)]
    double T = 288.15;                  ///< static temperature of the free stream [K]
    double speed = 0.0;                 ///< of the free stream [m/s]
    double nu = 0.0, sutherland = 0.0;  ///< kinematic viscosity of the free stream [m2/s], Sutherland's constant [K]
    double prandtl = 0.72;

    explicit GasLaw(const air::FreeStream& wind)
        : gamma(wind.air.ratioOfHeats()),
          R(wind.air.gasConstant()),
          T(wind.air.temperature),
          speed(wind.speed),
          nu(wind.air.kinematicViscosity()),
          sutherland(wind.air.sutherland),
          prandtl(wind.air.prandtl) {}

    double cp() const { return gamma * R / (gamma - 1.0); }
    double pressure() const { return R * T; }                       ///< of the free stream [m2/s2]
    double soundSpeed() const { return std::sqrt(gamma * R * T); }  ///< of the free stream [m/s]
    double soundSpeedAt(double temperature) const { return std::sqrt(gamma * R * temperature); }
    double pressureOf(double p) const { return std::max(p + pressure(), 0.01 * pressure()); }  ///< absolute, kinematic
    double totalEnthalpy() const { return cp() * T + 0.5 * speed * speed; }     ///< of the free stream [m2/s2]
    double totalTemperature() const { return T + 0.5 * speed * speed / cp(); }  ///< of the free stream [K]
    /// Static temperature of air that has come to mostMach() without loss: colder it is not taken to be [K].
    double coldest() const { return totalTemperature() / (1.0 + 0.5 * (gamma - 1.0) * mostMach() * mostMach()); }
    double mostMach() const { return std::max(3.0, 2.5 * speed / soundSpeed()); }
    /// The speed there [m/s]: beyond it an iteration has gone astray.
    double fastest() const { return std::sqrt(2.0 * cp() * (totalTemperature() - coldest())); }
    double temperatureOf(const Vec3& U, double enthalpy) const {
        return std::max(T + (0.5 * (speed * speed - U.squaredNorm()) + enthalpy) / cp(), coldest());
    }
    double densityOf(double p, double temperature) const { return pressureOf(p) / (R * temperature); }
    /// Dynamic viscosity over the free stream's density [m2/s], by Sutherland's law.
    double viscosityOf(double temperature) const {
        const double t = temperature / T;
        return nu * t * std::sqrt(t) * (T + sutherland) / (temperature + sutherland);
    }
    /// Pressure that the free stream has where it has been slowed or sped to another temperature without loss.
    double isentropicPressure(double temperature) const {
        return pressure() * (std::pow(temperature / T, gamma / (gamma - 1.0)) - 1.0);
    }
};

}  // namespace cvane::flow
