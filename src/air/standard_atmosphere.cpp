#include "air/standard_atmosphere.h"

#include <fmt/format.h>

#include <cmath>

#include "base/errors.h"

namespace cvane::air {

double dynamicViscosity(double T) {
    return 1.458e-6 * T * std::sqrt(T) / (T + 110.4);
}

Air standardAtmosphere(double altitude, double temperatureOffset) {
    constexpr double g = 9.80665, R = 287.05287, gamma = 1.4;
    if (!(altitude >= -2000.0 && altitude <= 32000.0))
        throw base::InputError(fmt::format("altitude {} m is outside -2000 to 32000 m.", altitude), "wind",
                               "Type an altitude in that range.");
    struct Layer {
        double bottom, temperature, lapse;
    };
    constexpr Layer layers[] = {{0.0, 288.15, -0.0065}, {11000.0, 216.65, 0.0}, {20000.0, 216.65, 0.001}};
    double p = 101325.0, T = 288.15;
    for (int i = 0; i < 3; ++i) {
        const Layer& l = layers[i];
        const double top = i < 2 ? layers[i + 1].bottom : 32000.0;
        const double h = std::min(altitude, top) - l.bottom;
        T = l.temperature + l.lapse * h;
        p *= l.lapse != 0.0 ? std::pow(l.temperature / T, g / (R * l.lapse)) : std::exp(-g * h / (R * l.temperature));
        if (altitude <= top) break;
    }
    T += temperatureOffset;
    if (!(T > 100.0 && T < 500.0))
        throw base::InputError(fmt::format("a temperature of {:.0f} K is not air that can be flown in.", T), "wind",
                               "Type a smaller temperature offset.");
    Air air;
    air.temperature = T;
    air.pressure = p;
    air.density = p / (R * T);
    air.viscosity = dynamicViscosity(T);
    air.soundSpeed = std::sqrt(gamma * R * T);
    return air;
}

}  // namespace cvane::air
