// Makes the demo models from formulas: make_demo FOLDER writes larkspur.stl, brindle.stl, shrike.stl and
// shrike-dirty.stl, in millimetres.
#include <cmath>
#include <filesystem>
#include <iostream>

#include "base/files.h"
#include "base/units.h"
#include "section/outline/coordinates.h"
#include "section/outline/families.h"
#include "shape/loft.h"
#include "shape/section.h"
#include "shape/stl_export.h"

using namespace cvane;

namespace {

// Larkspur: a fully faired tricycle, 2.6 m long. The fairing's plan and side outlines are drop-shaped lines of their
// own; its cross-sections are superellipses, flatter below. Lengths in m, ground at z = 0.
shape::Surface larkspur() {
    shape::Surface s;
    const double L = 2.6, pi = std::acos(-1.0);
    const auto drop = [](double t, double nose, double tail) { return std::pow(t, nose) * std::pow(1.0 - t, tail); };
    std::vector<std::vector<Vec3>> rings;
    const int stations = 110, around = 96;
    for (int j = 0; j <= stations; ++j) {
        const double t = 0.5 * (1.0 - std::cos(pi * (0.004 + 0.992 * j / stations)));
        const double width = 0.345 * drop(t, 0.55, 0.9) / drop(0.38, 0.55, 0.9);
        const double up = 0.53 * drop(t, 0.62, 1.05) / drop(0.37, 0.62, 1.05);
        const double down = 0.21 * drop(t, 0.5, 0.75) / drop(0.4, 0.5, 0.75);
        const double middle = 0.36 + 0.05 * t;
        std::vector<Vec3> ring;
        for (int i = 0; i < around; ++i) {
            const double a = 2.0 * pi * i / around, c = std::cos(a), n = std::sin(a);
            const double height = n > 0.0 ? up : down, power = n > 0.0 ? 2.0 : 2.6;
            const double r = std::pow(std::pow(std::abs(c), power) + std::pow(std::abs(n), power), -1.0 / power);
            ring.push_back({L * t, width * r * c, middle + height * r * n});
        }
        rings.push_back(ring);
    }
    shape::addLoft(s, "fairing", rings, true, true);
    const auto wheel = [&](const std::string& name, double x, double y, double radius, double width) {
        std::vector<std::vector<Vec3>> discs;
        for (int j = 0; j <= 16; ++j) {
            const double v = -1.0 + 2.0 * j / 16.0;
            const double r = radius * (1.0 - 0.16 * std::pow(std::abs(v), 3.0));
            std::vector<Vec3> ring;
            for (int i = 0; i < 72; ++i)
                ring.push_back({x + r * std::cos(2 * pi * i / 72), y + 0.5 * width * v,
                                radius - 0.004 + r * std::sin(2 * pi * i / 72)});
            discs.push_back(ring);
        }
        shape::addLoft(s, name, discs, true, true);
    };
    wheel("front wheel port", 0.78, -0.2, 0.2, 0.045);
    wheel("front wheel starboard", 0.78, 0.2, 0.2, 0.045);
    wheel("rear wheel", 1.85, 0.0, 0.24, 0.045);
    shape::orientFacets(s);
    return s;
}

// Brindle: the starboard half of a survey glider's wing, 2.4 m span, cranked and swept, washed out towards the tip.
shape::Surface brindle() {
    shape::Surface s;
    struct Station {
        double y, x, z, chord, twist_deg, thickness;
    };
    const Station plan[] = {{0.0, 0.0, 0.0, 0.30, 1.0, 0.13},
                            {0.52, 0.035, 0.012, 0.255, 0.6, 0.125},
                            {1.06, 0.15, 0.045, 0.165, -1.0, 0.11},
                            {1.2, 0.205, 0.06, 0.11, -1.8, 0.10}};
    std::vector<std::vector<Vec3>> rings;
    for (int k = 0; k < 3; ++k)
        for (int j = k == 0 ? 0 : 1; j <= 24; ++j) {
            const Station &a = plan[k], &b = plan[k + 1];
            const double t = j / 24.0;
            const auto mix = [&](double p, double q) { return p + t * (q - p); };
            auto line = shape::fourDigitSection(0.025, 0.4, mix(a.thickness, b.thickness), 70);
            line.pop_back();
            const double c = mix(a.chord, b.chord), twist = mix(a.twist_deg, b.twist_deg) * base::degree;
            std::vector<Vec3> ring;
            for (const auto& [x, z] : line) {
                const double dx = c * (x - 0.25), dz = c * z;
                ring.push_back({mix(a.x, b.x) + 0.25 * c + dx * std::cos(twist) + dz * std::sin(twist), mix(a.y, b.y),
                                mix(a.z, b.z) - dx * std::sin(twist) + dz * std::cos(twist)});
            }
            rings.push_back(ring);
        }
    shape::addLoft(s, "wing", rings, false, true);
    shape::orientFacets(s);
    return s;
}

// Shrike: a small survey drone's body with a stub wing, a camera ball and a tail boom, as one would get it from CAD.
void addTube(shape::Surface& s, const std::string& name, const Vec3& from, const Vec3& to, double radius, int around,
             int along) {
    const double pi = std::acos(-1.0);
    const Vec3 axis = (to - from).normalized(), side = axis.unitOrthogonal(), up = axis.cross(side);
    std::vector<std::vector<Vec3>> rings;
    for (int j = 0; j <= along; ++j) {
        std::vector<Vec3> ring;
        for (int i = 0; i < around; ++i) {
            const double a = 2.0 * pi * i / around;
            ring.push_back(from + (to - from) * (static_cast<double>(j) / along) +
                           radius * (std::cos(a) * side + std::sin(a) * up));
        }
        rings.push_back(ring);
    }
    shape::addLoft(s, name, rings, true, true);
}

shape::Surface shrike() {
    shape::Surface s;
    const double pi = std::acos(-1.0);
    std::vector<std::vector<Vec3>> hull;
    for (int j = 0; j <= 60; ++j) {
        const double t = 0.5 * (1.0 - std::cos(pi * (0.01 + 0.98 * j / 60.0))),
                     r = 0.075 * std::pow(t, 0.5) * std::pow(1.0 - t, 0.6) / 0.47;
        std::vector<Vec3> ring;
        for (int i = 0; i < 64; ++i)
            ring.push_back({0.62 * t, r * std::cos(2 * pi * i / 64), 1.15 * r * std::sin(2 * pi * i / 64)});
        hull.push_back(ring);
    }
    shape::addLoft(s, "hull", hull, true, true);
    auto section = shape::fourDigitSection(0.02, 0.4, 0.14, 50);
    section.pop_back();
    std::vector<std::vector<Vec3>> wing;
    for (int j = 0; j <= 40; ++j) {
        const double y = -0.45 + 0.9 * j / 40.0, c = 0.19 - 0.12 * std::abs(y);
        std::vector<Vec3> ring;
        for (const auto& [x, z] : section) ring.push_back({0.2 + 0.1 * std::abs(y) + c * x, y, 0.03 + c * z});
        wing.push_back(ring);
    }
    shape::addLoft(s, "wing", wing, true, true);
    addTube(s, "boom", {0.45, 0.0, 0.02}, {0.98, 0.0, 0.035}, 0.017, 32, 20);
    shape::addSphere(s, "camera", {0.13, 0.0, -0.075}, 0.035, 48);
    shape::orientFacets(s);
    return s;
}

// The same body as careless export leaves it: parts in one piece, facets turned, doubled and lost, loose sheets and a
// battery inside, needles, and seams that do not quite meet.
shape::Surface spoilt(const shape::Surface& clean) {
    shape::Surface s;
    s.parts = {{"everything", true}};
    const auto add = [&](const Vec3& a, const Vec3& b, const Vec3& c) {
        const auto n = static_cast<std::int32_t>(s.points.size());
        s.points.insert(s.points.end(), {a, b, c});
        s.facets.push_back({n, n + 1, n + 2});
        s.partOf.push_back(0);
    };
    const auto jitter = [](const Vec3& p, double k) -> Vec3 {
        return p +
               2e-5 * Vec3(std::sin(9001.0 * p.y() + k), std::sin(7001.0 * p.z() + k), std::sin(8009.0 * p.x() + k));
    };
    for (std::size_t f = 0; f < clean.facets.size(); ++f) {
        const double k = static_cast<double>(f);
        if (f % 97 == 13) continue;  // a hole
        const Vec3 a = jitter(clean.corner(f, 0), k), b = jitter(clean.corner(f, 1), k),
                   c = jitter(clean.corner(f, 2), k);
        if (f % 11 == 5)
            add(a, c, b);  // turned round
        else
            add(a, b, c);
        if (f % 41 == 7) add(a, b, c);                   // doubled
        if (f % 53 == 9) add(a, a + 1e-7 * (b - a), c);  // needle
    }
    shape::Surface inside;
    addTube(inside, "battery", {0.2, 0.0, 0.0}, {0.36, 0.0, 0.0}, 0.025, 24, 4);
    for (std::size_t f = 0; f < inside.facets.size(); ++f)
        add(inside.corner(f, 0), inside.corner(f, 1), inside.corner(f, 2));
    add({0.1, -0.02, -0.01}, {0.4, 0.03, 0.0}, {0.25, 0.0, 0.03});  // loose sheets
    add({0.3, -0.01, 0.01}, {0.5, 0.01, 0.0}, {0.42, 0.0, 0.02});
    return s;
}

}  // namespace

int main(int argc, char** argv) {
    if (argc != 2) {
        std::cerr << "Usage: make_demo FOLDER\n";
        return 2;
    }
    try {
        const std::filesystem::path folder = argv[1];
        std::filesystem::create_directories(folder);
        shape::writeStl(larkspur(), folder / "larkspur.stl", 1e-3);
        shape::writeStl(brindle(), folder / "brindle.stl", 1e-3);
        // Tansy, for a slow survey glider: gentle suction to 30 % of the chord, load even to 60 %.
        auto tansy = section::sectionFromCode("laminar:13,30,0.5,0.6");
        tansy.name = "Tansy";
        base::replaceFile(folder / "tansy.dat", section::writeCoordinates(tansy, section::PointOrder::Loop));
        const auto body = shrike();
        shape::writeBinaryStl(body, folder / "shrike.stl", 1e-3);
        shape::writeBinaryStl(spoilt(body), folder / "shrike-dirty.stl", 1e-3);
    } catch (const std::exception& e) {
        std::cerr << e.what() << '\n';
        return 1;
    }
    return 0;
}
