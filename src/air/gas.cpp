#include "air/gas.h"

#include <fmt/format.h>

#include <array>
#include <cmath>

#include "base/errors.h"

namespace cvane::air {
namespace {
// Gas constants: 8.314463 J/(mol K) over the molar mass from the standard atomic weights (IUPAC 2021). Ratios of heats
// and Prandtl numbers near 300 K: CRC Handbook of Chemistry and Physics, 97th ed., section 6. Viscosity: F. M. White,
// Viscous Fluid Flow, 3rd ed., table 1-2; of helium and sulphur hexafluoride through the CRC Handbook's values at 300
// and 400 K (20.0 and 24.4, 15.3 and 19.7 micropascal seconds); of air U.S. Standard Atmosphere 1976.
const std::array<Gas, 9> kGases{{{},
                                 {"nitrogen", 296.80, 1.400, 1.663e-5, 273.0, 107.0, 0.72},
                                 {"oxygen", 259.84, 1.395, 1.919e-5, 273.0, 139.0, 0.72},
                                 {"helium", 2077.3, 1.667, 2.00e-5, 300.0, 82.0, 0.67},
                                 {"argon", 208.13, 1.667, 2.125e-5, 273.0, 144.0, 0.67},
                                 {"carbon dioxide", 188.92, 1.289, 1.370e-5, 273.0, 222.0, 0.77},
                                 {"hydrogen", 4124.2, 1.405, 8.411e-6, 273.0, 97.0, 0.70},
                                 {"sulphur hexafluoride", 56.93, 1.094, 1.53e-5, 300.0, 211.0, 0.80},
                                 {"water", 0.0, 0.0, 0.0, 0.0, 0.0, 7.0, true}}};

[[noreturn]] void refuse(const std::string& what, const std::string& todo) {
    throw base::InputError(what, "air", todo);
}

// Fresh water at ordinary pressure. Density: G. S. Kell, J. Chem. Eng. Data 20 (1975); viscosity: J. Kestin, M.
// Sokolov, W. A. Wakeham, J. Phys. Chem. Ref. Data 7 (1978); speed of sound: W. Marczak, J. Acoust. Soc. Am. 102
// (1997).
Air waterAt(double pressure, double T) {
    const double t = T - 273.15;
    if (!(t >= 0.0 && t <= 95.0))
        refuse(fmt::format("water at {:.4g} K is ice or steam.", T), "Type a temperature from 273.15 to 368 K.");
    Air a;
    a.temperature = T;
    a.pressure = pressure;
    a.density = (999.83952 +
                 t * (16.945176 + t * (-7.9870401e-3 + t * (-46.170461e-6 + t * (105.56302e-9 - 280.54253e-12 * t))))) /
                (1.0 + 16.879850e-3 * t);
    const double d = 20.0 - t;
    a.viscosity = 1.002e-3 * std::pow(10.0, d / (t + 96.0) * (1.2364 + d * (-1.37e-3 + d * (5.7e-6))));
    a.soundSpeed =
        1402.385 + t * (5.038813 + t * (-5.799136e-2 + t * (3.287156e-4 + t * (-1.398845e-6 + 2.787860e-9 * t))));
    a.sutherland = 0.0;
    a.prandtl = 7.0;
    a.isLiquid = true;
    return a;
}
}  // namespace

std::span<const Gas> commonGases() {
    return kGases;
}

Air stateOf(const Gas& g, double pressure, double T) {
    if (!(pressure > 0.0) || !std::isfinite(pressure))
        refuse(fmt::format("a pressure of {:g} Pa cannot be.", pressure), "Type a pressure above 0.");
    if (!(T > 0.0) || !std::isfinite(T))
        refuse(fmt::format("a temperature of {:g} K cannot be.", T), "Type a temperature above 0 K.");
    if (g.isLiquid) return waterAt(pressure, T);
    if (!(g.ratioOfHeats > 1.0 && g.ratioOfHeats <= 5.0 / 3.0 + 1e-3))
        refuse(fmt::format("{} with a ratio of specific heats of {:g} is no gas.", g.name, g.ratioOfHeats),
               "Type a ratio above 1 and up to 5/3.");
    if (!(g.gasConstant > 0.0) || !(g.viscosity > 0.0) || !(g.viscosityAt > 0.0) || !(g.sutherland >= 0.0) ||
        !(g.prandtl > 0.0))
        refuse(fmt::format("{} has a gas constant, viscosity or Prandtl number that is not above 0.", g.name),
               "Correct the gas.");
    Air a;
    a.temperature = T;
    a.pressure = pressure;
    a.density = pressure / (g.gasConstant * T);
    const double t = T / g.viscosityAt;
    a.viscosity = g.viscosity * t * std::sqrt(t) * (g.viscosityAt + g.sutherland) / (T + g.sutherland);
    a.soundSpeed = std::sqrt(g.ratioOfHeats * g.gasConstant * T);
    a.sutherland = g.sutherland;
    a.prandtl = g.prandtl;
    return a;
}

double totalTemperature(const Air& a, double speed) {
    if (a.isLiquid) return a.temperature;
    const double M = speed / a.soundSpeed;
    return a.temperature * (1.0 + 0.5 * (a.ratioOfHeats() - 1.0) * M * M);
}

double totalPressure(const Air& a, double speed) {
    if (a.isLiquid) return a.pressure + 0.5 * a.density * speed * speed;
    const double g = a.ratioOfHeats();
    return a.pressure * std::pow(totalTemperature(a, speed) / a.temperature, g / (g - 1.0));
}

double speedFromTotalPressure(double total, const Air& a) {
    if (!(total > a.pressure)) return 0.0;
    if (a.isLiquid) return std::sqrt(2.0 * (total - a.pressure) / a.density);
    const double g = a.ratioOfHeats();
    return a.soundSpeed * std::sqrt(2.0 / (g - 1.0) * (std::pow(total / a.pressure, (g - 1.0) / g) - 1.0));
}

double criticalPressureCoefficient(double M, double g) {
    const double ratio = (1.0 + 0.5 * (g - 1.0) * M * M) / (0.5 * (g + 1.0));
    return 2.0 / (g * M * M) * (std::pow(ratio, g / (g - 1.0)) - 1.0);
}

double stagnationPressureCoefficient(double M, double g) {
    double ratio = std::pow(1.0 + 0.5 * (g - 1.0) * M * M, g / (g - 1.0));
    if (M > 1.0)
        ratio = std::pow(0.5 * (g + 1.0) * M * M, g / (g - 1.0)) *
                std::pow((g + 1.0) / (2.0 * g * M * M - (g - 1.0)), 1.0 / (g - 1.0));
    return 2.0 / (g * M * M) * (ratio - 1.0);
}

}  // namespace cvane::air
