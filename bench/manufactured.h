#pragma once
#include <array>
#include <cmath>

#include "flow/solver.h"

namespace cvane::bench {

/// A flow without any symmetry that satisfies continuity exactly; the force makes it a solution of the momentum
/// equations.
struct ManufacturedFlow {
    double nu = 0.02;  ///< [m2/s]
    static Vec3 velocity(const Vec3& x) {
        return {1.0 + 0.3 * std::sin(2.0 * x.y()) + 0.2 * std::cos(3.0 * x.z()),
                0.5 + 0.3 * std::sin(2.0 * x.z()) + 0.2 * std::cos(3.0 * x.x()),
                0.25 + 0.3 * std::sin(2.0 * x.x()) + 0.2 * std::cos(3.0 * x.y())};
    }
    static double pressure(const Vec3& x) { return 0.5 * std::cos(2.0 * x.x()) * std::sin(2.0 * x.y() + x.z()); }
    /// (U . grad) U + grad p - nu laplace U
    Vec3 force(const Vec3& x) const {
        Mat3 grad = Mat3::Zero();
        Vec3 laplace;
        for (int i = 0; i < 3; ++i) {
            const int a = (i + 1) % 3, b = (i + 2) % 3;  // a component varies along the next two axes
            grad(i, a) = 0.6 * std::cos(2.0 * x[a]);
            grad(i, b) = -0.6 * std::sin(3.0 * x[b]);
            laplace[i] = -1.2 * std::sin(2.0 * x[a]) - 1.8 * std::cos(3.0 * x[b]);
        }
        const double s = 2.0 * x.y() + x.z(), c2 = std::cos(2.0 * x.x());
        const Vec3 gradP(-std::sin(2.0 * x.x()) * std::sin(s), c2 * std::cos(s), 0.5 * c2 * std::cos(s));
        return grad * velocity(x) + gradP - nu * laplace;
    }
};

/// Collective: root mean square errors of velocity and pressure of the settled flow in the grid's box, with the exact
/// velocity on every boundary face.
inline std::array<double, 2> manufacturedErrors(const grid::Grid& g, const flow::Ranks& ranks) {
    const ManufacturedFlow m;
    flow::Case c;
    c.wind.speed = 1.0;
    c.settings.model = flow::Model::Laminar;
    c.wind.air.viscosity = c.wind.air.density * m.nu;
    c.givenVelocity = &ManufacturedFlow::velocity;
    c.givenForce = [m](const Vec3& x) { return m.force(x); };
    flow::Solver solver(g, grid::geometryOf(g), c, ranks);
    solver.start().fromPotentialFlow();
    // By the momentum alone: the exact velocities' sum over coarse boundary faces is not quite zero, and what is left
    // of it stays in every cell's continuity.
    for (int i = 0; i < 2000; ++i)
        if (solver.iterate().momentum < 1e-9 && i > 20) break;
    const auto& p = solver.piece();
    const auto& s = solver.state();
    const auto cells = static_cast<std::size_t>(p.cells);
    double sums[2] = {0.0, 0.0};
    for (std::size_t i = 0; i < cells; ++i) {
        sums[0] += p.V[i];
        sums[1] += p.V[i] * (s.p[i] - ManufacturedFlow::pressure(p.x[i]));
    }
    ranks.sum(std::span<double>(sums, 2));
    const double mean = sums[1] / sums[0];  // the pressure has no fixed value
    double squares[2] = {0.0, 0.0};
    for (std::size_t i = 0; i < cells; ++i) {
        squares[0] += p.V[i] / sums[0] * (s.U[i] - ManufacturedFlow::velocity(p.x[i])).squaredNorm();
        squares[1] += p.V[i] / sums[0] * std::pow(s.p[i] - ManufacturedFlow::pressure(p.x[i]) - mean, 2);
    }
    ranks.sum(std::span<double>(squares, 2));
    return {std::sqrt(squares[0]), std::sqrt(squares[1])};
}

}  // namespace cvane::bench
