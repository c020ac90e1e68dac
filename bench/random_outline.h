#pragma once
#include <random>

#include "vehicle/outline.h"

namespace cvane::bench {

/// A vehicle that nobody would draw twice: nose, screen, roof and tail within usual bounds, mostly with wheels and a
/// diffuser, now and then with a spoiler or a splitter.
inline vehicle::Outline randomOutline(unsigned seed) {
    std::mt19937 random(seed);
    const auto between = [&](double a, double b) { return a + (b - a) * std::uniform_real_distribution<>()(random); };
    const auto chance = [&](double share) { return between(0.0, 1.0) < share; };
    vehicle::Outline o;
    o.name = "random";
    const double length = between(2.5, 6.0), height = between(0.8, 2.2), half = between(0.6, 1.0);
    o.profile = {{0.0, 0.0, between(0.02, 0.08)},
                 {between(-0.1, 0.1), between(0.3, 0.5) * height, between(0.05, 0.12)},
                 {between(0.15, 0.25) * length, between(0.55, 0.65) * height, between(0.0, 0.2)},
                 {between(0.35, 0.42) * length, height, between(0.1, 0.3)},
                 {between(0.6, 0.95) * length, between(0.8, 1.0) * height, between(0.0, 0.2)},
                 {length, between(0.3, 0.6) * height, between(0.0, 0.08)},
                 {length, 0.0, between(0.0, 0.05)}};
    o.plan = {{0.0, between(0.7, 0.95) * half, 0.0},
              {0.1 * length, half, between(0.0, 0.3)},
              {0.9 * length, half, between(0.0, 0.4)},
              {length, between(0.8, 1.0) * half, 0.0}};
    o.edge = between(0.02, 0.08);
    o.clearance = between(0.1, 0.25);
    if (chance(0.6)) {
        o.diffuserLength = between(0.3, 0.8);
        o.diffuser_deg = between(3.0, 12.0);
    }
    if (chance(0.7)) {
        const double radius = o.clearance + between(0.1, 0.2), width = between(0.15, 0.25);
        const double track = 2.0 * (0.65 * half) - width;
        o.wheels = {{"front wheel", 0.2 * length, radius, width, track, 0.03},
                    {"rear wheel", between(0.72, 0.8) * length, radius, width, track, 0.03}};
    }
    if (chance(0.3))
        o.plates.push_back({"spoiler", Vec3(0.97 * length, 0.0, o.clearance + 1.15 * height), 0.25, 1.4 * half, 0.03,
                            between(-10.0, 5.0), 0.01, false});
    return o;
}

}  // namespace cvane::bench
