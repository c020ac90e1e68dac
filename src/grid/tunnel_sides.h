#pragma once
#include <cmath>
#include <cstdint>

#include "base/vec3.h"

namespace cvane::grid {

/// Sides of the tunnel as patches number them: x-, x+, y-, y+, z-, z+.
enum TunnelSide : int { kUpstream, kDownstream, kLowY, kHighY, kBelow, kAbove };

/// Tunnel sides as bits: 0 and 1 for low and high x, then y and z. A point in several sides lies on an edge of the
/// tunnel.
using Sides = std::uint8_t;

inline Sides sidesAt(const Vec3& p, const Box& tunnel, double tolerance) {
    Sides s = 0;
    for (int k = 0; k < 3; ++k) {
        if (std::abs(p[k] - tunnel.low[k]) < tolerance) s |= static_cast<Sides>(1u << (2 * k));
        if (std::abs(p[k] - tunnel.high[k]) < tolerance) s |= static_cast<Sides>(2u << (2 * k));
    }
    return s;
}
/// Whether the sides hold coordinate k.
inline bool holds(Sides sides, int k) {
    return (sides >> (2 * k) & 3) != 0;
}
inline void holdInSides(Vec3& p, Sides sides, const Box& tunnel) {
    for (int k = 0; k < 3; ++k) {
        if (sides >> (2 * k) & 1) p[k] = tunnel.low[k];
        if (sides >> (2 * k + 1) & 1) p[k] = tunnel.high[k];
    }
}
/// Leaves of a direction what runs along the sides.
inline void dropSideParts(Vec3& v, Sides sides) {
    for (int k = 0; k < 3; ++k)
        if (holds(sides, k)) v[k] = 0.0;
}

}  // namespace cvane::grid
