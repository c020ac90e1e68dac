#pragma once
#include <algorithm>
#include <array>
#include <cmath>

#include "grid/structured.h"

namespace cvane::bench {

/// The plane diffuser of S. Obi, K. Aoki, S. Masuda (9th Symp. on Turbulent Shear Flows, 1993) and C. U. Buice, J. K.
/// Eaton (J. Fluids Eng. 122, 2000): a channel of height 1 whose lower wall falls by 10 degrees from x = 0 to 21 down
/// to a channel of height 4.7; corners are rounded with a radius of 9.7. Lengths in heights of the channel.
struct Diffuser {
    double upstream = 80.0, end = 70.0;  ///< of the channel before and after
    double size = 1.0;                   ///< of the cells along the channel, 1: 0.15 to 0.25 heights in the diffuser
    double firstHeight = 0.002;          ///< of the cell on either wall, of the channel's height there
    double growth = 1.2;                 ///< of the cells away from the walls
};

/// Height of the lower wall [channel heights], 0 upstream and -3.7 downstream.
inline double diffuserFloor(double x) {
    const double slope = std::tan(10.0 * std::acos(-1.0) / 180.0), radius = 9.7;
    // A fillet begins R tan(5 deg) ahead of the corner and ends as far behind it along the slope.
    const double tangent = radius * std::tan(5.0 * std::acos(-1.0) / 180.0), sine = slope / std::hypot(1.0, slope);
    const double length = 21.0, drop = slope * length;
    const auto fillet = [&](double fromCorner) {  // below the level line; the centre lies a tangent ahead
        const double s = fromCorner + tangent;
        return s <= 0.0 ? 0.0 : s < radius * sine ? radius - std::sqrt(radius * radius - s * s) : slope * fromCorner;
    };
    return x < 0.5 * length ? -fillet(x) : -drop + fillet(length - x);
}

/// One cell across, 1 wide; walls "level" (above) and "falling" (below).
inline grid::Grid diffuserGrid(const Diffuser& d) {
    const auto steps = [&](double length, double cell) { return static_cast<int>(std::ceil(length / cell / d.size)); };
    auto ahead = grid::gradedLine(-2.0, -d.upstream, steps(d.upstream, 1.0), 0.2 * d.size);
    std::reverse(ahead.begin(), ahead.end());
    const auto x = grid::joinedLines({ahead, grid::evenLine(-2.0, 32.0, steps(34.0, 0.2)),
                                      grid::gradedLine(32.0, d.end, steps(d.end - 32.0, 1.0), 0.2 * d.size)});
    // As many cells as reach the middle with the wanted growth.
    const int half = std::max(
        3, static_cast<int>(std::ceil(std::log(1.0 + 0.5 * (d.growth - 1.0) / d.firstHeight) / std::log(d.growth))));
    const auto z = grid::gradedLineBothEnds(0.0, 1.0, 2 * half, std::min(d.firstHeight, 0.5 / half));
    grid::Block b;
    b.cells = {static_cast<int>(x.size()) - 1, 1, 2 * half};
    b.place = [&](int i, int j, int k) {
        const double at = x[static_cast<std::size_t>(i)], floor = diffuserFloor(at);
        return Vec3(at, j, floor + z[static_cast<std::size_t>(k)] * (1.0 - floor));
    };
    b.patch = [](int side, const Vec3&) {
        grid::Patch p;
        if (side >= 4) {
            p.name = side == 5 ? "level" : "falling";
            p.part = 5 - side;
            return p;
        }
        p.kind = grid::PatchKind::Side;
        p.side = side;
        p.name = std::array{"x-", "x+", "y-", "y+"}[static_cast<std::size_t>(side)];
        return p;
    };
    return grid::blockGrid(b);
}

}  // namespace cvane::bench
