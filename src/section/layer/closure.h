#pragma once
#include <Eigen/Core>
#include <algorithm>
#include <cmath>
#include <unsupported/Eigen/AutoDiff>

namespace cvane::section {

/// What a boundary layer's thicknesses say of the rest of it: closure of the two-equation integral method of M. Drela
/// and M. B. Giles, AIAA J. 25(10), 1987, whose equation numbers stand at the formulas. All lengths in chords, all
/// speeds over the wind's. T is a double or a number that carries derivatives.

/// Of the air: Re = V c / nu, Mach number of the wind.
struct LayerAir {
    double reynolds = 1e6, mach = 0.0;
    /// Of the Karman-Tsien correction.
    double lambda() const {
        const double b = std::sqrt(1.0 - mach * mach);
        return mach * mach / ((1.0 + b) * (1.0 + b));
    }
    bool operator==(const LayerAir&) const = default;
};

/// Speed of compressible flow where that of the incompressible panels is u. Karman-Tsien: H. S. Tsien, J. Aero. Sci. 6,
/// 1939.
template <class T>
T edgeSpeed(const T& u, const LayerAir& air) {
    if (air.mach <= 0.0) return u;
    const double l = air.lambda();
    return T(u * (1.0 - l) / (1.0 - l * u * u));
}
/// Square of the local Mach number at an edge speed, isentropic from the wind.
template <class T>
T edgeMachSquared(const T& speed, const LayerAir& air) {
    if (air.mach <= 0.0) return T(0.0 * speed);
    const double M2 = air.mach * air.mach;
    return T(M2 * speed * speed / (1.0 + 0.2 * M2 * (1.0 - speed * speed)));
}
/// Reynolds number on the momentum thickness; viscosity of the edge by the 0.76th power of its temperature.
template <class T>
T momentumReynolds(const T& theta, const T& speed, const LayerAir& air) {
    T r = air.reynolds * speed * theta;
    if (air.mach > 0.0) {
        const T temperature = 1.0 + 0.2 * air.mach * air.mach * (1.0 - speed * speed);
        r = T(r * pow(temperature, 2.5 - 0.76));
    }
    return r;
}

enum class Regime { Laminar, Turbulent, Wake };

/// One station of a layer.
template <class T>
struct Layer {
    T theta;  ///< momentum thickness
    T m;      ///< mass defect u delta*
    T C;      ///< laminar: amplification exponent n; turbulent: square root of the shear stress coefficient
    T u;      ///< speed of the panels' flow at the edge
    T s;      ///< length from the stagnation point
};

template <class T>
struct Closure {
    T speed, Me2, H, Hk, Rt;
    T Hstar;                 ///< kinetic energy thickness over theta
    T Hss;                   ///< density thickness over theta
    T cf;                    ///< skin friction
    T dissipation;           ///< 2 CD / H*
    T slip, delta, balance;  ///< of turbulent layers: Us, thickness, sqrt of the stress in equilibrium
};

inline constexpr double kLeastH = 1.02, kLeastWakeH = 1.0005;

template <class T>
T laminarEnergy(const T& Hk) {  // (24)
    const T d = Hk - 4.0;
    return T(1.515 + (Hk < 4.0 ? 0.076 : 0.040) * d * d / Hk);
}
template <class T>
T laminarFriction(const T& Hk, const T& Rt) {  // (25)
    if (Hk < 7.4) {
        const T d = 7.4 - Hk;
        return T(2.0 / Rt * (-0.067 + 0.01977 * d * d / (Hk - 1.0)));
    }
    const T d = 1.0 - 1.4 / (Hk - 6.0);
    return T(2.0 / Rt * (-0.067 + 0.022 * d * d));
}
template <class T>
T laminarDissipation(const T& Hk, const T& Rt) {  // (26), 2 CD / H*
    if (Hk < 4.0) {
        const T d = 4.0 - Hk;
        return T((0.207 + 0.00205 * pow(d, 5.5)) / Rt);
    }
    const T d = Hk - 4.0;
    return T((0.207 - 0.003 * d * d / (1.0 + 0.02 * d * d)) / Rt);
}
template <class T>
T turbulentEnergy(const T& Hk, const T& Rt) {  // (28); the wall's Reynolds number counts from 200 on
    const T R = Rt > 200.0 ? Rt : T(200.0 + 0.0 * Rt);
    const T H0 = R < 400.0 ? T(4.0 + 0.0 * R) : T(3.0 + 400.0 / R);
    if (Hk < H0) {
        const T d = H0 - Hk;
        return T(1.505 + 4.0 / R + (0.165 - 1.6 / sqrt(R)) * pow(d, 1.6) / Hk);
    }
    const T l = log(R), d = Hk - H0, f = d + 4.0 / l;
    return T(1.505 + 4.0 / R + d * d * (0.04 / Hk + 0.007 * l / (f * f)));
}
/// T. W. Swafford, AIAA J. 21(6), 1983; the logarithm is held where there is no turbulent layer.
template <class T>
T turbulentFriction(const T& Hk, const T& Rt, const T& Me2) {  // (29)
    const T Fc = sqrt(1.0 + 0.2 * Me2);
    T l = log(Rt / Fc) / 2.302585092994046;
    if (l < 1.3) l = T(1.3 + 0.0 * l);
    const T th = tanh(4.0 - Hk / 0.875);
    return T((0.3 * exp(-1.33 * Hk) * exp(log(l) * (-1.74 - 0.31 * Hk)) + 0.00011 * (th - 1.0)) / Fc);
}

/// Everything at a station. In a wake two layers lie back to back: each has half the thicknesses, and both dissipate.
/// @param dead part of delta* that is the dead air behind a blunt base
template <class T>
Closure<T> closureOf(const Layer<T>& at, const LayerAir& air, Regime regime, double dead) {
    Closure<T> c;
    c.speed = edgeSpeed(at.u, air);
    c.Me2 = edgeMachSquared(c.speed, air);
    c.H = at.m / (c.speed * at.theta) - dead / at.theta;
    c.Hk = (c.H - 0.290 * c.Me2) / (1.0 + 0.113 * c.Me2);  // D. L. Whitfield, AIAA 78-1158
    const double least = regime == Regime::Wake ? kLeastWakeH : kLeastH;
    if (c.Hk < least) c.Hk = T(least + 0.05 * (c.Hk - least) / (1.0 + 20.0 * (least - c.Hk)));
    if (c.Hk < 1.0001) c.Hk = T(1.0001 + 0.0 * c.Hk);
    if (c.H < c.Hk) c.H = c.Hk;
    c.Rt = momentumReynolds(at.theta, c.speed, air);
    c.Hss = (0.064 / (c.Hk - 0.8) + 0.251) * c.Me2;
    c.slip = c.delta = c.balance = T(0.0 * c.H);
    if (regime == Regime::Laminar) {
        c.Hstar = laminarEnergy(c.Hk);
        c.cf = laminarFriction(c.Hk, c.Rt);
        c.dissipation = laminarDissipation(c.Hk, c.Rt);
    } else {
        c.Hstar = turbulentEnergy(c.Hk, c.Rt);
    }
    c.Hstar = (c.Hstar + 0.028 * c.Me2) / (1.0 + 0.014 * c.Me2);
    if (regime == Regime::Laminar) return c;
    const T deltaStar = c.H * at.theta;
    c.slip = 0.5 * c.Hstar * (1.0 - 4.0 / 3.0 * (c.Hk - 1.0) / c.H);
    if (c.slip > 0.95) c.slip = T(0.95 + 0.0 * c.slip);
    const T d = c.Hk - 1.0;
    c.balance = sqrt(c.Hstar * 0.015 / (1.0 - c.slip) * d * d * d / (c.Hk * c.Hk * c.H));  // (22)
    c.delta = at.theta * (3.15 + 1.72 / d) + deltaStar;
    if (c.delta > 12.0 * at.theta) c.delta = T(12.0 * at.theta);
    if (regime == Regime::Wake) {
        c.cf = T(0.0 * c.H);
        c.delta = 0.5 * c.delta;
        c.dissipation = 2.0 * 2.0 * at.C * at.C * (1.0 - c.slip) / c.Hstar;
    } else {
        c.cf = turbulentFriction(c.Hk, c.Rt, c.Me2);
        c.dissipation = 2.0 * (0.5 * c.cf * c.slip + at.C * at.C * (1.0 - c.slip)) / c.Hstar;  // (21)
    }
    return c;
}

/// Growth of the amplification exponent of the most amplified wave, dn/ds: envelope of the spatial growth of
/// Falkner-Skan layers (30)-(34). It sets in over a tenth of a decade of the momentum Reynolds number.
template <class T>
T amplification(const Closure<T>& c, const T& theta) {
    const T d = 1.0 / (c.Hk - 1.0);
    const T onset = (1.415 * d - 0.489) * tanh(20.0 * d - 12.9) + 3.295 * d + 0.44;
    const T beyond = (log(c.Rt) / 2.302585092994046 - onset) / 0.1 + 0.5;
    if (beyond <= 0.0) return T(0.0 * beyond);
    const T ramp = beyond < 1.0 ? T(beyond * beyond * (3.0 - 2.0 * beyond)) : T(1.0 + 0.0 * beyond);
    const T a = 2.4 * c.Hk - 3.7 + 2.5 * tanh(1.5 * c.Hk - 4.65);
    const T perRt = 0.01 * sqrt(a * a + 0.25);
    const T l = (6.54 * c.Hk - 14.07) / (c.Hk * c.Hk);
    const T q = c.Hk - 4.0;
    const T m = (0.058 * q * q / (c.Hk - 1.0) - 0.068) / l;
    return T(ramp * perRt * 0.5 * (m + 1.0) * l / theta);
}

}  // namespace cvane::section
