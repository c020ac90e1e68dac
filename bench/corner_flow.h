#pragma once
#include <array>
#include <cmath>
#include <string>

#include "grid/structured.h"
#include "grid/tunnel_sides.h"

namespace cvane::bench {

/// Of an oblique shock that turns the flow by `theta` [rad] the weak solution's angle [rad] and the ratio of pressures.
/// Source: H. W. Liepmann, A. Roshko, Elements of Gasdynamics, ch. 4.
inline std::array<double, 2> obliqueShock(double M, double theta, double g) {
    const auto turn = [&](double b) {
        const double n = M * M * std::sin(b) * std::sin(b);
        return std::atan(2.0 / std::tan(b) * (n - 1.0) / (M * M * (g + std::cos(2.0 * b)) + 2.0));
    };
    double low = std::asin(1.0 / M), high = low;
    while (turn(high) < theta) high += 1e-4;
    for (int i = 0; i < 60; ++i) {
        const double b = 0.5 * (low + high);
        (turn(b) < theta ? low : high) = b;
    }
    const double n = std::pow(M * std::sin(low), 2);
    return {low, 1.0 + 2.0 * g / (g + 1.0) * (n - 1.0)};
}

/// By how much a flow has turned in an expansion from Mach 1 [rad]. Same source.
inline double prandtlMeyer(double M, double g) {
    const double k = std::sqrt((g + 1.0) / (g - 1.0)), m = std::sqrt(M * M - 1.0);
    return k * std::atan(m / k) - std::atan(m);
}

/// A duct whose floor, the wall "floor", turns by an angle [rad] at x = 0: up into the flow or down from it. `n` cells
/// along, one across.
inline grid::Grid cornerGrid(int n, double angle) {
    grid::Block b;
    b.cells = {n, n * 3 / 4, 1};
    const double back = 0.25, length = 1.0, height = 0.9;
    b.place = [=](int i, int j, int k) {
        const double x = -back + (back + length) * i / n, floor = x > 0.0 ? x * std::tan(angle) : 0.0;
        const double z = floor + (height - floor) * j / (n * 3 / 4);
        return Vec3(x, -0.1 * k, z);
    };
    b.patch = [](int side, const Vec3&) {
        grid::Patch p;
        p.kind = grid::PatchKind::Side;
        constexpr int sides[6] = {grid::kUpstream, grid::kDownstream, grid::kBelow,
                                  grid::kAbove,    grid::kHighY,      grid::kLowY};
        p.side = sides[side];
        p.name = "side " + std::to_string(side);
        if (side == 2) p = {"floor", grid::PatchKind::Wall, -1};
        return p;
    };
    return grid::blockGrid(b);
}

}  // namespace cvane::bench
