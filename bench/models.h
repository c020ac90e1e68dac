#pragma once
#include <cmath>

#include "shape/loft.h"
#include "shape/section.h"

namespace cvane::bench {

/// Rectangular half wing with unit chord along x from 0, root at y = 0, square tip.
inline shape::Surface rectangularHalfWing(double thickness, double halfSpan, int pointsASide, int stations) {
    shape::Surface s;
    auto line = shape::fourDigitSection(0.0, 0.4, thickness, pointsASide);
    line.pop_back();
    std::vector<std::vector<Vec3>> rings;
    for (int j = 0; j <= stations; ++j) {
        std::vector<Vec3> ring;
        for (const auto& [x, z] : line) ring.push_back({x, halfSpan * j / stations, z});
        rings.push_back(ring);
    }
    shape::addLoft(s, "wing", rings, false, true);
    shape::orientFacets(s);
    return s;
}

inline shape::Surface sphere(double radius, int n) {
    shape::Surface s;
    shape::addSphere(s, "sphere", Vec3::Zero(), radius, n);
    shape::orientFacets(s);
    return s;
}

/// Cylinder along x with flat ends, its middle at the origin.
inline shape::Surface cylinder(double radius, double length, int around) {
    shape::Surface s;
    const double pi = std::acos(-1.0);
    std::vector<std::vector<Vec3>> rings;
    for (int j = 0; j <= 20; ++j) {
        std::vector<Vec3> ring;
        for (int i = 0; i < around; ++i)
            ring.push_back({length * (j / 20.0 - 0.5), radius * std::cos(2 * pi * i / around), radius * std::sin(2 * pi * i / around)});
        rings.push_back(ring);
    }
    shape::addLoft(s, "cylinder", rings, true, true);
    shape::orientFacets(s);
    return s;
}

/// Solid half ball, the round side towards the wind and its flat side at x = 0.
inline shape::Surface hemisphere(double radius, int n) {
    shape::Surface s;
    const double pi = std::acos(-1.0);
    std::vector<std::vector<Vec3>> rings;
    for (int j = 1; j <= n / 2; ++j) {
        std::vector<Vec3> ring;
        const double theta = 0.5 * pi * j / (n / 2);
        for (int i = 0; i < n; ++i) ring.push_back({-radius * std::cos(theta), radius * std::sin(theta) * std::cos(2 * pi * i / n), radius * std::sin(theta) * std::sin(2 * pi * i / n)});
        rings.push_back(ring);
    }
    shape::addLoft(s, "hemisphere", rings, true, true);
    shape::orientFacets(s);
    return s;
}

inline shape::Surface cube(double side) {
    shape::Surface s;
    const double h = 0.5 * side;
    std::vector<std::vector<Vec3>> rings{{{-h, -h, -h}, {-h, h, -h}, {-h, h, h}, {-h, -h, h}}, {{h, -h, -h}, {h, h, -h}, {h, h, h}, {h, -h, h}}};
    shape::addLoft(s, "cube", rings, true, true);
    shape::orientFacets(s);
    return s;
}

}  // namespace cvane::bench
