#pragma once
#include <cstddef>
#include <vector>

namespace cvane::flow {

// What a nuTilde that grows linearly away from a wall means for the speed: the one-equation model holds nuTilde = kappa
// u_tau y from the wall to the end of the logarithm, chi = nuTilde / nu = kappa y+, and its eddy viscosity is nu chi
// fv1(chi), fv1 = chi^3 / (chi^3 + 7.1^3).

/// Share of nuTilde that is eddy viscosity, at chi = nuTilde / nu.
constexpr double kCv1 = 7.1;
inline double fv1(double chi) {
    return chi * chi * chi / (chi * chi * chi + kCv1 * kCv1 * kCv1);
}

/// H(chi) = integral from 0 to chi of dc / (1 + c fv1(c)): kappa u+ at y+ = chi / kappa. Tends to kappa u+ = ln(y+)
/// + 5.03 kappa.
double speedIntegral(double chi);
/// The chi at which the integral is `value`, which is 0 or more.
double inverseSpeedIntegral(double value);

/// Friction velocity u_tau [m/s] for a tangential speed U [m/s] at distance y [m] from a wall, by kappa u+ = H(kappa y+
/// + chi0) - H(chi0). On a wall with sand grains of height ks [m] chi0 is such that the logarithm falls by ln(1 + 0.3
/// ks+) / kappa (C. F. Colebrook, J. Inst. Civ. Eng. 11, 1939).
double oneEquationFrictionVelocity(double U, double y, double nu, double ks);

/// d u+ / d y+ of the same law: 1 / (1 + chi fv1(chi)), chi = kappa y+ + chi0.
double oneEquationSlope(double yPlus, double ksPlus);

/// The viscosity that acts between two cells if nuTilde runs linearly from one to the other and the stress is the same
/// all the way, as it is near a wall: nu (chi_N - chi_P) / (H_N - H_P) [m2/s]. The mean of the two viscosities is more,
/// by a third between the first two cells with the first at y+ 5. A profile for addTransport.
struct SeriesViscosity {
    double nu = 0.0;                                                    ///< [m2/s]
    std::vector<double> chi, integral;                                  ///< own and ghost cells
    void update(const std::vector<double>& nuTilde, double viscosity);  ///< both [m2/s]
    double operator()(std::size_t P, std::size_t N, double, double mean) const {
        const double d = chi[N] - chi[P], h = integral[N] - integral[P];
        return d * d > 1e-16 * (1.0 + chi[P] * chi[P]) ? nu * d / h : mean;
    }
};

}  // namespace cvane::flow
