#pragma once
#include <random>

#include "wing/skin.h"

namespace cvane::bench {

/// An aircraft that nobody would draw twice: a wing with breaks, mostly a tail, a fin and a body, now and then a canard
/// or a fin at each tip, with controls that are turned.
inline wing::Aircraft randomAircraft(unsigned seed) {
    std::mt19937 random(seed);
    const auto between = [&](double low, double high) { return std::uniform_real_distribution(low, high)(random); };
    const auto chance = [&](double share) { return between(0.0, 1.0) < share; };
    const char* sections[] = {"0009", "2412", "4415", "23012", "ellipse:14"};
    const auto section = [&] { return std::string(sections[static_cast<std::size_t>(between(0.0, 4.99))]); };
    wing::Aircraft a;
    a.name = "random";
    wing::LiftingSurface w;
    const int stations = 2 + static_cast<int>(between(0.0, 2.99));
    for (int k = 0; k < stations; ++k) {
        wing::Station t;
        t.chord = k == 0 ? between(0.3, 0.8) : w.stations.back().chord * between(0.5, 1.0);
        if (k > 0) {
            t.along = w.stations.back().along + between(0.4, 1.5);
            t.leading = w.stations.back().leading + between(-0.1, 0.3);
        }
        t.twist_deg = between(-4.0, 2.0);
        t.dihedral_deg = between(-3.0, 12.0) * (k + 1);
        t.section = section();
        w.stations.push_back(t);
    }
    w.roundTip = chance(0.5);
    w.incidence_deg = between(-2.0, 4.0);
    const double half = w.stations.back().along, root = w.stations.front().chord;
    if (chance(0.6)) w.controls.push_back({"aileron", 0.6 * half, 0.95 * half, 0.75, between(-12.0, 12.0), true});
    a.surfaces.push_back(w);
    const auto small = [&](const char* name, const Vec3& place, double span, double chord) {
        wing::LiftingSurface s;
        s.name = name;
        s.place = place;
        s.stations.resize(2);
        s.stations[0].chord = chord;
        s.stations[1].chord = chord * between(0.5, 1.0);
        s.stations[1].along = span;
        s.stations[1].leading = chord * between(0.0, 0.4);
        s.stations[0].section = s.stations[1].section = "0009";
        s.roundTip = chance(0.5);
        return s;
    };
    const double arm = between(2.0, 4.0) * root;
    if (chance(0.8)) {
        auto tail = small("tail", Vec3(arm, 0.0, between(-0.1, 0.5) * root), between(0.2, 0.4) * half, 0.6 * root);
        tail.incidence_deg = between(-4.0, 2.0);
        if (chance(0.5))
            tail.controls.push_back({"elevator", 0.0, tail.stations[1].along, 0.7, between(-10.0, 10.0), false});
        a.surfaces.push_back(tail);
    }
    if (chance(0.7)) {
        auto fin = small("fin", Vec3(arm - 0.1 * root, 0.0, 0.1 * root), between(0.6, 1.2) * root, 0.6 * root);
        fin.mirrored = false;
        fin.roll_deg = 90.0;
        a.surfaces.push_back(fin);
    }
    if (chance(0.3)) a.surfaces.push_back(small("canard", Vec3(-1.5 * root, 0.0, 0.2 * root), 0.25 * half, 0.4 * root));
    if (chance(0.8)) {
        wing::Body b;
        const double width = between(0.15, 0.35) * root, from = -between(0.5, 2.0) * root, to = arm + 0.7 * root;
        for (const double s : {0.0, 0.05, 0.2, 0.5, 0.8, 1.0})
            b.stations.push_back({from + s * (to - from), 0.0,
                                  s == 0.0 ? 0.0
                                           : width * (s < 0.1   ? 0.5
                                                      : s < 0.9 ? 1.0
                                                                : 0.4),
                                  s == 0.0 ? 0.0
                                           : width * (s < 0.1   ? 0.5
                                                      : s < 0.9 ? 1.2
                                                                : 0.4),
                                  between(2.0, 3.0)});
        a.bodies.push_back(b);
    }
    return a;
}

}  // namespace cvane::bench
