#pragma once
#include <span>
#include <string>
#include <string_view>

#include "air/standard_atmosphere.h"

namespace cvane::air {

/// What a tunnel may be filled with. A gas is ideal, of constant heats; its viscosity follows Sutherland's law
///   mu = mu0 (T / T0)^1.5 (T0 + S) / (T + S)
/// A liquid has one density, and a viscosity that follows from its temperature.
struct Gas {
    std::string name = "air";
    double gasConstant = 287.05287;  ///< R [J/(kg K)]
    double ratioOfHeats = 1.4;       ///< gamma
    double viscosity = 1.7894e-5;    ///< mu0, dynamic [Pa s], at
    double viscosityAt = 288.15;     ///< T0 [K]
    double sutherland = 110.4;       ///< S [K]
    double prandtl = 0.72;
    bool isLiquid = false;  ///< water: what stands above is not used
    bool operator==(const Gas&) const = default;
};

/// Air, nitrogen, oxygen, helium, argon, carbon dioxide, hydrogen, sulphur hexafluoride, water.
std::span<const Gas> commonGases();

/// The state of a gas at a pressure [Pa] and a temperature [K]. Throws InputError: no gas can be so (a pressure or
/// temperature that is not above 0, gamma not above 1 or above 5/3, a gas constant or viscosity that is not above 0);
/// water that is ice or steam.
Air stateOf(const Gas& gas, double pressure, double temperature);

/// Of a stream that has been brought to rest without loss: temperature [K] and pressure [Pa], of a liquid p + q.
/// Source: H. W. Liepmann, A. Roshko, Elements of Gasdynamics, ch. 2.
double totalTemperature(const Air& air, double speed);
double totalPressure(const Air& air, double speed);
/// The speed [m/s] at which this air has such a total pressure; 0 where it is not above the static one.
double speedFromTotalPressure(double total, const Air& air);

/// Pressure coefficient at which the local flow is sonic, of a stream of Mach number above 0. Source: Liepmann and
/// Roshko, ch. 2.
double criticalPressureCoefficient(double mach, double ratioOfHeats);

/// Pressure coefficient where a stream of compressible gas is brought to rest: without loss, and above Mach 1 behind a
/// normal shock. Source: the same, and Lord Rayleigh, Proc. Roy. Soc. A 84 (1910).
double stagnationPressureCoefficient(double mach, double ratioOfHeats);

}  // namespace cvane::air
