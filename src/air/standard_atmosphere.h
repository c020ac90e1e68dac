#pragma once

namespace cvane::air {

/// State of the air, or of another ideal gas; SI.
struct Air {
    double temperature = 288.15;   ///< [K]
    double pressure = 101325.0;    ///< [Pa]
    double density = 1.225;        ///< [kg/m3]
    double viscosity = 1.7894e-5;  ///< dynamic [Pa s]
    double soundSpeed = 340.294;   ///< [m/s]
    double sutherland = 110.4;     ///< constant of Sutherland's law [K]: how the viscosity rises with the temperature
    double prandtl = 0.72;
    bool isLiquid = false;  ///< it has no gas law
    bool operator==(const Air&) const = default;
    double kinematicViscosity() const { return viscosity / density; }
    double gasConstant() const { return pressure / (density * temperature); }             ///< [J/(kg K)]
    double ratioOfHeats() const { return soundSpeed * soundSpeed * density / pressure; }  ///< gamma
};

/// Dynamic viscosity of dry air by Sutherland's law [Pa s], temperature [K] > 0.
/// Source: U.S. Standard Atmosphere 1976, eq. 51 (beta = 1.458e-6 kg/(s m K^0.5), S = 110.4 K).
double dynamicViscosity(double temperature);

/// Standard atmosphere at a geopotential altitude [m] from -2,000 to 32,000, with a temperature offset [K] at that
/// altitude's standard pressure. Throws InputError outside that range or when the offset leaves no positive
/// temperature. Source: U.S. Standard Atmosphere 1976, table 4 (layers) and eq. 33a, 33b (pressure); R = 287.05287
/// J/(kg K).
Air standardAtmosphere(double altitude, double temperatureOffset);

}  // namespace cvane::air
