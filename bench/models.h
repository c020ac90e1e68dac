#pragma once
#include <cmath>
#include <complex>
#include <utility>
#include <vector>

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

/// Wing section from the map of Karman and Trefftz, z = n ((w + 1)^n + (w - 1)^n) / ((w + 1)^n - (w - 1)^n), w on a circle through
/// w = 1 with its middle at -shift, n = 2 - edgeAngle / pi; scaled to unit chord along x from 0. Its lift in potential flow is known.
struct MappedSection {
    double shift = 0.0, exponent = 2.0;
    static std::complex<double> map(std::complex<double> w, double n) {
        const auto a = std::pow(w + 1.0, n), b = std::pow(w - 1.0, n);
        return n * (a + b) / (a - b);
    }
    double leading() const { return map(-1.0 - 2.0 * shift, exponent).real(); }
    double chord() const { return exponent - leading(); }
    std::vector<std::pair<double, double>> line(int points) const {
        std::vector<std::pair<double, double>> xz;
        for (int i = 0; i < points; ++i) {
            const auto w = -shift + (1.0 + shift) * std::polar(1.0, 2.0 * std::acos(-1.0) * i / points);
            const auto z = i == 0 ? std::complex<double>(exponent) : map(w, exponent);
            xz.push_back({(z.real() - leading()) / chord(), z.imag() / chord()});
        }
        return xz;
    }
    /// cl = 8 pi (a / c) sin(alpha), from the circulation that lets the air leave the trailing edge smoothly.
    double lift(double alpha) const { return 8.0 * std::acos(-1.0) * (1.0 + shift) / chord() * std::sin(alpha); }
};

/// The section over y from -4 to 4.
inline shape::Surface sectionSlab(const MappedSection& section, int points) {
    shape::Surface s;
    std::vector<std::vector<Vec3>> rings;
    for (int j = 0; j <= 20; ++j) {
        std::vector<Vec3> ring;
        for (const auto& [x, z] : section.line(points)) ring.push_back({x, 8.0 * j / 20.0 - 4.0, z});
        rings.push_back(ring);
    }
    shape::addLoft(s, "section", rings, true, true);
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
